//! The findings of a check, grouped by endpoint, the worst first.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use faithful_clerk_check::ledger::{EndpointRow, FindingKey, FindingOccurrences, fingerprint};
use faithful_clerk_model::finding::Severity;

use crate::CheckReport;

/// The findings of one endpoint, or of requests that led to none.
pub(crate) struct FindingGroup<'r> {
    pub(crate) row: &'r EndpointRow,
    pub(crate) name: String,
    /// Those that are new, the worst first, then by how many there are.
    pub(crate) new: Vec<ListedFinding<'r>>,
    /// Those that were there before.
    pub(crate) known: Vec<ListedFinding<'r>>,
    /// New findings that are only counted.
    pub(crate) more: BTreeMap<(&'static str, Severity), u64>,
    /// How many are new, by severity.
    pub(crate) severities: BTreeMap<Severity, u64>,
    /// How many were there before.
    pub(crate) known_count: u64,
}

/// A finding with its fingerprint.
#[derive(Clone)]
pub(crate) struct ListedFinding<'r> {
    pub(crate) key: &'r FindingKey,
    pub(crate) entry: &'r FindingOccurrences,
    pub(crate) fingerprint: String,
}

/// All groups; among equals the contract's order stays.
pub(crate) fn groups<'r>(report: &CheckReport<'r>) -> Vec<FindingGroup<'r>> {
    let mut groups: BTreeMap<&EndpointRow, FindingGroup<'r>> = BTreeMap::new();
    for ((row, clause), entries) in &report.ledger.findings {
        let group = groups.entry(row).or_insert_with(|| FindingGroup::of(row, report));
        for (key, entry) in &entries.kept {
            let shown = ListedFinding { key, entry, fingerprint: fingerprint(&group.name, key) };
            group.add(shown, report);
        }
        for (weight, count) in &entries.more {
            if report.gate.is_more_known(&group.name, clause, *weight) {
                group.known_count += count;
            } else {
                *group.more.entry((clause, *weight)).or_default() += count;
                *group.severities.entry(*weight).or_default() += count;
            }
        }
    }
    let mut groups: Vec<FindingGroup<'r>> = groups.into_values().collect();
    for group in &mut groups {
        let worst = |shown: &ListedFinding<'_>| (shown.key.severity, Reverse(shown.entry.count));
        group.new.sort_by_key(worst);
        group.known.sort_by_key(worst);
    }
    groups.sort_by_key(|group| {
        Reverse(
            [Severity::Breach, Severity::Warning, Severity::Note].map(|weight| group.count(weight)),
        )
    });
    groups
}

impl<'r> FindingGroup<'r> {
    fn of(row: &'r EndpointRow, report: &CheckReport<'_>) -> Self {
        let name = row.name(report.contract);
        let (new, known) = Default::default();
        let (more, severities) = Default::default();
        Self { row, name, new, known, more, severities, known_count: 0 }
    }

    fn add(&mut self, shown: ListedFinding<'r>, report: &CheckReport<'_>) {
        if report.gate.baseline.is_some_and(|since| since.knows(&shown.fingerprint)) {
            self.known_count += shown.entry.count;
            self.known.push(shown);
        } else {
            *self.severities.entry(shown.key.severity).or_default() += shown.entry.count;
            self.new.push(shown);
        }
    }

    /// How many are new of a severity.
    pub(crate) fn count(&self, weight: Severity) -> u64 {
        self.severities.get(&weight).copied().unwrap_or_default()
    }

    /// The clauses of its findings.
    pub(crate) fn clauses(&self) -> impl Iterator<Item = &'static str> {
        self.new.iter().map(|shown| shown.key.clause)
    }
}
