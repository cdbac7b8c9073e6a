//! The ledger: the sum of a check.
//!
//! Two ledgers of two parts add up to the ledger of both, in any order, so parts can be judged on any
//! number of threads and the outcome is the same. It does not grow with the recording either: of equal
//! findings only the first few addresses are kept, and of different findings of one clause at one
//! endpoint only the first few texts, the rest being counted.

use std::collections::{BTreeMap, BTreeSet};

use crate::address::{Address, Place};
use crate::clause::Judgement;
use crate::contract::EndpointId;
use crate::finding::{Finding, Weight};
use crate::place::{AnswerBody, CUT, Placed, Spot, Verdict};
use crate::recording::Loss;
use crate::situation::Situation;

/// Of equal findings, the addresses of so many are kept.
pub const MOST_ADDRESSES: usize = 5;

/// Of one clause at one endpoint, so many different findings are kept.
pub const MOST_ENTRIES: usize = 50;

/// Of the losses of a run, so many are kept.
pub const MOST_LOSSES: usize = 50;

/// Where a finding is grouped: an endpoint, or a request that led to none.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum Row {
    /// An endpoint of the contract.
    Endpoint(EndpointId),
    /// A path of the contract without that method, told by the first of its endpoints.
    NoMethod(EndpointId),
    /// No path of the contract.
    NoRoute,
}

/// Where an exchange is counted in the grid: a situation, or none.
pub type Column = Option<Situation>;

/// The exchanges of one cell of the grid.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Cell {
    /// Those without a breach.
    pub kept: u64,
    /// Those with one or more.
    pub broken: u64,
    /// Those whose answer could not be judged wholly, and without a breach in what could.
    pub unjudged: u64,
}

/// What makes two findings the same but for the exchange.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Key {
    /// The weight; breaches come first.
    pub weight: Weight,
    /// The clause's name.
    pub clause: &'static str,
    /// Where in the exchange.
    pub place: Place,
    /// What was agreed.
    pub agreed: String,
    /// What was seen.
    pub seen: String,
    /// What else there is to know.
    pub note: Option<String>,
}

/// Where equal findings stand.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Entry {
    /// How many exchanges have it.
    pub count: u64,
    /// The first of them.
    pub first: BTreeSet<Address>,
}

/// The findings of one clause at one endpoint.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Entries {
    /// The kept ones.
    pub kept: BTreeMap<Key, Entry>,
    /// How many findings more there are, with other texts.
    pub more: BTreeMap<Weight, u64>,
}

/// How often a clause was kept, broken and not judged, in exchanges.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Tally {
    /// Kept.
    pub kept: u64,
    /// Broken: at least one finding.
    pub broken: u64,
    /// It would speak of the exchange, but what it needs is not there.
    pub unjudged: u64,
}

/// The sum of a check.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Ledger {
    /// Exchanges that were judged.
    pub judged: u64,
    /// Exchanges that are none of the service's, by reason.
    pub aside: BTreeMap<&'static str, u64>,
    /// Answers that could not be judged wholly, by reason, in exchanges.
    pub unjudged: BTreeMap<&'static str, u64>,
    /// The grid.
    pub grid: BTreeMap<(Row, Column), Cell>,
    /// The findings.
    pub findings: BTreeMap<(Row, &'static str), Entries>,
    /// Each clause's count.
    pub clauses: BTreeMap<&'static str, Tally>,
    /// How many findings there are of each weight.
    pub weights: BTreeMap<Weight, u64>,
    /// What could not be read, the first of it.
    pub losses: BTreeSet<Loss>,
    /// How many losses there were.
    pub lost: u64,
    /// The recordings without any credentials in them, in which `credentials-missing` was therefore
    /// not judged though an endpoint needs credentials.
    pub without_credentials: BTreeSet<u32>,
}

impl Ledger {
    /// An empty ledger.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Enters an exchange that is none of the service's.
    pub fn set_aside(&mut self, reason: &'static str) {
        *self.aside.entry(reason).or_default() += 1;
    }

    /// Enters what was found in one exchange.
    pub fn enter(&mut self, placed: &Placed<'_>, judgement: Judgement) {
        let Judgement { findings, kept, unjudged } = judgement;
        self.judged += 1;
        let row = match placed.spot {
            Spot::Endpoint(id, _) => Row::Endpoint(id),
            Spot::NoMethod(id) => Row::NoMethod(id),
            Spot::NoRoute => Row::NoRoute,
        };
        // Into a success nobody looks, so it does not matter if the recording kept its body; but one
        // that was cut is no success to rely on.
        let unknown = match placed.body_if_looked_at() {
            Some(AnswerBody::Unknown(reason)) => Some(*reason),
            None if placed.is_cut() => Some(CUT),
            _ => match placed.verdict {
                Verdict::NotJudged(reason) => Some(reason),
                _ => None,
            },
        };
        if let Some(reason) = unknown {
            *self.unjudged.entry(reason).or_default() += 1;
        }
        let cell = self.grid.entry((row.clone(), placed.shown_as())).or_default();
        if findings.iter().any(|finding| finding.weight == Weight::Breach) {
            cell.broken += 1;
        } else if unknown.is_some() {
            cell.unjudged += 1;
        } else {
            cell.kept += 1;
        }
        for name in kept {
            self.clauses.entry(name).or_default().kept += 1;
        }
        for name in unjudged {
            self.clauses.entry(name).or_default().unjudged += 1;
        }
        let broken: BTreeSet<_> = findings.iter().map(|finding| finding.clause).collect();
        for name in broken {
            self.clauses.entry(name).or_default().broken += 1;
        }
        for finding in findings {
            self.find(&row, finding);
        }
    }

