//! Plans requests that the service must reject, from the contract.
//!
//! A plan has what people would otherwise send by hand: malformed JSON, a missing field, each rule broken on its own,
//! three fields invalid at once, no token, a method that is not offered, an unknown route. What
//! cannot be derived from the contract is not planned, and the plan says so.

mod bodies;
mod body_node;
mod breakages;
mod headers;
mod plan;
mod plan_bounds;
mod request;
mod sequences;
mod values;

pub use plan::ProbePlan;
pub use plan_bounds::{NotPlanned, PlanBounds};
pub use request::{PlannedRequest, ProbeCredentials, STATUS, Undo};
