//! Clauses about the members of problem details (RFC 9457).

mod detail_helps;
mod extension_declared;
mod extension_name;
mod instance_is_uri;
mod is_object;
mod meant;
mod member_type;
mod near_miss;
mod no_placeholders;
mod required_members;
mod status_agrees;
mod title_declared;
mod title_phrase;
mod title_stable;
mod type_absolute;
mod type_declared;
mod type_is_uri;
mod type_status;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &detail_helps::CLAUSE,
    &extension_declared::CLAUSE,
    &extension_name::CLAUSE,
    &instance_is_uri::CLAUSE,
    &is_object::CLAUSE,
    &member_type::CLAUSE,
    &near_miss::CLAUSE,
    &no_placeholders::CLAUSE,
    &required_members::CLAUSE,
    &status_agrees::CLAUSE,
    &title_declared::CLAUSE,
    &title_phrase::CLAUSE,
    &title_stable::CLAUSE,
    &type_absolute::CLAUSE,
    &type_declared::CLAUSE,
    &type_is_uri::CLAUSE,
    &type_status::CLAUSE,
];
