//! Clauses about the members of problem details (RFC 9457).

mod is_object;
mod meant;
mod member_type;
mod near_miss;
mod required_members;
mod status_agrees;
mod title_declared;
mod type_declared;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &is_object::CLAUSE,
    &member_type::CLAUSE,
    &near_miss::CLAUSE,
    &required_members::CLAUSE,
    &status_agrees::CLAUSE,
    &title_declared::CLAUSE,
    &type_declared::CLAUSE,
];
