//! How much a finding counts.

use serde::{Deserialize, Serialize};

/// How much a finding counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
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
