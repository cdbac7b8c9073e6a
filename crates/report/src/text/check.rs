//! The parts of a check, put together.

use super::{findings, grid, totals, waivers};
use crate::{CheckReport, Theme};

/// The whole of it.
#[must_use]
pub fn check(report: &CheckReport<'_>, theme: Theme) -> String {
    let mut text = grid(report, theme);
    text.push('\n');
    text.push_str(&findings::findings(report, theme));
    text.push_str(&waivers::waivers(report, theme));
    text.push_str(&totals::totals(report, theme));
    text
}

/// The findings and the totals, without the grid.
#[must_use]
pub fn without_grid(report: &CheckReport<'_>, theme: Theme) -> String {
    format!("{}{}", findings::findings(report, theme), totals::totals(report, theme))
}

/// The grid and the totals, without the findings.
#[must_use]
pub fn overview(report: &CheckReport<'_>, theme: Theme) -> String {
    format!("{}\n{}", grid(report, theme), totals::totals(report, theme))
}

/// `1 breach`, `2 breaches`.
pub fn counted(count: u64, word: &str) -> String {
    match (count, word) {
        (1, word) => format!("1 {word}"),
        (count, "breach" | "success") => format!("{count} {word}es"),
        (count, word) => format!("{count} {word}s"),
    }
}