    fn find(&mut self, row: &Row, finding: Finding) {
        let Finding { clause, weight, address, place, agreed, seen, note } = finding;
        *self.weights.entry(weight).or_default() += 1;
        let key = Key { weight, clause, place, agreed, seen, note };
        let entry = Entry { count: 1, first: BTreeSet::from([address]) };
        self.findings.entry((row.clone(), clause)).or_default().add(key, entry);
    }

    /// Enters something that could not be read.
    pub fn lose(&mut self, loss: Loss) {
        self.lost += 1;
        self.losses.insert(loss);
        while self.losses.len() > MOST_LOSSES {
            self.losses.pop_last();
        }
    }

    /// Adds another ledger to this one.
    pub fn add(&mut self, other: Self) {
        let Self {
            judged,
            aside,
            unjudged,
            grid,
            findings,
            clauses,
            weights,
            losses,
            lost,
            without_credentials,
        } = other;
        self.judged += judged;
        for (reason, count) in aside {
            *self.aside.entry(reason).or_default() += count;
        }
        for (reason, count) in unjudged {
            *self.unjudged.entry(reason).or_default() += count;
        }
        for (place, cell) in grid {
            let sum = self.grid.entry(place).or_default();
            sum.kept += cell.kept;
            sum.broken += cell.broken;
            sum.unjudged += cell.unjudged;
        }
        for (place, entries) in findings {
            let sum = self.findings.entry(place).or_default();
            for (key, entry) in entries.kept {
                sum.add(key, entry);
            }
            for (weight, count) in entries.more {
                *sum.more.entry(weight).or_default() += count;
            }
        }
        for (name, tally) in clauses {
            let sum = self.clauses.entry(name).or_default();
            sum.kept += tally.kept;
            sum.broken += tally.broken;
            sum.unjudged += tally.unjudged;
        }
        for (weight, count) in weights {
            *self.weights.entry(weight).or_default() += count;
        }
        // What was lost beyond the kept ones is only counted.
        let kept = losses.len() as u64;
        for loss in losses {
            self.lose(loss);
        }
        self.lost += lost - kept;
        self.without_credentials.extend(without_credentials);
    }

    /// How many findings there are of a weight.
    #[must_use]
    pub fn count(&self, weight: Weight) -> u64 {
        self.weights.get(&weight).copied().unwrap_or_default()
    }
}

impl Entries {
    /// Keeps the entries that come first by their key, so that it does not matter which came earlier:
    /// a key that is among the first in the end was among the first all the time.
    fn add(&mut self, key: Key, entry: Entry) {
        let sum = self.kept.entry(key).or_default();
        sum.count += entry.count;
        sum.first.extend(entry.first);
        while sum.first.len() > MOST_ADDRESSES {
            sum.first.pop_last();
        }
        while self.kept.len() > MOST_ENTRIES {
            if let Some((key, entry)) = self.kept.pop_last() {
                *self.more.entry(key.weight).or_default() += entry.count;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ledger(texts: &[u32], recording: u32) -> Ledger {
        let mut ledger = Ledger::new();
        for (number, text) in (1..).zip(texts) {
            ledger.find(
                &Row::NoRoute,
                Finding {
                    clause: "status.declared",
                    weight: if text % 3 == 0 { Weight::Remark } else { Weight::Breach },
                    address: Address { recording, number },
                    place: Place::StatusLine,
                    agreed: String::new(),
                    seen: format!("{text:04}"),
                    note: None,
                },
            );
            ledger.lose(Loss { recording, offset: number, number: None, reason: String::new() });
        }
        ledger
    }

    /// More texts, addresses and losses than are kept: the sum is the same whatever the order.
    #[test]
    fn ledgers_add_up_in_any_order() {
        let parts = [
            ledger(&(0..80).collect::<Vec<_>>(), 0),
            ledger(&(40..200).rev().collect::<Vec<_>>(), 1),
            ledger(&[3; 90], 2),
        ];
        let sum = |order: [usize; 3]| {
            let mut sum = Ledger::new();
            for at in order {
                sum.add(parts[at].clone());
            }
            sum
        };
        let first = sum([0, 1, 2]);
        for order in [[0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]] {
            assert_eq!(sum(order), first);
        }
        let entries = &first.findings[&(Row::NoRoute, "status.declared")];
        let kept: u64 = entries.kept.values().map(|entry| entry.count).sum();
        let more: u64 = entries.more.values().sum();
        assert_eq!((entries.kept.len(), kept + more), (MOST_ENTRIES, 330));
        assert_eq!((first.losses.len(), first.lost), (MOST_LOSSES, 330));
    }
}
