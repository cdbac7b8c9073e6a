//! Checks exchanges against a contract.
//!
//! ```text
//! exchange ──classify──▶ classified exchange ──check──▶ findings ──enter──▶ ledger
//! ```
//!
//! [`classify`] finds out what an exchange is, [`clauses`] has the catalogue of what must hold, [`ledger`] sums up, [`gate`]
//! decides what fails, and [`Check`] runs all of it over a recording.

mod body;
pub mod classify;
pub mod clauses;
pub mod disclosure;
pub mod gate;
pub mod grid;
pub mod latest;
pub mod ledger;
mod observer;
mod parse;
mod run;

pub use body::{CUT, ParsedBody};
pub use observer::{CheckObserver, CheckedExchange, CredentialAssumption, ObservedRecording};
pub use parse::{parse_contract, parse_contract_with_files};
pub use run::Check;
