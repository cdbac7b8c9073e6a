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
mod wire;

pub(crate) use body::{BodyLayout, read};
pub(crate) use page::{ExchangeParts, parts};
pub use page::{markdown, terminal};
pub use raw::raw;
pub use wire::json;

use std::borrow::Cow;

use faithful_clerk_check::classify::Classified;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::finding::Finding;
use faithful_clerk_model::secret::is_secret_name;
use faithful_clerk_model::secret::mask::masked;

/// An exchange and what is known of it.
#[derive(Debug)]
pub struct ExchangeView<'v> {
    /// Its address, `FILE#N`.
    pub address: String,
    /// The exchange.
    pub exchange: &'v Exchange<'v>,
    /// What a contract makes of it.
    pub known: ContractView<'v>,
}

/// What a contract makes of an exchange.
#[derive(Debug)]
pub enum ContractView<'v> {
    /// There is no contract.
    Nothing,
    /// It is none of the service's, and why.
    Excluded(&'static str),
    /// It was judged.
    Checked(Box<Classified<'v>>, Vec<Finding>),
}

/// A header's value with its secrets masked; of credentials only the scheme is left.
pub(crate) fn header_value<'h>(name: &str, value: &'h str) -> Cow<'h, str> {
    if !is_secret_name(name) {
        return masked(value);
    }
    match value.split_once(' ') {
        Some((scheme, _)) if scheme.chars().all(|c| c.is_ascii_alphanumeric() || c == '-') => {
            Cow::Owned(format!("{scheme} ***"))
        }
        _ => Cow::Borrowed("***"),
    }
}
