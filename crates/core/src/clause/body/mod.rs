//! Clauses about whether there is a body.

mod absent;
mod present;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&absent::CLAUSE, &present::CLAUSE];
