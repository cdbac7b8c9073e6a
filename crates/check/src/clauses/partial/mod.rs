//! Clauses about errors inside of a success, where they are declared.

mod each_once;
mod faults_declared;
mod inner;
mod shape_declared;

use super::Clause;

/// The family's clauses, sorted by name.
pub(super) const CLAUSES: &[&Clause] =
    &[&each_once::CLAUSE, &faults_declared::CLAUSE, &shape_declared::CLAUSE];
