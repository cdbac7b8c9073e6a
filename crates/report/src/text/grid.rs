//! The grid: endpoints down, situations across, one mark a cell.
//!
//! The names of the situations hang above their columns like steps, each on a line of its own with a
//! line down to its column, so that columns are narrow and no legend has to be looked up.

use std::collections::BTreeMap;

use faithful_clerk_check::grid::{CellMark, Grid, GridRow};
use faithful_clerk_check::ledger::column_name;
use faithful_clerk_contract::ErrorContract;
use unicode_width::{UnicodeWidthChar as _, UnicodeWidthStr as _};

use super::wrap::fit;
use crate::escape::terminal;
use crate::{CheckReport, Theme};

/// A column is a mark and what is between marks; less where the terminal is narrow.
const COLUMNS: [usize; 2] = [3, 2];

/// So much of an endpoint's name has to be seen.
const LEAST_NAME: usize = 20;

pub(crate) fn grid(report: &CheckReport<'_>, theme: Theme) -> String {
    let grid = Grid::of(report.contract, report.ledger);
    let (rows, left_out) = grid.shown_rows(report.grid_rows);
    let mut text = drawn(&grid, &rows, report.contract, theme);
    if left_out > 0 {
        text.push_str(&format!("{}\n", left_out_rows(left_out)));
    }
    text.push('\n');
    text.push_str(&legend(theme, &grid));
    text
}

/// These rows of a grid under the names of its columns.
pub(super) fn drawn(
    grid: &Grid,
    rows: &[&GridRow],
    contract: &ErrorContract,
    theme: Theme,
) -> String {
    let heads: Vec<&str> = grid.columns.iter().copied().map(column_name).collect();
    let names: Vec<String> =
        rows.iter().map(|(row, _)| terminal(&row.name(contract)).into_owned()).collect();
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
    let names = distinct(&names, first - 2, theme.more());
    for (name, (_, cells)) in names.iter().zip(rows) {
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
    text
}

/// `1,190 endpoints not covered (--all-rows)`.
pub(crate) fn left_out_rows(count: usize) -> String {
    let digits = count.to_string();
    let mut number = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            number.push(',');
        }
        number.push(digit);
    }
    format!("{number} endpoints not covered (--all-rows)")
}

/// The names, each in that width: one that is too long loses its middle, and those that would be the same then
/// are numbered there.
fn distinct(names: &[String], width: usize, more: &str) -> Vec<String> {
    let mut seen: BTreeMap<String, usize> = BTreeMap::new();
    let cut = |name: &String| match name.width() <= width {
        true => name.clone(),
        false => without_middle(name, width, more),
    };
    names
        .iter()
        .map(|name| {
            let short = cut(name);
            let count = seen.entry(short.clone()).or_default();
            *count += 1;
            match *count {
                1 => short,
                count => without_middle(name, width, &format!("{more}{count}{more}")),
            }
        })
        .collect()
}

/// The start and the end of a text, in that width.
fn without_middle(text: &str, width: usize, more: &str) -> String {
    let room = width.saturating_sub(more.width());
    let (mut start, mut end) = (String::new(), String::new());
    for c in text.chars() {
        if start.width() + c.width().unwrap_or(0) > room.div_ceil(2) {
            break;
        }
        start.push(c);
    }
    for c in text.chars().rev() {
        if end.width() + c.width().unwrap_or(0) > room - start.width() {
            break;
        }
        end.insert(0, c);
    }
    format!("{start}{more}{end}")
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_that_are_cut_stay_different() {
        let names = [
            "GET /v1/harbours/{harbour_id}/berths/{berth_id}/bookings",
            "GET /v1/harbours/{harbour_id}/berths/{berth_id}/meters",
            "GET /v1/harbours/{harbour_id}/piers/{pier_id}/bookings",
            "GET /v1/tides",
        ]
        .map(str::to_owned);
        let cut = distinct(&names, 24, "…");
        assert_eq!(
            cut,
            [
                "GET /v1/harb…d}/bookings",
                "GET /v1/harb…_id}/meters",
                "GET /v1/har…2…}/bookings",
                "GET /v1/tides"
            ]
        );
        assert!(cut.iter().all(|name| name.width() <= 24));
    }

    #[test]
    fn large_numbers_have_separators() {
        assert_eq!(left_out_rows(1_190), "1,190 endpoints not covered (--all-rows)");
        assert_eq!(left_out_rows(13), "13 endpoints not covered (--all-rows)");
    }
}
