//! Coverage, to be read or to be worked on.
//!
//! As JSON it is one object, format `fclerk coverage`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk coverage"` and 1 |
//! | `recordings` | the names of the recordings |
//! | `percent` | the percentage of cells covered, of those that can occur, rounded down |
//! | `cells` | numbers: `met`, `broken`, `not_checked` (these three are covered), `not_covered`, `cannot_occur` |
//! | `grid` | an array of rows: `endpoint`, and `cells`: `situation` (null: valid) and `mark` |
//! | `faults_not_recorded`, `cases_not_covered` | arrays of names |
//! | `worth_trying` | an array: `method`, `target`, `media`, `body`, `situation`, `how`, `faults` |
//! | `unreadable` | what could not be read, the first of it |

use faithful_clerk_check::grid::CellMark;
use faithful_clerk_check::ledger::column_name;
use faithful_clerk_insight::coverage::{CellCounts, Coverage, SuggestedRequest, worth_trying};
use faithful_clerk_model::situation::Situation;
use serde_json::{Value, json};

use crate::json::{pretty, unreadable};
use crate::page::{Page, StyledText, Table, code, plain, toned};
use crate::text::{counted, grid, reasons};
use crate::theme::Tone;
use crate::{CheckReport, Theme};

/// For a terminal.
#[must_use]
pub fn terminal(report: &CheckReport<'_>, theme: Theme) -> String {
    let coverage = Coverage::of(report.contract, report.ledger);
    format!("{}\n{}", grid(report, theme), page(report, &coverage).terminal(theme))
}

/// How much was tried, for a terminal.
#[must_use]
pub fn overview(report: &CheckReport<'_>, theme: Theme) -> String {
    let mut page = Page::default();
    page.text(summary(Coverage::of(report.contract, report.ledger).cells));
    page.terminal(theme)
}

/// As Markdown.
#[must_use]
pub fn markdown(report: &CheckReport<'_>) -> String {
    let coverage = Coverage::of(report.contract, report.ledger);
    format!("{}\n{}", marks(report, &coverage).markdown(), page(report, &coverage).markdown())
}

/// As a page for a browser.
///
/// # Errors
/// Only if our own template is wrong.
pub fn html(report: &CheckReport<'_>) -> Result<String, crate::html::Error> {
    let coverage = Coverage::of(report.contract, report.ledger);
    let mut whole = marks(report, &coverage);
    whole.append(page(report, &coverage));
    crate::html::document("Coverage", &whole)
}

/// The grid as a table.
fn marks(report: &CheckReport<'_>, coverage: &Coverage<'_>) -> Page {
    let mut heads = vec!["endpoint"];
    heads.extend(coverage.grid.columns.iter().copied().map(column_name));
    let mut table = Table::new(&heads);
    let theme = Theme::bare(100);
    for (row, cells) in &coverage.grid.rows {
        let mut line = vec![plain(row.name(report.contract))];
        line.extend(cells.iter().map(|(mark, _)| toned(mark.into(), theme.mark_text(*mark))));
        table.row(line);
    }
    let mut page = Page::default();
    page.table(table);
    page.text(vec![plain("✓ met, ✗ broken, ? not checked, · not covered, blank: cannot occur")]);
    page
}

fn page(report: &CheckReport<'_>, coverage: &Coverage<'_>) -> Page {
    let mut page = Page::default();
    page.text(summary(coverage.cells));
    if !report.ledger.excluded.is_empty() {
        page.text(vec![plain(format!("excluded: {}", reasons(&report.ledger.excluded)))]);
    }
    let names = |names: Vec<&str>| names.join(", ");
    if !coverage.faults_unseen.is_empty() {
        page.heading("Faults never recorded");
        let unseen = coverage.faults_unseen.iter().map(|fault| fault.name.as_str());
        page.text(vec![plain(names(unseen.collect()))]);
    }
    if !coverage.cases_unseen.is_empty() {
        page.heading("Cases not covered");
        let unseen = coverage.cases_unseen.iter().map(|case| case.name.as_str());
        page.text(vec![plain(names(unseen.collect()))]);
    }
    let worth = worth_trying(report.contract, coverage);
    if !worth.is_empty() {
        page.heading("Worth trying next");
        for worth in &worth {
            page.item(trying(worth));
        }
    }
    page
}

