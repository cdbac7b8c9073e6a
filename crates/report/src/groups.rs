//! The findings of a check, grouped by endpoint, the worst first.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

use faithful_clerk_check::ledger::{EndpointRow, FindingKey, FindingOccurrences, fingerprint};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

use crate::CheckReport;
use crate::finding_text::FindingText;

/// What many endpoints have alike is told once, from so many endpoints on.
const FOLDED_FROM: usize = 4;

/// The findings of one endpoint, of requests that led to none, or of many endpoints alike.
pub(crate) struct FindingGroup<'r> {
    /// The endpoint; none where it is many.
    pub(crate) row: Option<&'r EndpointRow>,
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
    pub(crate) entry: Cow<'r, FindingOccurrences>,
    pub(crate) fingerprint: String,
    /// The endpoint that has it, or the first of those that do.
    pub(crate) row: &'r EndpointRow,
    /// How many endpoints have it.
    pub(crate) endpoints: usize,
    /// How many other reasons there are for it, where it is told once for many.
    other_reasons: usize,
}

impl ListedFinding<'_> {
    /// `before.har#22 #31 and 4 more`, and how many endpoints they are at where it is told once for many.
    pub(crate) fn addresses(&self, report: &CheckReport<'_>) -> String {
        let addresses = report.names().list(self.entry.count, &self.entry.first);
        match self.endpoints {
            1 => addresses,
            endpoints => format!("at {endpoints} endpoints: {addresses}"),
        }
    }

    /// Its words.
    pub(crate) fn text(&self, report: &CheckReport<'_>) -> FindingText {
        let text = FindingText::of_key(self.key, self.row, report.contract);
        match self.other_reasons {
            0 => text,
            1 => text.with_reasons("and for another reason"),
            others => text.with_reasons(&format!("and for {others} other reasons")),
        }
    }

    /// What has to be the same for findings of several endpoints to be told once.
    fn alike(&self) -> Alike<'_> {
        let FindingKey { severity, clause, location, expected, got, .. } = self.key;
        (*severity, clause, location, expected, got)
    }
}

type Alike<'k> = (Severity, &'k str, &'k Location, &'k Expected, &'k Got);

/// All groups; among equals the contract's order stays.
pub(crate) fn groups<'r>(report: &CheckReport<'r>) -> Vec<FindingGroup<'r>> {
    let mut groups: BTreeMap<&EndpointRow, FindingGroup<'r>> = BTreeMap::new();
    for ((row, clause), entries) in &report.ledger.findings {
        let group = groups.entry(row).or_insert_with(|| FindingGroup::of(row, report));
        for (key, entry) in &entries.kept {
            let shown = ListedFinding {
                key,
                entry: Cow::Borrowed(entry),
                fingerprint: fingerprint(&group.name, key),
                row,
                endpoints: 1,
                other_reasons: 0,
            };
            group.add(shown, report);
        }
        for (severity, count) in &entries.more {
            if report.gate.is_more_known(&group.name, clause, *severity) {
                group.known_count += count;
            } else {
                *group.more.entry((clause, *severity)).or_default() += count;
                *group.severities.entry(*severity).or_default() += count;
            }
        }
    }
    let mut groups: Vec<FindingGroup<'r>> = groups.into_values().collect();
    for group in &mut groups {
        sort(&mut group.new);
        sort(&mut group.known);
    }
    order(&mut groups);
    groups
}

/// The groups for people: what many endpoints have alike, such as a header that discloses a version, is told
/// once, before the endpoints.
pub(crate) fn folded_groups<'r>(report: &CheckReport<'r>) -> Vec<FindingGroup<'r>> {
    let mut groups = groups(report);
    let mut everywhere = FindingGroup::named("At several endpoints".to_owned());
    let mut alike: BTreeMap<Alike<'_>, Vec<ListedFinding<'r>>> = BTreeMap::new();
    for shown in groups.iter().flat_map(|group| &group.new) {
        alike.entry(shown.alike()).or_default().push(shown.clone());
    }
    alike.retain(|_, findings| endpoints_of(findings) >= FOLDED_FROM);
    let folded: BTreeSet<Alike<'_>> = alike.keys().copied().collect();
    if folded.is_empty() {
        drop((alike, folded));
        return groups;
    }
    let rest: Vec<Vec<ListedFinding<'r>>> = groups
        .iter()
        .map(|group| {
            let is_left = |shown: &&ListedFinding<'_>| !folded.contains(&shown.alike());
            group.new.iter().filter(is_left).cloned().collect()
        })
        .collect();
    alike.into_values().for_each(|findings| everywhere.fold(findings));
    for (group, rest) in groups.iter_mut().zip(rest) {
        group.keep(rest);
    }
    groups.retain(|group| !group.new.is_empty() || !group.more.is_empty() || group.known_count > 0);
    sort(&mut everywhere.new);
    order(&mut groups);
    groups.insert(0, everywhere);
    groups
}

/// How many endpoints have one of these; an endpoint may have several, each with a reason of its own.
fn endpoints_of(findings: &[ListedFinding<'_>]) -> usize {
    findings.iter().map(|shown| shown.row).collect::<BTreeSet<_>>().len()
}

/// The worst first, then by how many there are.
fn sort(findings: &mut [ListedFinding<'_>]) {
    findings.sort_by_key(|shown| (shown.key.severity, Reverse(shown.entry.count)));
}

/// The worst group first; among equals the contract's order stays.
fn order(groups: &mut [FindingGroup<'_>]) {
    groups.sort_by_key(|group| {
        Reverse(
            [Severity::Breach, Severity::Warning, Severity::Note]
                .map(|severity| group.count(severity)),
        )
    });
}

impl<'r> FindingGroup<'r> {
    fn named(name: String) -> Self {
        let (new, known, more, severities) = Default::default();
        Self { row: None, name, new, known, more, severities, known_count: 0 }
    }

    /// Keeps these of its new findings.
    fn keep(&mut self, rest: Vec<ListedFinding<'r>>) {
        let mut severities: BTreeMap<Severity, u64> = BTreeMap::new();
        for shown in &rest {
            *severities.entry(shown.key.severity).or_default() += shown.entry.count;
        }
        for ((_, severity), count) in &self.more {
            *severities.entry(*severity).or_default() += count;
        }
        self.new = rest;
        self.severities = severities;
    }

    /// Adds findings that are alike as one.
    fn fold(&mut self, mut alike: Vec<ListedFinding<'r>>) {
        alike.sort_by_key(|shown| shown.row);
        let mut sum = FindingOccurrences::default();
        alike.iter().for_each(|shown| sum.merge(&shown.entry));
        let endpoints = endpoints_of(&alike);
        let reasons: BTreeSet<_> = alike.iter().map(|shown| &shown.key.because).collect();
        let other_reasons = reasons.len().saturating_sub(1);
        if let Some(first) = alike.into_iter().next() {
            *self.severities.entry(first.key.severity).or_default() += sum.count;
            let entry = Cow::Owned(sum);
            self.new.push(ListedFinding { entry, endpoints, other_reasons, ..first });
        }
    }

    fn of(row: &'r EndpointRow, report: &CheckReport<'_>) -> Self {
        Self { row: Some(row), ..Self::named(row.name(report.contract)) }
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
    pub(crate) fn count(&self, severity: Severity) -> u64 {
        self.severities.get(&severity).copied().unwrap_or_default()
    }

    /// The clauses of its findings.
    pub(crate) fn clauses(&self) -> impl Iterator<Item = &'static str> {
        self.new.iter().map(|shown| shown.key.clause)
    }
}
