//! What clauses that compare exchanges saw, until everything was seen.

use std::collections::{BTreeMap, BTreeSet};

use super::entries::keep_first;
use super::{Column, EndpointRow, FindingOccurrences};
use crate::clauses::Observation;
use faithful_clerk_model::address::{Address, Location};
use faithful_clerk_model::finding::{Expected, Got, Measured, ObservedValue, Subject};

/// Of one clause, so many subjects are compared.
pub const MOST_SUBJECTS: usize = 2000;

/// Of one subject, so many values are kept, and of one value so many places.
pub const MOST_VALUES: usize = 20;

/// What was seen, by clause and subject.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ObservedValues {
    subjects: BTreeMap<&'static str, BTreeMap<Subject, Values>>,
    /// The bounds that were reached, so that the result can tell.
    pub(super) bounds: BTreeSet<(&'static str, ComparisonBound)>,
}

/// What a clause compares only the first of, by their order.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, serde::Serialize, serde::Deserialize,
)]
#[serde(rename_all = "kebab-case")]
pub enum ComparisonBound {
    /// Subjects.
    Subjects,
    /// Different values of a subject.
    Values,
    /// The places where a value was seen: endpoint, situation and location.
    Locations,
}

impl ComparisonBound {
    /// What is compared, and what is left out.
    #[must_use]
    pub fn words(self) -> String {
        match self {
            Self::Subjects => format!("only the first {MOST_SUBJECTS} subjects were compared"),
            Self::Values => {
                format!("only the first {MOST_VALUES} values of a subject were compared")
            }
            Self::Locations => {
                format!("only the first {MOST_VALUES} places of a value are named")
            }
        }
    }
}

/// The values of one subject, each with the part of the recordings that it belongs to, if that matters.
pub(super) type Values = BTreeMap<(Option<String>, ObservedValue), Places>;

/// Where one value was seen.
pub(super) type Places = BTreeMap<(EndpointRow, Column, Location), FindingOccurrences>;

/// A value that is not like the others.
#[derive(Debug)]
pub(super) struct Outlier {
    pub(super) clause: &'static str,
    pub(super) subject: Subject,
    /// The part of the recordings and the value.
    pub(super) value: (Option<String>, ObservedValue),
    /// What it should have been.
    pub(super) expected: Expected,
    pub(super) got: Got,
    /// An exchange in which it is as it should be.
    pub(super) conforming: Option<Address>,
    pub(super) locations: Places,
}

/// What came of comparing: how often each clause was kept, and what is odd.
#[derive(Debug, Default)]
pub(super) struct ConsistencyResult {
    pub(super) met: BTreeMap<&'static str, u64>,
    pub(super) outliers: Vec<Outlier>,
}

impl ObservedValues {
    pub(super) fn enter(
        &mut self,
        observation: Observation,
        row: &EndpointRow,
        column: Column,
        address: Address,
    ) {
        let Observation { clause, subject, value, location, part } = observation;
        let (value, location) = ((part, value), (row.clone(), column, location));
        // Most values were observed before.
        let known = self.subjects.get_mut(clause).and_then(|subjects| subjects.get_mut(&subject));
        let known = known.and_then(|values| values.get_mut(&value)?.get_mut(&location));
        if let Some(entry) = known {
            entry.count += 1;
            return keep_first(&mut entry.first, address);
        }
        let entry = FindingOccurrences { count: 1, first: BTreeSet::from([address]) };
        let values = BTreeMap::from([(value, BTreeMap::from([(location, entry)]))]);
        self.add_values(clause, subject, values);
    }

    pub(super) fn add(&mut self, other: Self) {
        self.bounds.extend(other.bounds);
        for (clause, subjects) in other.subjects {
            for (subject, values) in subjects {
                self.add_values(clause, subject, values);
            }
        }
    }

    /// Every subject with its values.
    pub(super) fn iter(&self) -> impl Iterator<Item = (&'static str, &Subject, &Values)> {
        self.subjects.iter().flat_map(|(clause, subjects)| {
            subjects.iter().map(|(subject, values)| (*clause, subject, values))
        })
    }

