//! One exchange, laid out for reading: the request, the response, and the findings at the very line
//! that they are about.
//!
//! As JSON it is one object, format `fclerk show`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk show"` and 1 |
//! | `address` | `FILE#N` |
//! | `request` | `method`, `url`, `headers` (an array of `name`, `value`), `body` (JSON, or string, or null) |
//! | `response` | null where none came, else `status`, `headers`, `body` |
//! | `milliseconds` | how long it took, or null |
//! | `excluded` | why it is none of the service's, or null |
//! | `endpoint` | the endpoint, or null |
//! | `situations` | an array: `situation`, and its `evidence` |
//! | `findings` | an array: `clause`, `severity`, `location`, `expected`, `got`, `because`, `not_checked`; null where there is no contract |
//! | `faults` | the faults that are expected |
//! | `expected` | null, or the response as it should have been: `fault`, `status`, `headers`, `body` |
//!
//! Secrets are masked in all of them.

mod body;
mod page;
mod raw;
mod view;
mod wire;

pub use body::hidden_bodies;
pub(crate) use body::{BodyLayout, read_response};
pub(crate) use page::{ExchangeParts, parts};
pub use page::{markdown, terminal};
pub use raw::raw;
pub(crate) use view::header_value;
pub use view::{ContractView, ExchangeView};
pub use wire::json;
