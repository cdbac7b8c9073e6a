//! Compares two recordings: the same service before and after a change, two environments, two callers.
//!
//! First both recordings are [surveyed](crate::survey), so that their paths get one set of templates: the
//! [`ComparisonPlan`]. Then each is read in its order by a [`ComparisonSide`], which keeps of every exchange its request
//! as a few hashes, and its response as one of few outcomes. [`compare()`] pairs them and grades each difference.

mod compared_headers;
mod comparison;
mod difference;
mod pair;
mod plan;
mod request_key;
mod response_summary;
mod sent_values;
mod server_ids;
mod side;
mod success_reader;
mod switched_off;

pub use comparison::{ChangeOccurrence, Comparability, Comparison, PairCounts, compare};
pub use difference::{Change, Grade};
pub use pair::Closeness;
pub use plan::{ComparisonKind, ComparisonPlan};
pub use sent_values::ComparisonSurvey;
pub use side::{ComparisonSide, MOST_OUTCOMES};
