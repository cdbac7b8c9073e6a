//! Clauses about the agreed shape of a body.

mod declared;
mod documented;
mod one_json_type;
mod one_naming_style;
mod one_time_format;
mod same_for_fault;

pub(super) use documented::compare_with_documented;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &declared::CLAUSE,
    &one_json_type::CLAUSE,
    &one_naming_style::CLAUSE,
    &one_time_format::CLAUSE,
    &same_for_fault::CLAUSE,
];
