//! The survey: what a service's errors look like, found out from recordings alone.
//!
//! Workers [gather](Gathered) what they see: paths as a tree, answers in counted rows, bodies of errors
//! in groups of one outline. It adds up in any order, and [`Gathered::conclude`] makes endpoints and
//! shapes of it, from the sums alone.

mod conclude;
mod facts;
mod gather;
mod look;
mod segment;
mod shapes;
mod template;
mod top;
mod tree;

pub use conclude::inferred;
pub use conclude::{
    Deviation, EndpointStatus, ErrorComparison, Survey, SurveyedBody, SurveyedEndpoint,
    common_prefix,
};
pub use facts::{
    EndpointFacts, ErrorCategory, GroupKey, ObservedBody, Occurrences, RequestFlaws,
    ResponseSignature, ResponseStats, StableMembers, SuccessFacts,
};
pub use gather::{BodyGroup, MOST_GROUPS, NOISE, ObservedHeader, SurveyData};
pub use look::beside;
pub use segment::SegmentForm;
pub use shapes::ErrorShape;
pub use template::{InferredEndpoint, templates};
pub use top::ResourceShape;
pub use tree::PathNode;
