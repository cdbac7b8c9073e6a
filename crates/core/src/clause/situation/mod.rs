//! Clauses about what a request shows and whether it was heeded.

mod due;
mod refused;
mod served;

use super::Clause;
pub(super) use due::due;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&refused::CLAUSE, &served::CLAUSE];
