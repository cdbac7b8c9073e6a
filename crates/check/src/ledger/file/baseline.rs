//! What was found before, to tell what is new.

use std::collections::BTreeSet;

use serde::Deserialize;

use super::head::parsed;
use super::wire::WireFound;
use super::{CHECK_LEDGER, LedgerError, LedgerHead};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::finding::Severity;

/// What a ledger that was written down had found.
#[derive(Debug, Clone, Default)]
pub struct Baseline {
    /// Was it made by the very same contract?
    pub same_contract: bool,
    fingerprints: BTreeSet<String>,
    more: BTreeSet<(String, String, String)>,
}

impl Baseline {
    /// Reads what a file that [`crate::ledger::Ledger::save`] wrote had found. The contract may have changed since.
    ///
    /// # Errors
    /// Where it is none, or one of another service.
    pub fn read(text: &str, contract: &ErrorContract) -> Result<Self, LedgerError> {
        #[derive(Deserialize)]
        struct BaselineFile {
            found: WireFound,
        }
        let head = LedgerHead::read(text, CHECK_LEDGER)?;
        let same_contract = head.contract == contract.digest;
        if !same_contract && head.service != contract.service {
            return Err(LedgerError::OtherService(head.service));
        }
        let BaselineFile { found } = parsed(text)?;
        let more = found.more.into_iter().map(|more| (more.row, more.clause, more.severity));
        let fingerprints = found.fingerprints.into_keys().collect();
        Ok(Self { same_contract, fingerprints, more: more.collect() })
    }

    /// Was a finding with that fingerprint there?
    #[must_use]
    pub fn knows(&self, fingerprint: &str) -> bool {
        self.fingerprints.contains(fingerprint)
    }

    /// Were there findings of that clause in that row that were only counted?
    #[must_use]
    pub fn knows_more(&self, row: &str, clause: &str, severity: Severity) -> bool {
        self.more.contains(&(row.to_owned(), clause.to_owned(), severity.name().to_owned()))
    }
}
