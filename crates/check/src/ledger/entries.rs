//! Rows, cells and entries: what a ledger is made of.

use std::collections::{BTreeMap, BTreeSet};

use crate::clauses::{COUNT, catalogue, index_of};
use faithful_clerk_model::address::{Address, Location};
use faithful_clerk_model::finding::{Because, Expected, Got, NotChecked, Severity};
use faithful_clerk_model::situation::Situation;

/// Of equal findings, the addresses of so many are kept.
pub const MOST_ADDRESSES: usize = 5;

/// Of one clause at one endpoint, so many different findings are kept.
pub const MOST_ENTRIES: usize = 50;

/// Where an exchange is counted in the grid: a situation, or none.
pub type Column = Option<Situation>;

/// What a column is called in outputs.
#[must_use]
pub fn column_name(column: Column) -> &'static str {
    column.map_or("valid", Situation::name)
}

/// The exchanges of one cell of the grid.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct LedgerCell {
    /// Those without a breach.
    pub met: u64,
    /// Those with one or more.
    pub broken: u64,
    /// Findings in it that came of comparing exchanges, breaches only.
    pub from_comparison: u64,
    /// Those whose response could not be checked wholly, and without a breach in what could.
    pub not_checked: u64,
    /// The first of them all.
    pub first: BTreeSet<Address>,
    /// The first of those with a breach.
    pub first_broken: BTreeSet<Address>,
}

/// Keeps an address if it is among the first.
pub(super) fn keep_first(first: &mut BTreeSet<Address>, address: Address) {
    if first.len() == MOST_ADDRESSES && first.last().is_some_and(|last| *last <= address) {
        return;
    }
    first.insert(address);
    if first.len() > MOST_ADDRESSES {
        first.pop_last();
    }
}

/// What makes two findings the same but for the exchange.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct FindingKey {
    /// The severity; breaches come first.
    pub severity: Severity,
    /// The clause's name.
    pub clause: &'static str,
    /// Where in the exchange.
    pub location: Location,
    /// What was expected.
    pub expected: Expected,
    /// What is there.
    pub got: Got,
    /// How the situation was recognised, or what else shows it.
    pub because: Option<Because>,
    /// What could not be checked because of it.
    pub not_checked: Option<NotChecked>,
    /// An exchange in which it is as declared, where exchanges were compared.
    pub conforming: Option<Address>,
}

/// Where equal findings stand.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FindingOccurrences {
    /// How many exchanges have it.
    pub count: u64,
    /// The first of them.
    pub first: BTreeSet<Address>,
}

/// The findings of one clause at one endpoint.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ClauseFindings {
    /// The kept ones.
    pub kept: BTreeMap<FindingKey, FindingOccurrences>,
    /// How many findings more there are, with other texts.
    pub more: BTreeMap<Severity, u64>,
}

/// How often a clause was kept, broken and not checked, in exchanges.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct ClauseTally {
    /// Kept.
    pub met: u64,
    /// Broken: at least one finding.
    pub broken: u64,
    /// It would speak of the exchange, but what it needs is not there.
    pub not_checked: u64,
}

/// The tallies of all clauses.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ClauseTallies([ClauseTally; COUNT]);

impl Default for ClauseTallies {
    fn default() -> Self {
        Self([ClauseTally::default(); COUNT])
    }
}

impl ClauseTallies {
    /// The clauses that were checked or should have been, in the order of their names.
    pub fn iter(&self) -> impl Iterator<Item = (&'static str, ClauseTally)> {
        let all = catalogue().zip(self.0).map(|(clause, tally)| (clause.name, tally));
        all.filter(|(_, tally)| *tally != ClauseTally::default())
    }

    /// The tally of the clause at this place of the catalogue; beyond it, nothing is counted.
    pub(super) fn at(&mut self, location: usize) -> Option<&mut ClauseTally> {
        self.0.get_mut(location)
    }

    /// The tally of the clause of that name.
    pub(super) fn of(&mut self, name: &str) -> Option<&mut ClauseTally> {
        self.at(index_of(name)?)
    }

    pub(super) fn add(&mut self, other: &Self) {
        for (sum, tally) in self.0.iter_mut().zip(other.0) {
            sum.met += tally.met;
            sum.broken += tally.broken;
            sum.not_checked += tally.not_checked;
        }
    }
}

impl ClauseFindings {
    /// Keeps the entries that come first by their key, so that it does not matter which came earlier:
    /// a key that is among the first in the end was among the first all the time.
    pub(super) fn add(&mut self, key: FindingKey, entry: FindingOccurrences) {
        self.kept.entry(key).or_default().add(entry);
        while self.kept.len() > MOST_ENTRIES {
            if let Some((key, entry)) = self.kept.pop_last() {
                *self.more.entry(key.severity).or_default() += entry.count;
            }
        }
    }

    /// Adds those of another sum.
    pub(super) fn merge(&mut self, other: Self) {
        for (key, entry) in other.kept {
            self.add(key, entry);
        }
        for (severity, count) in other.more {
            *self.more.entry(severity).or_default() += count;
        }
    }

    /// How many findings there are.
    #[must_use]
    pub fn count(&self) -> u64 {
        let kept: u64 = self.kept.values().map(|entry| entry.count).sum();
        kept + self.more.values().sum::<u64>()
    }
}

impl FindingOccurrences {
    /// Adds those of other exchanges.
    pub fn merge(&mut self, other: &Self) {
        self.add(other.clone());
    }

    /// Keeps the first addresses.
    pub(super) fn add(&mut self, other: Self) {
        self.count += other.count;
        other.first.into_iter().for_each(|address| keep_first(&mut self.first, address));
    }
}
