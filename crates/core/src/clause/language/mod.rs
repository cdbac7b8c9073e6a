//! Clauses about the languages of titles and details.

mod asked_for;
mod labelled;
mod same_codes;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] =
    &[&asked_for::CLAUSE, &labelled::CLAUSE, &same_codes::CLAUSE];
