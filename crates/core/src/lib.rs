//! Faithful Clerk's computation as a library: recorded HTTP exchanges of a JSON service are checked against a declared
//! error contract.
//!
//! No files, no clock, no network: texts and readers go in, data comes out.
//!
//! - [`Contract::parse`] parses a contract; [`ContractErrors`] has line and column of every error.
//! - [`check_exchange`] checks one request and its response in memory, as a service's own tests have them.
//! - [`check`] checks whole recordings; [`coverage`] says which situations they provoke.
//! - [`survey`] says what recordings show without any contract, [`draft`] makes a contract of it.
//! - [`compare`] compares two sets of recordings of the same requests.
//! - [`read_exchanges`] reads recordings of any form, for what is not here.
//! - [`clauses`] and [`clause`] give everything that can be checked, with its source.
//!
//! ```
//! use faithful_clerk_core::{Contract, Recording, Severity, check};
//!
//! let contract = Contract::parse(
//!     r#"
//!     contract = 1
//!     servers = ["https://harbour.example/v1"]
//!     [error]
//!     media = "application/problem+json"
//!     [fault.unknown-berth]
//!     status = 404
//!     when = ["resource-not-found"]
//!     [endpoint."GET /berths/{id}"]
//!     faults = ["unknown-berth"]
//!     "#,
//! )?;
//! let recording = "GET /v1/berths/Z-9 HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
//!     HTTP/1.1 404 Not Found\r\nContent-Type: text/html\r\nContent-Length: 6\r\n\r\n<html>";
//! let result = check(&contract, [Recording::new("berths.http", recording.as_bytes())]);
//! assert_eq!(result.checked(), 1);
//! assert!(result.count(Severity::Breach) > 0);
//! assert!(result.findings().any(|finding| finding.clause == "media.declared"));
//! # Ok::<(), faithful_clerk_core::ContractErrors>(())
//! ```
//!
//! # Features
//!
//! Both are on unless `default-features = false`.
//!
//! - `compression`: reads recordings compressed with gzip, zstd or brotli, and undoes content codings. Without it they
//!   are reported as unreadable.
//! - `json-schema`: contracts that name a JSON Schema or an OpenAPI description with schemas. Without it, such a contract
//!   does not parse, and the error says why.

mod check;
mod comparison;
mod contract;
mod in_memory;
mod recording;
mod survey;

pub use check::{CheckResult, EndpointFinding, check, coverage};
pub use comparison::{ComparedChange, ComparisonResult, compare};
pub use contract::{Contract, ContractError, ContractErrors, ContractFiles};
pub use in_memory::{ExchangeCheck, check_exchange};
pub use recording::{ReadError, Recording, read_exchanges, read_exchanges_with};
pub use survey::{SurveyResult, draft, survey};

pub use faithful_clerk_check::clauses::{Basis, Clause, catalogue as clauses, clause};
pub use faithful_clerk_insight::compare::{Change, ComparisonKind, Grade, PairCounts};
pub use faithful_clerk_insight::coverage::CellCounts;
pub use faithful_clerk_insight::draft::Draft;
pub use faithful_clerk_insight::survey::{EndpointStatus, SurveyedEndpoint};
pub use faithful_clerk_model::address::{Address, Location};
pub use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody,
};
pub use faithful_clerk_model::finding::{Because, Expected, Finding, Got, NotChecked, Severity};
pub use faithful_clerk_model::headers::Headers;
pub use faithful_clerk_model::situation::Situation;
pub use faithful_clerk_recording::{Format, ReadOptions};
