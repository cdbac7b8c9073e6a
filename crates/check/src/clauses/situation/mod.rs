//! Clauses about what a request shows and whether it was heeded.

mod due;
mod requires_error;
mod valid_served;

use super::Clause;
pub(super) use due::due;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&requires_error::CLAUSE, &valid_served::CLAUSE];
