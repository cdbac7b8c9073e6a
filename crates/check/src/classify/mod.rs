//! Placing: what an exchange *is*, before anybody judges it.
//!
//! [`classify`] finds the endpoint, the situations that the request shows, the faults that are therefore
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

pub use body::{CUT, ParsedBody};
pub use entries::find_reported_fields;
pub use inside::{EmbeddedError, SuccessFlag, flag};
pub use named::{LocationForm, ReportedField};
pub use parameters::InvalidParameter;
pub use placed::{Classification, Classified, Credentials, RouteMatch, TextEncoding, classify};
pub use recognised::{SituationEvidence, recognised};
pub use request::RequestSituations;
pub use verdict::StatusVerdict;
pub use verdict::{code_of, code_value, resolved};
