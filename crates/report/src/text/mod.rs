//! A check for the terminal: the grid, the findings, the totals.

mod check;
mod findings;
mod grid;
mod totals;
mod waivers;
pub(crate) mod wrap;

pub(crate) use check::counted;
pub use check::{check, overview};
pub(crate) use grid::grid;
