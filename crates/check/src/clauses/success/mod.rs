//! Clauses about successes: what no error may do to them.

mod flag_agrees;
mod json_api;
mod media_declared;
mod no_error_inside;
mod shape_declared;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &flag_agrees::CLAUSE,
    &json_api::CLAUSE,
    &media_declared::CLAUSE,
    &no_error_inside::CLAUSE,
    &shape_declared::CLAUSE,
];
