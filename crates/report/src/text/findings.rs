//! The findings, grouped by endpoint, the worst first.

use faithful_clerk_check::ledger::{FindingKey, FindingOccurrences};
use faithful_clerk_model::finding::Finding;
use unicode_width::UnicodeWidthStr;

use super::counted;
use super::wrap::wrap;
use crate::escape::terminal;
use crate::groups::{FindingGroup, groups};
use crate::{CheckReport, Theme};

pub(super) fn findings(report: &CheckReport<'_>, theme: Theme) -> String {
    groups(report).iter().map(|group| text(group, report, theme)).collect()
}

fn text(group: &FindingGroup<'_>, report: &CheckReport<'_>, theme: Theme) -> String {
    let counts = group.severities.iter().map(|(weight, count)| counted(*count, weight.name()));
    let known = report.baseline.filter(|_| group.known_count > 0);
    let known = known.map(|_| format!("{} known", group.known_count));
    let counts: Vec<String> = counts.chain(known).collect();
    let name = terminal(&group.name).into_owned();
    let mut text = format!("{}   {}\n\n", theme.strong(&name), counts.join(", "));
    for shown in &group.new {
        text.push_str(&finding(report, theme, shown.key, shown.entry));
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
pub fn passing(finding: &Finding, address: &str, endpoint: &str, theme: Theme) -> String {
    let Finding { severity: weight, clause, location: place, expected: agreed, got: seen, .. } =
        finding;
    let weight = theme.weight(*weight, &format!("{:7}", weight.name()));
    let (address, endpoint) = (terminal(address), terminal(endpoint));
    let line =
        format!("{weight} {}   {}   {endpoint}", theme.strong(clause), theme.faint(&address));
    let sentence = format!("At {place}, expected {agreed}; got {seen}.");
    format!("{line}\n{}", wrap(&terminal(&sentence), INDENT - 2, theme.width))
}

/// Text stands behind the severity.
const INDENT: usize = 10;

fn finding(
    report: &CheckReport<'_>,
    theme: Theme,
    key: &FindingKey,
    entry: &FindingOccurrences,
) -> String {
    let FindingKey {
        severity: weight,
        clause,
        location: place,
        expected: agreed,
        got: seen,
        because: note,
        conforming: unlike,
    } = key;
    let weight = theme.weight(*weight, &format!("{:7}", weight.name()));
    let mut text = format!("  {weight} {}", theme.strong(clause));
    let addresses = terminal(&report.names().list(entry.count, &entry.first)).into_owned();
    // The addresses stand behind the clause where there is room, else below.
    if INDENT + clause.width() + 3 + addresses.width() <= theme.width {
        text.push_str(&format!("   {}\n", theme.faint(&addresses)));
    } else {
        text.push('\n');
        for line in wrap(&addresses, INDENT, theme.width).lines() {
            text.push_str(&format!("{}\n", theme.faint(line)));
        }
    }
    let sentence = format!("At {place}, expected {agreed}; got {seen}.");
    text.push_str(&wrap(&terminal(&sentence), INDENT, theme.width));
    if let Some(note) = note {
        text.push_str(&wrap(&format!("({})", terminal(note)), INDENT, theme.width));
    }
    if let Some(address) = unlike {
        let address = terminal(&report.address(*address)).into_owned();
        text.push_str(&wrap(&format!("(as expected in {address})"), INDENT, theme.width));
    }
    text.push('\n');
    text
}
