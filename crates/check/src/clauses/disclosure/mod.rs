//! Clauses about what must not be told.

mod code_name;
mod database;
mod debug_page;
mod environment;
mod file_path;
mod network;
mod secret;
mod stack_trace;
mod told;
mod version;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &code_name::CLAUSE,
    &database::CLAUSE,
    &debug_page::CLAUSE,
    &environment::CLAUSE,
    &file_path::CLAUSE,
    &network::CLAUSE,
    &secret::CLAUSE,
    &stack_trace::CLAUSE,
    &version::CLAUSE,
];
