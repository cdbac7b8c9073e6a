//! Every clause there is, family by family.

use super::definition::Clause;
use super::{
    body, code, disclosure, exchange, header, language, media, partial, problem, shape, situation,
    status, success, validation,
};

/// All families, in the order of their names.
pub(super) const FAMILIES: [&[&Clause]; 14] = [
    body::CLAUSES,
    code::CLAUSES,
    disclosure::CLAUSES,
    exchange::CLAUSES,
    header::CLAUSES,
    language::CLAUSES,
    media::CLAUSES,
    partial::CLAUSES,
    problem::CLAUSES,
    shape::CLAUSES,
    situation::CLAUSES,
    status::CLAUSES,
    success::CLAUSES,
    validation::CLAUSES,
];

/// Every clause, sorted by name.
pub fn catalogue() -> impl Iterator<Item = &'static Clause> {
    FAMILIES.iter().flat_map(|family| family.iter().copied())
}

/// The clause of that name.
#[must_use]
pub fn clause(name: &str) -> Option<&'static Clause> {
    catalogue().find(|clause| clause.name == name)
}
