//! Clauses about what a request shows and whether it was heeded.

mod due;
mod refused;
mod served;

pub(super) use due::due;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&refused::CLAUSE, &served::CLAUSE];
