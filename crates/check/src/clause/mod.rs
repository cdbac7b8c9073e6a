//! The catalogue of clauses: one file a clause, laid out by family.
//!
//! A clause is plain data with one function that judges a placed exchange. What is in it is all there
//! is: `fclerk explain`, the reference and the tests are made from the same text. To add one, write
//! its file and name it in the two lines of its family's `mod.rs`.

mod basis;
mod body;
mod code;
mod contracts;
mod definition;
mod disclosure;
mod example;
mod exchange;
mod header;
mod judge;
mod language;
mod media;
mod partial;
mod problem;
mod set;
mod shape;
mod sights;
mod situation;
mod status;
mod success;
mod validation;

pub use basis::Basis;
pub use definition::{AppliesTo, Clause};
pub use example::{Example, HARBOUR, exchange};
pub use judge::{ClauseOutcome, ExchangeResult, Findings, NewFinding, Observation, check_exchange};
pub use set::{COUNT, ClauseSet, index_of};

/// All families, in the order of their names.
const FAMILIES: [&[&Clause]; 14] = [
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
