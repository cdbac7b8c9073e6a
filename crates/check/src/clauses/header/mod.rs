//! Clauses about header fields.

mod accept_hint;
mod allow;
mod challenge;
mod challenge_error;
mod content_range;
mod declared;
mod not_stored;
mod retry_after;
mod upgrade;
mod vary;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &accept_hint::CLAUSE,
    &allow::CLAUSE,
    &challenge::CLAUSE,
    &challenge_error::CLAUSE,
    &content_range::CLAUSE,
    &declared::CLAUSE,
    &not_stored::CLAUSE,
    &retry_after::CLAUSE,
    &upgrade::CLAUSE,
    &vary::CLAUSE,
];
