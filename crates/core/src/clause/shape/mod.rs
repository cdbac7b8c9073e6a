//! Clauses about the agreed shape of a body.

mod kept;
mod one_kind;
mod one_naming_style;
mod one_time_format;
mod same_for_fault;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &kept::CLAUSE,
    &one_kind::CLAUSE,
    &one_naming_style::CLAUSE,
    &one_time_format::CLAUSE,
    &same_for_fault::CLAUSE,
];
