//! Reads recorded HTTP exchanges of a JSON service and judges them against an error contract.
//!
//! Everything that is computed is computed here; nothing is printed, and there is no clock, no
//! environment and no network. Data flows one way:
//!
//! ```text
//! recording ──read──▶ exchange ──place──▶ placed exchange ──judge──▶ findings ──enter──▶ ledger
//! ```
//!
//! The three types to know are [`Contract`], which says what was agreed, [`Placed`], an exchange of
//! which is known what it is, and [`Ledger`], the sum of a check.
//!
//! ```
//! use faithful_clerk_core::{Check, Contract, Source, Weight};
//!
//! let contract = r#"
//! contract = 1
//! [error]
//! media = "application/problem+json"
//! [fault.no-such-berth]
//! status = 404
//! title = "There is no such berth"
//! [endpoint."GET /berths/{id}"]
//! success = [200]
//! faults = ["no-such-berth"]
//! "#;
//! let har = r#"{"log":{"entries":[{
//!     "request": {"method": "GET", "url": "https://harbour.example/berths/Z-99"},
//!     "response": {"status": 404, "headers": [{"name": "Content-Type", "value": "text/html"}],
//!                  "content": {"text": "<h1>Not Found</h1>"}}
//! }]}}"#;
//!
//! let contract = Contract::read(contract).contract.expect("the contract has no mistakes");
//! let mut ledger = Check::new(&contract).recording(Source::of(har.as_bytes()), 0);
//! ledger.conclude(&contract);
//! assert_eq!(ledger.judged, 1);
//! assert_eq!(ledger.count(Weight::Breach), 1);
//! ```
#![deny(missing_docs, unsafe_code)]

pub mod address;
pub mod classify;
pub mod clause;
pub mod compare;
pub mod contract;
pub mod coverage;
pub mod disclosure;
pub mod draft;
pub mod exchange;
pub mod finding;
pub mod gate;
pub mod grid;
pub mod handbook;
pub mod headers;
pub mod invisible;
pub mod json;
pub mod ledger;
pub mod media;
mod openapi;
pub mod pointer;
pub mod probe;
pub mod recording;
pub mod run;
pub mod sample;
pub mod schema;
pub mod scrub;
pub mod secret;
pub mod shape;
pub mod situation;
pub mod status;
pub mod survey;

pub use address::{Address, Location, RecordingNames, absolute};
pub use classify::{Classification, Classified};
pub use clause::{Basis, Clause, catalogue, clause};
pub use contract::Scope;
pub use contract::{Contract, Diagnostic, DiagnosticSeverity, ParsedContract};
pub use exchange::Exchange;
pub use finding::{Finding, Severity};
pub use gate::{Gate, GateResult};
pub use grid::{CellMark, Grid};
pub use ledger::Ledger;
pub use recording::{
    Format, ReadOptions, RecordingWriter, Source, Unreadable, UnreadableParts, WriteSummary,
    recognise, unpack,
};
pub use run::{Check, Traversal, Visitor};
pub use schema::{FileLoader, NoFiles};
pub use situation::Situation;
