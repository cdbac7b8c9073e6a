//! The findings, grouped by endpoint, the worst first.

use faithful_clerk_check::ledger::EndpointRow;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::finding::{Finding, Severity};
use unicode_width::UnicodeWidthStr;

use super::counted;
use super::wrap::wrap;
use crate::escape::terminal;
use crate::finding_text::{FindingText, LABEL_WIDTH, LabelledText};
use crate::groups::{FindingGroup, ListedFinding, folded_groups};
use crate::{CheckReport, Theme};

pub(super) fn findings(report: &CheckReport<'_>, theme: Theme) -> String {
    folded_groups(report).iter().map(|group| text(group, report, theme)).collect()
}

fn text(group: &FindingGroup<'_>, report: &CheckReport<'_>, theme: Theme) -> String {
    let counts = group.severities.iter().map(|(severity, count)| counted(*count, severity.name()));
    let known = report.baseline.filter(|_| group.known_count > 0);
    let known = known.map(|_| format!("{} known", group.known_count));
    let counts: Vec<String> = counts.chain(known).collect();
    let name = terminal(&group.name).into_owned();
    let mut text = format!("{}   {}\n\n", theme.strong(&name), counts.join(", "));
    for shown in &group.new {
        text.push_str(&finding(report, shown, theme));
    }
    let more: u64 = group.more.values().sum();
    if more > 0 {
        let more = format!("and {} with other texts, only counted", counted(more, "finding"));
        text.push_str(&wrap(&more, 2, theme.width));
        text.push('\n');
    }
    text
}

/// A finding by itself, while exchanges pass.
#[must_use]
pub fn passing(
    finding: &Finding,
    address: &str,
    row: &EndpointRow,
    contract: &ErrorContract,
    theme: Theme,
) -> String {
    let endpoint = row.name(contract);
    let addresses = format!("{address}  {endpoint}");
    let head = head(finding.severity, finding.clause, &addresses, "", theme);
    let parts = parts(&FindingText::of(finding, row, contract), SEVERITY_WIDTH, theme);
    format!("{head}{parts}\n")
}

/// The width of the column of severities.
const SEVERITY_WIDTH: usize = 9;

/// The width of the column of clause names: the longest, and a space behind it.
const CLAUSE_WIDTH: usize = 35;

/// How far findings are moved in under the name of their endpoint.
const MARGIN: &str = "  ";

/// A finding under its endpoint.
fn finding(report: &CheckReport<'_>, shown: &ListedFinding<'_>, theme: Theme) -> String {
    let key = shown.key;
    let indent = MARGIN.len() + SEVERITY_WIDTH;
    let addresses = shown.addresses(report);
    let mut text = head(key.severity, key.clause, &addresses, MARGIN, theme);
    text.push_str(&parts(&shown.text(report), indent, theme));
    if let Some(address) = key.conforming {
        let address = format!("as expected in {}", report.address(address));
        text.push_str(&wrap(&terminal(&address), indent, theme.width));
    }
    text.push('\n');
    text
}

/// The line of severity, clause and addresses; they stand below where there is no room behind the clause.
fn head(severity: Severity, clause: &str, addresses: &str, margin: &str, theme: Theme) -> String {
    let word = theme.weight(severity, severity.name());
    let gap = " ".repeat(SEVERITY_WIDTH.saturating_sub(severity.name().len()));
    let mut text = format!("{margin}{word}{gap}{}", theme.strong(clause));
    let addresses = terminal(addresses);
    let indent = margin.len() + SEVERITY_WIDTH;
    let column = indent + clause.width().max(CLAUSE_WIDTH);
    if column + addresses.width() <= theme.width {
        let pad = " ".repeat(CLAUSE_WIDTH.saturating_sub(clause.width()));
        text.push_str(&format!("{pad}{}\n", theme.faint(&addresses)));
    } else {
        text.push('\n');
        for line in wrap(&addresses, indent, theme.width).lines() {
            text.push_str(&format!("{}\n", theme.faint(line)));
        }
    }
    text
}

/// Where it is, and its parts behind their labels.
fn parts(finding: &FindingText, indent: usize, theme: Theme) -> String {
    let mut text = wrap(&terminal(&format!("at {}", finding.location)), indent, theme.width);
    for LabelledText { label, text: part } in &finding.parts {
        let wrapped = wrap(&terminal(part), indent + LABEL_WIDTH, theme.width);
        let label = theme.faint(label) + &" ".repeat(LABEL_WIDTH.saturating_sub(label.len()));
        text.push_str(&format!("{}{label}{}", " ".repeat(indent), wrapped.trim_start()));
    }
    if let Some(what) = &finding.not_checked {
        text.push_str(&wrap(&terminal(&format!("not checked: {what}")), indent, theme.width));
    }
    text
}
