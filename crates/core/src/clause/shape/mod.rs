//! Clauses about the agreed shape of a body.

mod kept;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&kept::CLAUSE];
