//! Clauses about the languages of titles and details.

mod labelled;
mod negotiated;
mod same_codes;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] =
    &[&labelled::CLAUSE, &negotiated::CLAUSE, &same_codes::CLAUSE];
