//! Clauses about media types.

mod alternatives_listed;
mod declared;
mod documented;
mod matches_body;
mod parameters;
mod present;
mod utf_8;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &alternatives_listed::CLAUSE,
    &declared::CLAUSE,
    &documented::CLAUSE,
    &matches_body::CLAUSE,
    &parameters::CLAUSE,
    &present::CLAUSE,
    &utf_8::CLAUSE,
];
