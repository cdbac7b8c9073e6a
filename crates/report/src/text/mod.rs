//! A check for the terminal: the grid, the findings, the totals.

mod check;
mod findings;
mod grid;
mod live;
mod paragraph;
mod totals;
mod waivers;
pub(crate) mod wrap;

pub use check::{check, counted, overview, without_grid};
pub use findings::passing;
pub(crate) use grid::{grid, left_out_rows};
pub use live::{LiveView, live};
pub use paragraph::paragraph;
pub use totals::reasons;
pub(crate) use totals::{bounds, gate_words, sum_words, verdict};
