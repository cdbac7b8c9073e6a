//! What a clause is.

use super::{Basis, ClauseOutcome, Example, Findings};
use crate::classify::Classified;
use faithful_clerk_model::finding::Severity;

/// One thing that must hold.
#[derive(Debug)]
pub struct Clause {
    /// `family.what-holds`.
    pub name: &'static str,
    /// What holds, in one sentence.
    pub statement: &'static str,
    /// What it rests on.
    pub basis: &'static [Basis],
    /// The default severity of its findings.
    pub severity: Severity,
    /// What it checks.
    pub applies_to: AppliesTo,
    /// Why it matters to somebody who calls the service.
    pub reason: &'static str,
    /// How to fix a service that breaks it.
    pub fix: &'static str,
    /// Checks one exchange. What compares exchanges notes what it saw, and the ledger concludes.
    pub check: fn(&Classified<'_>, &mut Findings) -> ClauseOutcome,
    /// Exchanges that keep it, each with those beside it.
    pub met: &'static [Example],
    /// Exchanges that break it, with what is found.
    pub broken: &'static [Example],
}

/// What a clause checks; others are not shown to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AppliesTo {
    /// Every exchange.
    Exchanges,
    /// Every response that came.
    Responses,
    /// Every response with a status below 400.
    Successes,
    /// Every response with a status of 400 or above.
    Errors,
    /// Every error response that is meant to be problem details and is JSON.
    Problems,
}
