//! Clauses about errors inside of a success, where they are declared.

mod each_once;
mod entry_agrees;
mod faults_declared;
mod fits_case;
mod inner;
mod shape_declared;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] = &[
    &each_once::CLAUSE,
    &entry_agrees::CLAUSE,
    &faults_declared::CLAUSE,
    &fits_case::CLAUSE,
    &shape_declared::CLAUSE,
];
