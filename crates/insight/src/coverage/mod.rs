//! Coverage: which situations were provoked, which were not, and what to request next.

mod next;
mod share;

pub use next::{MOST_WORTH, SuggestedRequest, worth_trying};
pub use share::{CellCounts, Coverage};
