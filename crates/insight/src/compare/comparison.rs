//! The sum of a comparison.

use std::collections::{BTreeMap, BTreeSet};

use super::difference::{Change, Grade, changes};
use super::pair::{Closeness, ExchangePair, pairs};
use super::plan::{ComparisonKind, ComparisonPlan};
use super::response_summary::ResponseSummary;
use super::side::{ComparisonSide, is_unknown};
use faithful_clerk_model::address::Address;
use faithful_clerk_recording::UnreadableParts;

/// Of equal changes, the exchanges of so many pairs are kept.
const MOST_KEPT: usize = 5;

/// So many different changes are kept; the rest is counted.
const MOST_CHANGES: usize = 2000;

/// How many pairs there are of each grade, and what has no pair.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct PairCounts {
    /// Pairs in which something got worse.
    pub regressed: u64,
    /// Pairs in which something got better.
    pub fixed: u64,
    /// Pairs in which something is another.
    pub changed: u64,
    /// Pairs that are the same.
    pub unchanged: u64,
    /// Exchanges of the first recording only.
    pub only_before: u64,
    /// Exchanges of the second recording only.
    pub only_after: u64,
    /// Exchanges that both have, and one more often.
    pub more_often: u64,
    /// Pairs of which a body could not be compared.
    pub unknown: u64,
    /// Pairs that were not compared, since a side has more different responses than are kept.
    pub not_compared: u64,
}

impl PairCounts {
    /// How many pairs there are.
    #[must_use]
    pub fn pairs(&self) -> u64 {
        self.regressed + self.fixed + self.changed + self.unchanged
    }
}

/// Was anything compared?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Comparability {
    /// Yes.
    Compared,
    /// At least one of the recordings holds nothing to compare.
    Nothing,
    /// All there is was excluded.
    AllExcluded,
    /// Both hold something, and no request is in both: two services?
    Apart,
}

/// Where something was noted.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ChangeOccurrence {
    /// How often.
    pub count: u64,
    /// The first exchanges: before and after. What has no pair stands on both sides.
    pub first: BTreeSet<(Address, Address)>,
}

impl ChangeOccurrence {
    fn note(&mut self, before: Address, after: Address) {
        self.count += 1;
        self.first.insert((before, after));
        while self.first.len() > MOST_KEPT {
            self.first.pop_last();
        }
    }
}

/// Two recordings, compared.
#[derive(Debug)]
pub struct Comparison {
    /// What they are.
    pub between: ComparisonKind,
    /// The counts.
    pub counts: PairCounts,
    /// What is different, by the grade of the pair and the endpoint. A change has a grade of its own: in a pair
    /// in which something got worse, something else may be fixed.
    pub changes: BTreeMap<(Grade, String, Change), ChangeOccurrence>,
    /// Changes that are only counted.
    pub more: u64,
    /// How many pairs of each endpoint are of each grade.
    pub endpoints: BTreeMap<String, BTreeMap<Grade, u64>>,
    /// The request in one recording only, by endpoint.
    pub only: [BTreeMap<String, ChangeOccurrence>; 2],
    /// How many pairs are of each closeness.
    pub closeness: BTreeMap<Closeness, u64>,
    /// The services that requests went to, of each recording.
    pub origins: [Vec<String>; 2],
    /// What could not be read, of both.
    pub unreadable: UnreadableParts,
    /// What is none of the service's, of both.
    pub excluded: BTreeMap<&'static str, u64>,
}

/// Compares the two sides of a plan.
#[must_use]
pub fn compare(
    plan: &ComparisonPlan<'_>,
    before: ComparisonSide<'_>,
    after: ComparisonSide<'_>,
) -> Comparison {
    let paired = pairs(&before.records, &after.records, &after.equal_outcomes(&before));
    let mut sum = Comparison {
        between: plan.between,
        counts: PairCounts::default(),
        changes: BTreeMap::new(),
        more: 0,
        endpoints: BTreeMap::new(),
        only: Default::default(),
        closeness: BTreeMap::new(),
        origins: plan.origins.clone(),
        unreadable: UnreadableParts::default(),
        excluded: BTreeMap::new(),
    };
    for pair in &paired.pairs {
        sum.pair(&before, &after, *pair);
    }
    let sides = [&before, &after];
    for (at, (side, locations)) in sides.into_iter().zip(&paired.only).enumerate() {
        for record in locations.iter().filter_map(|location| side.records.get(*location)) {
            let name = name(side, record.endpoint);
            sum.only.get_mut(at).into_iter().for_each(|only| {
                only.entry(name.clone()).or_default().note(record.address, record.address);
            });
        }
    }
    let count = |locations: &Vec<usize>| locations.len() as u64;
    sum.counts.only_before = count(&paired.only[0]);
    sum.counts.only_after = count(&paired.only[1]);
    sum.counts.more_often = paired.more_often.iter().map(count).sum();
    for side in [before, after] {
        sum.unreadable.add(side.unreadable);
        for (reason, count) in side.excluded {
            *sum.excluded.entry(reason).or_default() += count;
        }
    }
    sum
}

fn name(side: &ComparisonSide<'_>, endpoint: u32) -> String {
    let at = usize::try_from(endpoint).ok();
    at.and_then(|at| side.endpoints.get(at)).cloned().unwrap_or_default()
}

impl Comparison {
    fn pair(
        &mut self,
        before: &ComparisonSide<'_>,
        after: &ComparisonSide<'_>,
        pair: ExchangePair,
    ) {
        let (Some(one), Some(other)) =
            (before.records.get(pair.before), after.records.get(pair.after))
        else {
            return;
        };
        let (Some(was), Some(is)) = (before.came(one), after.came(other)) else { return };
        if [was, is].into_iter().any(|came| *came == ResponseSummary::NotKept) {
            self.counts.not_compared += 1;
            return;
        }
        let found = changes(was, is, pair.closeness, self.between);
        let grade = found.iter().map(|change| change.grade).min().unwrap_or(Grade::Unchanged);
        *match grade {
            Grade::Regressed => &mut self.counts.regressed,
            Grade::Fixed => &mut self.counts.fixed,
            Grade::Changed => &mut self.counts.changed,
            Grade::Unchanged => &mut self.counts.unchanged,
        } += 1;
        self.counts.unknown += u64::from(is_unknown(was) || is_unknown(is));
        *self.closeness.entry(pair.closeness).or_default() += 1;
        let name = name(before, one.endpoint);
        *self.endpoints.entry(name.clone()).or_default().entry(grade).or_default() += 1;
        for change in found {
            let key = (grade, name.clone(), change);
            if self.changes.len() >= MOST_CHANGES && !self.changes.contains_key(&key) {
                self.more += 1;
            } else {
                self.changes.entry(key).or_default().note(one.address, other.address);
            }
        }
    }

    /// Was anything compared at all, and if not, why?
    #[must_use]
    pub fn standing(&self) -> Comparability {
        let PairCounts { only_before, only_after, .. } = self.counts;
        let any = only_before + only_after > 0;
        match (self.counts.pairs(), self.excluded.is_empty()) {
            (1.., _) => Comparability::Compared,
            (0, _) if only_before > 0 && only_after > 0 => Comparability::Apart,
            (0, false) if !any => Comparability::AllExcluded,
            (0, _) => Comparability::Nothing,
        }
    }
}
