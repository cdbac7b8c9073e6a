//! Placing: what an exchange *is*, before anybody judges it.
//!
//! [`place`] finds the endpoint, the situations that the request shows, the faults that are therefore
//! right, and which of them the answer is. Clauses only read what stands here.

mod body;
mod cases;
mod entries;
mod inside;
mod language;
mod named;
mod parameters;
mod placed;
mod recognised;
mod request;
mod usual;
mod verdict;

pub use body::{AnswerBody, CUT};
pub use entries::named_places;
pub use inside::{ErrorInside, Flag, flag};
pub use named::{Form, Named};
pub use parameters::InvalidParameter;
pub use placed::{Credentials, Placed, Placing, Spot, TextEncoding, place};
pub use recognised::{Recognised, recognised};
pub use request::Situations;
pub use verdict::Verdict;
pub(crate) use verdict::{code_of, code_value, resolved};
