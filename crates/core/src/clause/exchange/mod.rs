//! Clauses about whether an answer came.

mod answered;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&answered::CLAUSE];
