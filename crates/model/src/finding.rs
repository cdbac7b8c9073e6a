//! Findings: one clause broken at one place.

use crate::address::{Address, Location};

/// How much a finding counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// It breaks the contract or a MUST.
    Breach,
    /// It falls short of a SHOULD.
    Warning,
    /// It is worth knowing.
    Note,
}

impl Severity {
    /// The word for it, in a contract and in every output.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Breach => "breach",
            Self::Warning => "warning",
            Self::Note => "note",
        }
    }
}

/// One clause broken at one place of one exchange.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize)]
pub struct Finding {
    /// The clause's name.
    pub clause: &'static str,
    /// How much it counts here.
    pub severity: Severity,
    /// Which exchange.
    pub address: Address,
    /// Where in it.
    pub location: Location,
    /// What was expected, or what the standard asks.
    pub expected: String,
    /// What was seen.
    pub got: String,
    /// What else there is to know, such as what could not be checked because of it.
    pub because: Option<String>,
    /// An exchange in which it is as agreed, where exchanges were compared.
    pub conforming: Option<Address>,
}
