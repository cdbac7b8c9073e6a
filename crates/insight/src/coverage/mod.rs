//! Coverage: which error situations were tried, which were not, and what to try next.

mod next;
mod share;

pub use next::{MOST_WORTH, SuggestedRequest, worth_trying};
pub use share::{CellCounts, Coverage};
