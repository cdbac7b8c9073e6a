//! Classifies: what an exchange *is*, before any clause is checked.
//!
//! [`classify()`] finds the endpoint, the situations that the request is in, the faults that are therefore
//! right, and which of them the response is. Clauses only read what is found here.

mod cases;
mod classified;
mod data_locations;
mod embedded_error;
mod entries;
mod envelope;
mod evidence;
mod language;
mod member_names;
mod parameters;
mod reported_field;
mod request;
mod verdict;

pub use crate::body::{CUT, ParsedBody};
pub use cases::entry_fits;
pub use classified::{
    Classification, Classified, Credentials, NOT_OWN, RouteMatch, TextEncoding, classify,
};
pub use embedded_error::{EmbeddedError, SuccessFlag, flag};
pub use entries::{find_reported_fields, pointer_in_entry, reason_member};
pub use envelope::{EnvelopeValue, code_values, envelope_values, title_values};
pub use evidence::{SituationEvidence, by_intention, by_request, recognised};
pub use parameters::{InvalidParameter, ParameterProblem, parameter_fits};
pub use reported_field::{LocationForm, ReportedField, location_steps, mentions};
pub use request::RequestSituations;
pub use verdict::StatusVerdict;
pub use verdict::{code_of, code_value, resolved};
