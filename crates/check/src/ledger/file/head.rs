//! What stands first in a ledger, and is looked at before the rest of it is read.

use serde::Deserialize;

use super::LedgerError;
use super::origin::LedgerSources;

/// The version of ledgers' formats. It goes up when a reader has to change.
pub const LEDGER_VERSION: u32 = 1;

/// What a ledger is, before anything else of it is read.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct LedgerHead {
    /// The format's name.
    pub format: String,
    /// The format's version.
    pub version: u64,
    /// The service, by its contract's name for it.
    pub service: Option<String>,
    /// The digest of the contract that it was made by.
    pub contract: String,
}

impl LedgerHead {
    /// The head of a ledger of some format, if it can be read here. One of another version may look otherwise, so nothing
    /// else is asked for.
    ///
    /// # Errors
    /// Where the text is no ledger, or of another format or version.
    pub fn read(text: &str, format: &str) -> Result<Self, LedgerError> {
        let head: Self = parsed(text)?;
        if head.format != format {
            return Err(LedgerError::NotALedger(format!("its `format` is {:?}", head.format)));
        }
        if head.version != u64::from(LEDGER_VERSION) {
            return Err(LedgerError::Version(head.version));
        }
        Ok(head)
    }
}

impl LedgerSources {
    /// What a ledger is of, and nothing else of it.
    ///
    /// # Errors
    /// Where the text is no ledger.
    pub fn read(text: &str) -> Result<Self, LedgerError> {
        parsed(text)
    }
}

/// The text of a ledger, as what is asked for.
pub(super) fn parsed<'t, T: Deserialize<'t>>(text: &'t str) -> Result<T, LedgerError> {
    serde_json::from_str(text).map_err(|error| LedgerError::NotALedger(error.to_string()))
}
