//! Clauses about what must not be told.

mod stack_trace;
mod traces;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&stack_trace::CLAUSE];
