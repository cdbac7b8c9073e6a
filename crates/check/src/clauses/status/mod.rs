//! Clauses about status codes.

mod body_agrees;
mod declared;
mod fits_situation;
mod one_for_fault;
mod redirect_declared;
mod registered;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &body_agrees::CLAUSE,
    &declared::CLAUSE,
    &fits_situation::CLAUSE,
    &one_for_fault::CLAUSE,
    &redirect_declared::CLAUSE,
    &registered::CLAUSE,
];
