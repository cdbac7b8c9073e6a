//! Clauses about whether a response.

mod complete;
mod has_response;
mod in_time;
mod same_across_environments;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &complete::CLAUSE,
    &has_response::CLAUSE,
    &in_time::CLAUSE,
    &same_across_environments::CLAUSE,
];
