//! The requests that must be refused, planned from the contract.
//!
//! A plan is for people who would send wrong requests by hand: malformed JSON, a missing field, each rule broken
//! alone, three fields wrong at once, no token, a method that is not offered, a path that leads nowhere. What
//! cannot be made up from the contract is not planned, and that is said.

mod bodies;
mod plan;
mod request;

pub use plan::ProbePlan;
pub use request::{PlannedRequest, ProbeCredentials};
