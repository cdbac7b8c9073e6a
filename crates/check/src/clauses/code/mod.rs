//! Clauses about application codes.

mod declared;
mod fits_fault;
mod no_lookalike;
mod one_meaning;
mod one_status;
mod place;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &declared::CLAUSE,
    &fits_fault::CLAUSE,
    &no_lookalike::CLAUSE,
    &one_meaning::CLAUSE,
    &one_status::CLAUSE,
];
