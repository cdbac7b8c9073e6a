//! The findings, grouped by endpoint, the worst first.

use std::collections::BTreeMap;

use faithful_clerk_core::Weight;
use faithful_clerk_core::grid::row_name;
use faithful_clerk_core::ledger::{Entries, Entry, Key, Row};
use unicode_width::UnicodeWidthStr;

use super::counted;
use super::wrap::wrap;
use crate::escape::terminal;
use crate::{Report, Theme};

/// The findings of one endpoint.
struct Group<'r> {
    row: &'r Row,
    entries: Vec<(&'r Key, &'r Entry)>,
    /// Findings that are only counted.
    more: u64,
    weights: BTreeMap<Weight, u64>,
}

pub(super) fn findings(report: &Report<'_>, theme: Theme) -> String {
    let mut groups: BTreeMap<&Row, Group<'_>> = BTreeMap::new();
    for ((row, _), entries) in &report.ledger.findings {
        let empty = || Group { row, entries: Vec::new(), more: 0, weights: BTreeMap::new() };
        groups.entry(row).or_insert_with(empty).add(entries);
    }
    let mut groups: Vec<Group<'_>> = groups.into_values().collect();
    let count = |group: &Group<'_>, weight| group.weights.get(&weight).copied().unwrap_or_default();
    // The worst first; among equals the contract's order stays.
    groups.sort_by_key(|group| {
        std::cmp::Reverse([Weight::Breach, Weight::Lapse, Weight::Remark].map(|w| count(group, w)))
    });
    groups.iter_mut().map(|group| group.text(report, theme)).collect()
}

impl<'r> Group<'r> {
    fn add(&mut self, entries: &'r Entries) {
        self.entries.extend(&entries.kept);
        for (key, entry) in &entries.kept {
            *self.weights.entry(key.weight).or_default() += entry.count;
        }
        for (weight, count) in &entries.more {
            self.more += count;
            *self.weights.entry(*weight).or_default() += count;
        }
    }

    fn text(&mut self, report: &Report<'_>, theme: Theme) -> String {
        let counts: Vec<String> =
            self.weights.iter().map(|(weight, count)| counted(*count, weight.name())).collect();
        let name = terminal(&row_name(report.contract, self.row)).into_owned();
        let mut text = format!("{}   {}\n\n", theme.strong(&name), counts.join(", "));
        self.entries.sort_by_key(|(key, entry)| (key.weight, std::cmp::Reverse(entry.count)));
        for (key, entry) in &self.entries {
            text.push_str(&finding(report, theme, key, entry));
        }
        if self.more > 0 {
            let more = counted(self.more, "finding");
            text.push_str(&wrap(
                &format!("and {more} with other texts, only counted"),
                2,
                theme.width,
            ));
            text.push('\n');
        }
        text
    }
}

/// Text stands behind the weights.
const INDENT: usize = 10;

fn finding(report: &Report<'_>, theme: Theme, key: &Key, entry: &Entry) -> String {
    let Key { weight, clause, place, agreed, seen, note, unlike } = key;
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
    let sentence = format!("At {place}, agreed was {agreed}; seen was {seen}.");
    text.push_str(&wrap(&terminal(&sentence), INDENT, theme.width));
    if let Some(note) = note {
        text.push_str(&wrap(&format!("({})", terminal(note)), INDENT, theme.width));
    }
    if let Some(address) = unlike {
        let address = terminal(&report.address(*address)).into_owned();
        text.push_str(&wrap(&format!("(as agreed it is in {address})"), INDENT, theme.width));
    }
    text.push('\n');
    text
}
