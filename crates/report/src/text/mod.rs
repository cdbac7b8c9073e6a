//! A check for the terminal: the grid, the findings, the totals.

mod check;
mod findings;
mod grid;
mod totals;
mod waivers;
pub(crate) mod wrap;

pub use check::{check, counted, overview, without_grid};
pub use findings::passing;

use crate::Theme;

/// Prose of our own, wrapped.
#[must_use]
pub fn paragraph(text: &str, theme: Theme) -> String {
    wrap::wrap(text, 0, theme.width)
}
pub(crate) use grid::grid;
pub(crate) use totals::{gate_words, reasons, sum_words, verdict};
