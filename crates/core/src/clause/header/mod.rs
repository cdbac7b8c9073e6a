//! Clauses about header fields.

mod allow;
mod challenge;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&allow::CLAUSE, &challenge::CLAUSE];
