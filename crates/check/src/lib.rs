//! Checks exchanges against a contract.
//!
//! ```text
//! exchange ──classify──▶ classified exchange ──check──▶ findings ──enter──▶ ledger
//! ```
//!
//! [`classify`] finds out what an exchange is, [`clause`] has the catalogue of what must hold, [`ledger`] sums up, [`gate`]
//! decides what fails, and [`Check`] runs all of it over a recording.

pub mod classify;
pub mod clause;
pub mod disclosure;
pub mod gate;
pub mod grid;
pub mod ledger;
mod parse;
mod run;

pub use parse::{parse_contract, parse_contract_with_files};
pub use run::Check;