    /// At every level those are kept that come first by their key, so that the order in which they come
    /// does not matter: what is among the first in the end was so all the time.
    pub(super) fn add_values(&mut self, clause: &'static str, subject: Subject, values: Values) {
        let subjects = self.subjects.entry(clause).or_default();
        let sum = subjects.entry(subject).or_default();
        for (value, locations) in values {
            let kept = sum.entry(value).or_default();
            for (location, entry) in locations {
                kept.entry(location).or_default().add(entry);
            }
            while kept.len() > MOST_VALUES {
                kept.pop_last();
                self.bounds.insert((clause, ComparisonBound::Locations));
            }
        }
        while sum.len() > MOST_VALUES {
            sum.pop_last();
            self.bounds.insert((clause, ComparisonBound::Values));
        }
        while subjects.len() > MOST_SUBJECTS {
            subjects.pop_last();
            self.bounds.insert((clause, ComparisonBound::Subjects));
        }
    }

    /// Compares the values of every subject; most of them say how it should be.
    pub(super) fn conclude(self) -> ConsistencyResult {
        let mut conclusion = ConsistencyResult::default();
        for (clause, subjects) in self.subjects {
            for (subject, values) in subjects {
                if values.keys().any(|(part, _)| part.is_some()) {
                    conclusion.parts(clause, &subject, values);
                } else {
                    conclusion.subject(clause, &subject, values);
                }
            }
        }
        conclusion
    }
}

fn count(locations: &Places) -> u64 {
    locations.values().map(|entry| entry.count).sum()
}

fn first(locations: &Places) -> Option<Address> {
    locations.values().filter_map(|entry| entry.first.first().copied()).min()
}

impl ConsistencyResult {
    fn subject(&mut self, clause: &'static str, subject: &Subject, mut values: Values) {
        let total: u64 = values.values().map(count).sum();
        let order = |locations: &Places| (count(locations), std::cmp::Reverse(first(locations)));
        let most = values.iter().max_by_key(|(_, locations)| order(locations));
        let Some(most) = most.map(|(value, _)| value.clone()) else { return };
        let locations = values.remove(&most).unwrap_or_default();
        let kept = count(&locations);
        // Most are more than half of at least three; else nobody knows which is right, only that they differ.
        let is_most = values.is_empty() || (total >= 3 && kept * 2 > total);
        if is_most {
            *self.met.entry(clause).or_default() += kept;
        }
        let conforming = first(&locations).filter(|_| is_most);
        for (value, locations) in values {
            let (kept, total) = (Measured::from(kept), Measured::from(total));
            let (value_of_most, subject_words) = (most.1.clone(), subject.clone());
            let expected = match is_most {
                true => Expected::AsMost(value_of_most, kept, total, subject_words),
                false => Expected::SameInAll(value_of_most, kept, total, subject_words),
            };
            self.outliers.push(Outlier {
                clause,
                subject: subject.clone(),
                expected,
                got: Got::Observed(value.1.clone()),
                value,
                conforming,
                locations,
            });
        }
    }

    /// Parts are compared where each says one thing; the part that came first says how it should be.
    fn parts(&mut self, clause: &'static str, subject: &Subject, values: Values) {
        let parts: BTreeSet<_> = values.keys().map(|(part, _)| part.clone()).collect();
        if parts.len() < 2 || parts.len() < values.len() {
            return;
        }
        let Some((leader, locations)) = values.iter().min_by_key(|(_, locations)| first(locations))
        else {
            return;
        };
        let (leader, conforming) = (leader.clone(), first(locations));
        let name = |part: &Option<String>| part.clone().unwrap_or_default();
        for ((part, seen), locations) in values {
            if seen == leader.1 {
                *self.met.entry(clause).or_default() += count(&locations);
                continue;
            }
            self.outliers.push(Outlier {
                clause,
                subject: subject.clone(),
                expected: Expected::AsPart(leader.1.clone(), name(&leader.0)),
                got: Got::ObservedIn(seen.clone(), name(&part)),
                value: (part, seen),
                conforming,
                locations,
            });
        }
    }
}
