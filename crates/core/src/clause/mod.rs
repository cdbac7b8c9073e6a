//! The catalogue of clauses: one file a clause, laid out by family.
//!
//! A clause is plain data with one function that judges a placed exchange. What is in it is all there
//! is: `fclerk explain`, the reference and the tests are made from the same text. To add one, write
//! its file and name it in the two lines of its family's `mod.rs`.

mod basis;
mod body;
mod disclosure;
mod example;
mod exchange;
mod header;
mod judge;
mod media;
mod problem;
mod shape;
mod situation;
mod status;
mod validation;

pub use basis::Basis;
pub use example::{Example, Expected, HARBOUR};
pub use judge::{Findings, Found, Judged, Judgement, judge};

use crate::finding::Weight;
use crate::place::Placed;

/// One thing that must hold.
#[derive(Debug)]
pub struct Clause {
    /// `family.what-holds`.
    pub name: &'static str,
    /// What holds, in one sentence.
    pub statement: &'static str,
    /// Why it is asked.
    pub basis: &'static [Basis],
    /// What its findings usually weigh.
    pub weight: Weight,
    /// What it judges.
    pub of: Of,
    /// Why it matters to somebody who calls the service.
    pub reason: &'static str,
    /// How to mend a service that breaks it.
    pub mending: &'static str,
    /// Judges one exchange.
    pub judge: fn(&Placed<'_>, &mut Findings) -> Judged,
    /// Exchanges that keep it.
    pub kept: &'static [Example],
    /// Exchanges that break it, with what is found.
    pub broken: &'static [Example],
}

/// What a clause judges; others are not shown to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Of {
    /// Every exchange.
    Exchanges,
    /// Every answer that came.
    Answers,
    /// Every answer with a status of 400 or above.
    Errors,
    /// Every error answer that is meant to be problem details and is JSON.
    Problems,
}

/// All families, in the order of their names.
const FAMILIES: [&[&Clause]; 10] = [
    body::CLAUSES,
    disclosure::CLAUSES,
    exchange::CLAUSES,
    header::CLAUSES,
    media::CLAUSES,
    problem::CLAUSES,
    shape::CLAUSES,
    situation::CLAUSES,
    status::CLAUSES,
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
