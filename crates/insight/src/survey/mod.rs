//! The survey: what a service's errors look like, found out from recordings alone.
//!
//! Each worker has a [`SurveyCollector`], which gathers [`SurveyData`]: paths as a tree, responses in counted rows, error bodies in groups of one outline.
//! The data of several workers add up in any order, and [`SurveyData::conclude`] infers endpoints and shapes from the
//! sums alone.

mod borrowed_name;
mod collector;
mod conclude;
mod facts;
mod given_names;
mod ledger;
mod observe;
mod pairs;
mod refused_bodies;
mod renumber;
mod resource_shape;
mod sample;
mod segment;
mod shapes;
mod standing;
mod survey_data;
mod template;
mod tree;
mod validation;
mod wire_tree;

pub(crate) use borrowed_name::BorrowedName;
pub use collector::SurveyCollector;
pub use conclude::inferred;
pub use conclude::{
    Deviation, ErrorComparison, Survey, SurveyedBody, SurveyedEndpoint, common_prefix,
};
pub use facts::{
    EndpointFacts, ErrorCategory, GroupKey, ObservedBody, Occurrences, RequestFlaws,
    ResponseSignature, ResponseStats, StableMembers, SuccessFacts,
};
pub use given_names::GivenNames;
pub use ledger::{SURVEY_LEDGER, SurveyLedger};
pub use observe::beside;
pub use refused_bodies::{MemberPath, ObservedSpellings, RefusedBodies};
pub use resource_shape::ResourceShape;
pub use sample::{NameSample, PathSample};
pub use segment::SegmentForm;
pub use shapes::ErrorShape;
pub use standing::EndpointStatus;
pub use survey_data::{BodyGroup, MOST_GROUPS, NOISE, ObservedHeader, SurveyData};
pub use template::{InferredEndpoint, templates};
pub use tree::PathNode;
pub use validation::{FieldNaming, FieldNamingFacts, FieldNamingSummary, NamedLater};
