//! One exchange, laid out for reading: what was asked, what came back, and the findings at the very line
//! that they concern.
//!
//! As JSON it is one object, format `fclerk show`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk show"` and 1 |
//! | `address` | `FILE#N` |
//! | `request` | `method`, `url`, `headers` (a list of `name`, `value`), `body` (JSON, or string, or null) |
//! | `answer` | null where none came, else `status`, `headers`, `body` |
//! | `milliseconds` | how long it took, or null |
//! | `aside` | why it is none of the service's, or null |
//! | `endpoint` | the endpoint, or null |
//! | `situations` | a list: `situation`, and what shows it (`by`) |
//! | `findings` | a list: `clause`, `weight`, `place`, `agreed`, `seen`, `note`; null where there is no contract |
//! | `faults` | the faults that would have been right |
//! | `agreed` | null, or the answer as it should have been: `fault`, `status`, `headers`, `body` |
//!
//! Secrets are masked in all of them.

mod body;
mod page;
mod raw;
mod view;
mod wire;

pub(crate) use body::{BodyLayout, read};
pub(crate) use page::{ExchangeParts, parts};
pub use page::{markdown, terminal};
pub use raw::raw;
pub(crate) use view::header_value;
pub use view::{ContractView, ExchangeView};
pub use wire::json;