/// The percentage, and what it is of.
fn summary(share: CellCounts) -> Vec<StyledText> {
    let CellCounts {
        met: kept,
        broken,
        not_checked: unjudged,
        not_covered: not_tried,
        cannot_occur: _,
    } = share;
    let mut parts = vec![format!("{kept} met"), format!("{broken} broken")];
    if unjudged > 0 {
        parts.push(format!("{unjudged} not checked"));
    }
    vec![
        toned(Tone::Strong, format!("{} % covered", share.percent())),
        plain(format!(
            ": {} of {} ({}); {not_tried} not covered. A cell is a situation at an endpoint, or a valid request there; only those that the contract allows for are counted.",
            share.verified(),
            counted(share.of(), "cell"),
            parts.join(", "),
        )),
    ]
}

fn trying(worth: &SuggestedRequest) -> Vec<StyledText> {
    let SuggestedRequest { method, target, body, media, situation, how, faults } = worth;
    let mut pieces = vec![code(format!("{method} {target}")), plain(format!(": {how}"))];
    if let Some(body) = body {
        let media = media.as_deref().unwrap_or("no media type");
        pieces.extend([plain(format!("; {media} ")), toned(Tone::Faint, body)]);
    }
    let due = match faults.as_slice() {
        [] => String::new(),
        faults => format!(" → {}", faults.join(" or ")),
    };
    let name = column_name(*situation);
    pieces.push(plain(format!(" ({name}{due})")));
    pieces
}

/// As JSON.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn json(report: &CheckReport<'_>) -> Result<String, serde_json::Error> {
    let coverage = Coverage::of(report.contract, report.ledger);
    let CellCounts {
        met: kept,
        broken,
        not_checked: unjudged,
        not_covered: not_tried,
        cannot_occur,
    } = coverage.cells;
    let columns = &coverage.grid.columns;
    let cells = |cells: &[(CellMark, _)]| -> Vec<Value> {
        let cells = columns.iter().zip(cells);
        cells
            .map(|(column, (mark, _))| {
                json!({"situation": column.map(Situation::name), "mark": mark.name()})
            })
            .collect()
    };
    let rows = coverage.grid.rows.iter().map(|(row, marks)| {
        let marks: Vec<(CellMark, ())> = marks.iter().map(|(mark, _)| (*mark, ())).collect();
        json!({"endpoint": row.name(report.contract), "cells": cells(&marks)})
    });
    let worth = worth_trying(report.contract, &coverage);
    let worth = worth.iter().map(|worth| {
        let SuggestedRequest { method, target, body, media, situation, how, faults } = worth;
        json!({
            "method": method,
            "target": target,
            "media": media,
            "body": body,
            "situation": situation.map(Situation::name),
            "how": how,
            "faults": faults,
        })
    });
    pretty(&json!({
        "format": "fclerk coverage",
        "version": 1,
        "recordings": report.recordings,
        "percent": coverage.cells.percent(),
        "cells": {
            "met": kept,
            "broken": broken,
            "not_checked": unjudged,
            "not_covered": not_tried,
            "cannot_occur": cannot_occur,
        },
        "grid": rows.collect::<Vec<_>>(),
        "faults_not_recorded": coverage.faults_unseen.iter().map(|fault| &fault.name).collect::<Vec<_>>(),
        "cases_not_covered": coverage.cases_unseen.iter().map(|case| &case.name).collect::<Vec<_>>(),
        "worth_trying": worth.collect::<Vec<_>>(),
        "unreadable": unreadable(&report.ledger.unreadable, report.names()),
    }))
}
