//! What a view of one exchange is made from.

use faithful_clerk_check::classify::Classified;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::finding::Finding;
use faithful_clerk_model::secret::is_secret_name;
use faithful_clerk_model::secret::mask::masked;
use std::borrow::Cow;

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
    /// It was checked.
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
