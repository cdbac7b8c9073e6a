//! A check while its exchanges pass: what is so now, and the findings as they come.

use faithful_clerk_check::grid::Grid;
use faithful_clerk_contract::ErrorContract;

use super::grid::drawn;
use crate::Theme;

/// What is shown.
#[derive(Debug)]
pub struct LiveView<'v> {
    /// What is so now.
    pub grid: &'v Grid,
    /// The contract that it is of.
    pub contract: &'v ErrorContract,
    /// What is recorded, in a line.
    pub summary: &'v str,
    /// The findings, each as it was told, the newest first.
    pub findings: Vec<&'v str>,
}

/// The grid has no more than this part of the lines.
const GRID_PART: (usize, usize) = (2, 3);

/// So many lines stand around the grid.
const FRAME: usize = 4;

/// The lines of a screen of that height, without line ends: the grid, then as many findings as there is room for.
#[must_use]
pub fn live(view: &LiveView<'_>, theme: Theme, height: usize) -> Vec<String> {
    let mut lines = vec![theme.strong(view.summary), String::new()];
    lines.extend(grid_lines(view, theme, height));
    lines.push(String::new());
    if view.findings.is_empty() {
        lines.push(theme.faint("no finding yet"));
    }
    for finding in &view.findings {
        lines.extend(finding.lines().map(str::to_owned));
        if lines.len() > height {
            break;
        }
    }
    lines.truncate(height);
    lines
}

/// The grid, or what of it there is room for.
fn grid_lines(view: &LiveView<'_>, theme: Theme, height: usize) -> Vec<String> {
    let (part, of) = GRID_PART;
    let room = (height * part / of).saturating_sub(FRAME);
    let all = view.grid;
    let fits = |grid: &Grid| grid.columns.len() + grid.rows.len() <= room;
    let covered;
    let grid = if fits(all) {
        all
    } else {
        covered = all.covered();
        &covered
    };
    let rows = grid.most_telling_rows(room.saturating_sub(grid.columns.len()));
    let left_out = all.rows.len() - rows.len();
    let mut lines = Vec::new();
    if rows.is_empty() && !grid.rows.is_empty() {
        lines.push(theme.faint("the window is too low for the grid"));
    } else if !rows.is_empty() {
        lines.extend(drawn(grid, &rows, view.contract, theme).lines().map(str::to_owned));
    }
    if left_out > 0 {
        let open = all.rows.len() - grid.rows.len();
        let words = match (left_out - open, open) {
            (0, open) => format!("{open} more rows, not covered"),
            (more, 0) => format!("{more} more rows"),
            (more, open) => format!("{more} more rows, and {open} not covered"),
        };
        lines.push(theme.faint(&words));
    }
    lines
}
