//! What a clause is.

use super::{Basis, ClauseOutcome, Example, Findings};
use crate::finding::Severity;
use crate::place::Classified;

/// One thing that must hold.
#[derive(Debug)]
pub struct Clause {
    /// `family.what-holds`.
    pub name: &'static str,
    /// What holds, in one sentence.
    pub statement: &'static str,
    /// Why it is asked.
    pub basis: &'static [Basis],
    /// What its findings usually weigh.
    pub weight: Severity,
    /// What it judges.
    pub of: AppliesTo,
    /// Why it matters to somebody who calls the service.
    pub reason: &'static str,
    /// How to mend a service that breaks it.
    pub mending: &'static str,
    /// Judges one exchange. What compares exchanges notes what it saw, and the ledger concludes.
    pub judge: fn(&Classified<'_>, &mut Findings) -> ClauseOutcome,
    /// Exchanges that keep it, each with those beside it.
    pub kept: &'static [Example],
    /// Exchanges that break it, with what is found.
    pub broken: &'static [Example],
}

/// What a clause judges; others are not shown to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AppliesTo {
    /// Every exchange.
    Exchanges,
    /// Every answer that came.
    Answers,
    /// Every answer with a status below 400.
    Successes,
    /// Every answer with a status of 400 or above.
    Errors,
    /// Every error answer that is meant to be problem details and is JSON.
    Problems,
}
