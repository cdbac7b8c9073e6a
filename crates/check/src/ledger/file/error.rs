//! What keeps a ledger from being read.

use super::head::LEDGER_VERSION;

/// Why a text can't be used as a ledger.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LedgerError {
    /// It is no ledger; the text says what was expected and what came.
    NotALedger(String),
    /// It was written by a program of another time.
    Version(u64),
    /// It was made by another contract.
    OtherContract,
    /// It was made for another service, by its contract's name.
    OtherService(Option<String>),
    /// It names something that is not known here: what, and its name.
    Unknown(&'static str, String),
}

impl std::fmt::Display for LedgerError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::NotALedger(why) => write!(f, "this is not a ledger of this program: {why}"),
            Self::Version(version) => {
                write!(
                    f,
                    "it is a ledger of version {version}, and this program reads {LEDGER_VERSION}"
                )
            }
            Self::OtherContract => f.write_str(
                "it was made with another contract or description: the text, or a file that it names, differs",
            ),
            Self::OtherService(Some(name)) => write!(f, "it was made for another service, {name}"),
            Self::OtherService(None) => f.write_str("it was made for a service without a name"),
            Self::Unknown(what, name) => write!(f, "it names an unknown {what}, {name}"),
        }
    }
}

impl std::error::Error for LedgerError {}
