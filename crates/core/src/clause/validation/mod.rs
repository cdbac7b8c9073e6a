//! Clauses about errors that report invalid input.

mod complete;
mod pointer_resolves;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&complete::CLAUSE, &pointer_resolves::CLAUSE];
