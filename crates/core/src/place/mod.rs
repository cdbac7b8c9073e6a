//! Placing: what an exchange *is*, before anybody judges it.
//!
//! [`place`] finds the endpoint, the situations that the request shows, the faults that are therefore
//! right, and which of them the answer is. Clauses only read what stands here.

mod body;
mod named;
mod placed;
mod request;
mod verdict;

pub use body::{AnswerBody, CUT};
pub use named::{Named, agreed_places, named_places};
pub use placed::{Credentials, Placed, Placing, Spot, place};
pub use request::Situations;
pub use verdict::Verdict;
pub(crate) use verdict::resolved;
