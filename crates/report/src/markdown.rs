//! A check as Markdown for a pull request: the sum, the grid, the findings, the worst first.

use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_check::ledger::column_name;
use faithful_clerk_model::finding::Severity;

use crate::finding_text::{FindingText, LabelledText};
use crate::groups::{FindingGroup, ListedFinding, folded_groups};
use crate::page::{Page, Table, code, plain, toned};
use crate::text::{counted, gate_words, left_out_rows, sum_words, verdict};
use crate::theme::Tone;
use crate::{CheckReport, Theme};

/// So many characters fit into a comment.
pub const MOST: usize = 60_000;

/// What is kept for the last line.
const LAST: usize = 300;

/// Of a grid, so many rows and columns are drawn.
const MOST_ROWS: usize = 100;

/// A check, in [`MOST`] characters at the most; what does not fit is counted.
#[must_use]
pub fn check(report: &CheckReport<'_>) -> String {
    let mut text = head(report).markdown();
    let mut left = MOST.saturating_sub(text.chars().count() + LAST);
    let groups = folded_groups(report);
    let (mut cut, mut is_full) = (0, false);
    for weight in [Severity::Breach, Severity::Warning, Severity::Note] {
        let mut page = Page::default();
        let count: u64 = groups.iter().map(|group| group.count(weight)).sum();
        if count == 0 {
            continue;
        }
        page.heading(counted(count, weight.name()));
        for group in &groups {
            for shown in group.new.iter().filter(|shown| shown.key.severity == weight) {
                let mut one = Page::default();
                finding(&mut one, report, group, shown);
                let length = one.markdown().chars().count() + 1;
                is_full = is_full || length > left;
                if is_full {
                    cut += shown.entry.count;
                } else {
                    left -= length;
                    page.append(one);
                }
            }
        }
        text.push('\n');
        text.push_str(&page.markdown());
    }
    let more: u64 = groups.iter().flat_map(|group| group.more.values()).sum();
    let rest = [(more, "with other texts"), (cut, "not shown here")];
    for (count, why) in rest.into_iter().filter(|(count, _)| *count > 0) {
        text.push_str(&format!("\nAnd {} {why}.\n", counted(count, "finding")));
    }
    text
}

fn head(report: &CheckReport<'_>) -> Page {
    let mut page = Page::default();
    page.heading(format!(
        "Error contract{}",
        report.contract.service.as_ref().map(|name| format!(" of {name}")).unwrap_or_default()
    ));
    let verdict = verdict(report, Theme::bare(100));
    page.text(vec![plain(format!("{}: ", sum_words(report))), toned(Tone::Strong, verdict)]);
    if let Some(gate) = gate_words(report) {
        page.text(vec![plain(gate)]);
    }
    page.table(grid(report));
    page.text(vec![plain("✓ met, ✗ broken, ? not checked, · not covered, blank: not applicable")]);
    page
}

fn grid(report: &CheckReport<'_>) -> Table {
    let grid = Grid::of(report.contract, report.ledger);
    let mut heads = vec!["endpoint"];
    heads.extend(grid.columns.iter().copied().map(column_name));
    let mut table = Table::new(&heads);
    let theme = Theme::bare(100);
    // Where there is no room for all, those with something broken are looked for.
    let is_broken =
        |cells: &[(CellMark, _)]| cells.iter().any(|(mark, _)| *mark == CellMark::Broken);
    let (mut rows, open) = grid.shown_rows(report.grid_rows);
    let left_out = rows.len().saturating_sub(MOST_ROWS);
    if left_out > 0 {
        rows.sort_by_key(|(_, cells)| !is_broken(cells));
        rows.truncate(MOST_ROWS);
    }
    for (row, cells) in rows {
        let mut line = vec![plain(row.name(report.contract))];
        line.extend(cells.iter().map(|(mark, _)| plain(theme.mark_text(*mark))));
        table.row(line);
    }
    if left_out > 0 {
        table.row(vec![plain(format!("and {left_out} more endpoints"))]);
    }
    if open > 0 {
        table.row(vec![plain(left_out_rows(open))]);
    }
    table
}

/// A finding as an item with its parts below.
fn finding(
    page: &mut Page,
    report: &CheckReport<'_>,
    group: &FindingGroup<'_>,
    shown: &ListedFinding<'_>,
) {
    let key = shown.key;
    let FindingText { location, parts, not_checked } = shown.text(report);
    page.item(vec![
        toned(Tone::Strong, key.clause),
        plain(" "),
        code(&group.name),
        plain(format!(", {location} ")),
        toned(Tone::Faint, shown.addresses(report)),
    ]);
    for LabelledText { label, text } in parts {
        page.part(vec![plain(format!("{label} ")), plain(text)]);
    }
    if let Some(what) = not_checked {
        page.part(vec![plain(format!("not checked: {what}"))]);
    }
}
