//! Clauses about errors that report invalid input.

mod code_declared;
mod complete;
mod input;
mod location_given;
mod location_style;
mod no_duplicates;
mod one_location_style;
mod one_shape;
mod only_invalid;
mod pointer_resolves;
mod pointer_syntax;
mod reason_given;
mod violation_form;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &code_declared::CLAUSE,
    &complete::CLAUSE,
    &location_given::CLAUSE,
    &location_style::CLAUSE,
    &no_duplicates::CLAUSE,
    &one_location_style::CLAUSE,
    &one_shape::CLAUSE,
    &only_invalid::CLAUSE,
    &pointer_resolves::CLAUSE,
    &pointer_syntax::CLAUSE,
    &reason_given::CLAUSE,
];
