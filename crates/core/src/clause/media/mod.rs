//! Clauses about media types.

mod declared;
mod matches_body;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[&declared::CLAUSE, &matches_body::CLAUSE];
