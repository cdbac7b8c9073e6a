//! The gate: which findings let a check fail.

use std::collections::BTreeMap;

use crate::ledger::fingerprint::of_unused;
use crate::ledger::{Baseline, EndpointRow, FindingKey, Ledger, StaleWaiver, fingerprint};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::finding::Severity;

/// Which findings let a check fail; the default is every breach.
#[derive(Debug, Clone, Copy)]
pub struct Gate<'b> {
    /// The least severity that does.
    pub fail_on: Severity,
    /// What was there before, and does not.
    pub baseline: Option<&'b Baseline>,
}

impl Default for Gate<'_> {
    fn default() -> Self {
        Self { fail_on: Severity::Breach, baseline: None }
    }
}

/// The findings of a check, as a gate sees them.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct GateResult {
    /// How many are new, by severity; all of them where there is nothing to compare with.
    pub new: BTreeMap<Severity, u64>,
    /// How many were there before.
    pub known: u64,
    /// How many let the check fail.
    pub failing: u64,
}

impl Gate<'_> {
    /// Was the finding there before?
    #[must_use]
    pub fn is_known(&self, row: &str, key: &FindingKey) -> bool {
        self.baseline.is_some_and(|since| since.knows(&fingerprint(row, key)))
    }

    /// Does it let a check fail?
    #[must_use]
    pub fn fails(&self, row: &str, key: &FindingKey) -> bool {
        key.severity <= self.fail_on && !self.is_known(row, key)
    }

    /// Findings that are only counted have no text: they are known if there were such before.
    #[must_use]
    pub fn is_more_known(&self, row: &str, clause: &str, severity: Severity) -> bool {
        self.baseline.is_some_and(|since| since.knows_more(row, clause, severity))
    }

    /// Counts the findings of a ledger that was concluded.
    #[must_use]
    pub fn passing(&self, contract: &ErrorContract, ledger: &Ledger) -> GateResult {
        let mut passing = GateResult::default();
        let mut count = |weight: Severity, count: u64, is_known: bool| {
            if is_known {
                passing.known += count;
                return;
            }
            *passing.new.entry(weight).or_default() += count;
            if weight <= self.fail_on {
                passing.failing += count;
            }
        };
        for ((row, clause), entries) in &ledger.findings {
            let row = EndpointRow::name(row, contract);
            for (key, entry) in &entries.kept {
                count(key.severity, entry.count, self.is_known(&row, key));
            }
            for (weight, more) in &entries.more {
                count(*weight, *more, self.is_more_known(&row, clause, *weight));
            }
        }
        // One that has expired is for whoever set its day.
        for (at, stale) in &ledger.stale {
            let unused = contract.waivers.get(*at).filter(|_| *stale == StaleWaiver::Unused);
            let is_known = unused.is_some_and(|waiver| {
                self.baseline.is_some_and(|since| since.knows(&of_unused(waiver, contract)))
            });
            count(stale.weight(), 1, is_known);
        }
        passing
    }
}
