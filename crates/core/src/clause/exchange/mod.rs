//! Clauses about whether an answer came.

mod answered;
mod complete;
mod in_time;
mod same_everywhere;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] =
    &[&answered::CLAUSE, &complete::CLAUSE, &in_time::CLAUSE, &same_everywhere::CLAUSE];
