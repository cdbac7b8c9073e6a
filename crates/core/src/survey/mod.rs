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

pub(crate) use conclude::inferred;
pub use conclude::{Body, Deviation, Judgement, Place, Standing, Survey, common_prefix};
pub use facts::{Causes, Facts, GroupKey, Kind, Row, Said, Seen, Sort, Successes, Told};
pub use gather::{Gathered, Group, HeaderSeen, MOST_GROUPS, NOISE};
pub(crate) use look::beside;
pub use segment::Form;
pub use shapes::ErrorShape;
pub use template::{Found, templates};
pub use top::Top;
pub use tree::Node;
