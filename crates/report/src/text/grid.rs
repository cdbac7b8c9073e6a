//! The grid: endpoints down, situations across, one mark a cell.
//!
//! The names of the situations hang above their columns like steps, each on a line of its own with a
//! line down to its column, so that columns are narrow and no legend has to be looked up.

use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_check::ledger::column_name;
use unicode_width::UnicodeWidthStr;

use super::wrap::fit;
use crate::escape::terminal;
use crate::{CheckReport, Theme};

/// A column is a mark and what is between marks; less where the terminal is narrow.
const COLUMNS: [usize; 2] = [3, 2];

/// So much of an endpoint's name has to be seen.
const LEAST_NAME: usize = 20;

pub(crate) fn grid(report: &CheckReport<'_>, theme: Theme) -> String {
    let grid = Grid::of(report.contract, report.ledger);
    let heads: Vec<&str> = grid.columns.iter().copied().map(column_name).collect();
    let names: Vec<String> = grid
        .rows
        .iter()
        .map(|(row, _)| terminal(&row.name(report.contract)).into_owned())
        .collect();
    let longest = names.iter().map(|name| name.width()).max().unwrap_or_default();
    // The last names hang out to the right of their columns.
    let room = |column: usize| {
        let end = heads.iter().enumerate().map(|(at, head)| at * column + head.width()).max();
        theme.width.saturating_sub(end.unwrap_or_default() + 2)
    };
    let column = COLUMNS
        .into_iter()
        .find(|column| room(*column) >= LEAST_NAME.min(longest))
        .unwrap_or(COLUMNS[1]);
    let room = room(column);
    let first = longest.min(room).max(12) + 2;
    let mut text = String::new();
    for (at, head) in heads.iter().enumerate() {
        text.push_str(&" ".repeat(first));
        for _ in 0..at {
            text.push_str(&theme.faint(theme.line()));
            text.push_str(&" ".repeat(column - 1));
        }
        text.push_str(head);
        text.push('\n');
    }
    for (name, (_, cells)) in names.iter().zip(&grid.rows) {
        let mut line = fit(name, first - 2, theme.more());
        line.push_str("  ");
        let last = cells.iter().rposition(|(mark, _)| *mark != CellMark::NotApplicable);
        for (at, (mark, _)) in cells.iter().enumerate() {
            line.push_str(&theme.mark(*mark));
            if Some(at) >= last {
                break;
            }
            line.push_str(&" ".repeat(column - 1));
        }
        text.push_str(line.trim_end());
        text.push('\n');
    }
    text.push('\n');
    text.push_str(&legend(theme, &grid));
    text
}

/// The marks that occur, and what they mean.
fn legend(theme: Theme, grid: &Grid) -> String {
    let marks = [
        CellMark::Met,
        CellMark::Broken,
        CellMark::NotChecked,
        CellMark::NotCovered,
        CellMark::NotApplicable,
    ];
    let occurs = |mark: &CellMark| {
        grid.rows.iter().any(|(_, cells)| cells.iter().any(|(other, _)| other == mark))
    };
    let words: Vec<String> = marks
        .into_iter()
        .filter(occurs)
        .map(|mark| match mark {
            CellMark::NotApplicable => "blank: not applicable".to_owned(),
            mark => format!("{} {}", theme.mark(mark), mark.name()),
        })
        .collect();
    format!("{}\n", words.join("   "))
}
