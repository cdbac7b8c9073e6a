//! Clauses about whether there is a body.

mod absent;
mod conflict_named;
mod explains;
mod no_json_in_string;
mod no_markup;
mod present;
mod short_echo;
mod texts;
mod title_declared;
mod unique_names;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &absent::CLAUSE,
    &conflict_named::CLAUSE,
    &explains::CLAUSE,
    &no_json_in_string::CLAUSE,
    &no_markup::CLAUSE,
    &present::CLAUSE,
    &short_echo::CLAUSE,
    &title_declared::CLAUSE,
    &unique_names::CLAUSE,
];
