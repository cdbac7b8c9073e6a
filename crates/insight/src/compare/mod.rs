//! Compares two recordings: the same service before and after a change, two environments, two callers.
//!
//! First both recordings are [surveyed](crate::survey), so that their paths get one set of templates: the
//! [`ComparisonPlan`]. Then each is read in its order by a [`Side`], which keeps of every exchange what was asked, as a
//! few hashes, and what came, as one of few outcomes. [`compare`] pairs them and judges the pairs.

mod asked;
mod came;
mod difference;
mod made;
mod pair;
mod plan;
mod side;
mod sum;

pub use difference::{Change, Grade};
pub use pair::Closeness;
pub use plan::{ComparisonKind, ComparisonPlan};
pub use side::ComparisonSide;
pub use sum::{ChangeOccurrence, Comparability, Comparison, PairCounts, compare};
