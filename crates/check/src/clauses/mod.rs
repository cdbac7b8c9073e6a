//! The catalogue of clauses: one file a clause, laid out by family.
//!
//! A clause is plain data with one function that checks a classified exchange. `fclerk explain`, the reference and
//! the tests are all made from that data. To add a clause, write its file and name it in the two lines of its family's
//! `mod.rs`.

mod basis;
mod body;
mod catalogue;
mod check_exchange;
mod code;
mod comparing;
mod contracts;
mod definition;
mod disclosure;
mod example;
mod exchange;
mod header;
mod language;
mod media;
mod partial;
mod problem;
mod set;
mod shape;
mod situation;
mod source;
mod status;
mod success;
mod validation;

pub use basis::Basis;
pub use catalogue::{catalogue, clause};
pub use check_exchange::{
    ClauseOutcome, ExchangeResult, Findings, NewFinding, Observation, check_exchange,
};
pub use definition::{AppliesTo, Clause};
pub use example::{Example, HARBOUR, exchange};
pub use set::{COUNT, ClauseSet, index_of};
pub use source::RuleSource;
