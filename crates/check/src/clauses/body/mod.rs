//! Clauses about whether there is a body.

mod absent;
mod conflict_named;
mod explains;
mod present;
mod unique_names;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &absent::CLAUSE,
    &conflict_named::CLAUSE,
    &explains::CLAUSE,
    &present::CLAUSE,
    &unique_names::CLAUSE,
];
