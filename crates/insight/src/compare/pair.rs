//! Pairs: which request of one recording is which of the other.

use std::collections::{BTreeMap, HashMap, HashSet, VecDeque};

use super::side::ComparedExchange;

/// How close two requests are. The closest are paired first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Closeness {
    /// The very same request.
    Same,
    /// The same but for ids that the service made up.
    Linked,
    /// The same path; query or body have other values.
    Alike,
    /// The same template; the path has other values. Only responses of one status are compared.
    Kin,
}

/// A pair, by the places of both in their recordings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct ExchangePair {
    pub(super) before: usize,
    pub(super) after: usize,
    pub(super) closeness: Closeness,
}

/// Everything paired that can be, and what is left.
#[derive(Debug, Default)]
pub(super) struct Pairing {
    pub(super) pairs: Vec<ExchangePair>,
    /// Of each side: the request there only.
    pub(super) only: [Vec<usize>; 2],
    /// Of each side: the request on both, and here more often.
    pub(super) more_often: [Vec<usize>; 2],
}

/// Requests of both sides that have one key.
#[derive(Default)]
struct SameKeyRequests {
    sides: [Vec<usize>; 2],
}

/// Longer rows of equal requests are paired one by one.
const MOST_ALIGNED: usize = 64;

/// Pairs the exchanges of two sides. `equal` has, for each outcome of the second, the same number where the first has an
/// equal one.
pub(super) fn pairs(
    before: &[ComparedExchange],
    after: &[ComparedExchange],
    equal: &[Option<u32>],
) -> Pairing {
    let sides = [before, after];
    let mut paired = Pairing::default();
    let mut open: [Vec<usize>; 2] = [(0..before.len()).collect(), (0..after.len()).collect()];
    for closeness in [Closeness::Same, Closeness::Linked, Closeness::Alike, Closeness::Kin] {
        let key = |record: &ComparedExchange| match closeness {
            Closeness::Same => (record.request.same, 0),
            Closeness::Linked => (record.request.linked, 0),
            // With other values it may be in another situation: what was served is no partner for what was refused.
            Closeness::Alike => (record.request.alike, class(record.status)),
            // An unknown id and a known one are not the same thing asked twice.
            Closeness::Kin => (record.request.kin, record.status),
        };
        let mut twins: BTreeMap<(u128, u16), SameKeyRequests> = BTreeMap::new();
        for (side, (records, open)) in sides.iter().zip(&mut open).enumerate() {
            for at in open.drain(..) {
                let Some(record) = records.get(at) else { continue };
                let twins = twins.entry(key(record)).or_default();
                twins.sides.get_mut(side).into_iter().for_each(|locations| locations.push(at));
            }
        }
        for SameKeyRequests { sides: [mine, others] } in twins.into_values() {
            let is_same = |one: usize, other: usize| {
                let status =
                    |records: &[ComparedExchange], at: usize| records.get(at).map(|one| one.status);
                status(before, one) == status(after, other)
            };
            let mut together = Vec::new();
            if closeness <= Closeness::Linked {
                let outcome = |at: &usize| after.get(*at).map(|one| one.outcome as usize);
                let first = |at: &usize| before.get(*at).map(|one| one.outcome);
                let second = |at: &usize| equal.get(outcome(at)?).copied().flatten();
                together = equal_first(&mine, &others, &first, &second);
            }
            let rest = |all: &[usize], taken: HashSet<usize>| -> Vec<usize> {
                all.iter().copied().filter(|at| !taken.contains(at)).collect()
            };
            let mine_left = rest(&mine, together.iter().map(|(one, _)| *one).collect());
            let others_left = rest(&others, together.iter().map(|(_, other)| *other).collect());
            together.extend(align(&mine_left, &others_left, &is_same));
            let is_paired = !together.is_empty();
            let mine = rest(&mine, together.iter().map(|(one, _)| *one).collect());
            let others = rest(&others, together.iter().map(|(_, other)| *other).collect());
            let pair = |(before, after)| ExchangePair { before, after, closeness };
            paired.pairs.extend(together.into_iter().map(pair));
            // The very same asked once more is no other request.
            let repeats = is_paired && closeness <= Closeness::Linked;
            for (side, locations) in [mine, others].into_iter().enumerate() {
                let to = if repeats { &mut paired.more_often } else { &mut open };
                to.get_mut(side).into_iter().for_each(|to| to.extend(&locations));
            }
        }
        open.iter_mut().for_each(|open| open.sort_unstable());
        if closeness == Closeness::Alike {
            failures(sides, &mut open, &mut paired.pairs);
        }
    }
    paired.only = open;
    paired.pairs.sort_by_key(|pair| (pair.before, pair.after));
    paired
}

/// Success, refusal or failure.
fn class(status: u16) -> u16 {
    match status {
        0 => 0,
        1..400 => 2,
        400..500 => 4,
        500.. => 5,
    }
}

/// Pairs what failed on one side with what is alike on the other, whatever that got: a failure is in no situation.
fn failures(
    sides: [&[ComparedExchange]; 2],
    open: &mut [Vec<usize>; 2],
    pairs: &mut Vec<ExchangePair>,
) {
    let [before, after] = sides;
    let has_failed = |records: &[ComparedExchange], at: usize| {
        records.get(at).is_some_and(|record| matches!(class(record.status), 0 | 5))
    };
    let alike = |records: &[ComparedExchange], at: usize| {
        records.get(at).map(|record| record.request.alike)
    };
    let mut partners: HashMap<u128, VecDeque<usize>> = HashMap::new();
    for at in &open[1] {
        partners.entry(alike(after, *at).unwrap_or_default()).or_default().push_back(*at);
    }
    let mut taken: [HashSet<usize>; 2] = Default::default();
    for one in &open[0] {
        let Some(others) = alike(before, *one).and_then(|key| partners.get_mut(&key)) else {
            continue;
        };
        let fits = |other: &usize| has_failed(before, *one) != has_failed(after, *other);
        let Some(other) = others.iter().position(fits).and_then(|at| others.remove(at)) else {
            continue;
        };
        taken[0].insert(*one);
        taken[1].insert(other);
        pairs.push(ExchangePair { before: *one, after: other, closeness: Closeness::Alike });
    }
    for (open, taken) in open.iter_mut().zip(&taken) {
        open.retain(|at| !taken.contains(at));
    }
}

/// Pairs those of two rows of equal requests that got equal responses.
fn equal_first(
    mine: &[usize],
    others: &[usize],
    first: &dyn Fn(&usize) -> Option<u32>,
    second: &dyn Fn(&usize) -> Option<u32>,
) -> Vec<(usize, usize)> {
    let mut by_outcome: HashMap<u32, VecDeque<usize>> = HashMap::new();
    for other in others {
        if let Some(outcome) = second(other) {
            by_outcome.entry(outcome).or_default().push_back(*other);
        }
    }
    let partner = |one: &usize| Some((*one, by_outcome.get_mut(&first(one)?)?.pop_front()?));
    mine.iter().filter_map(partner).collect()
}

/// Pairs two rows of equal requests in their order. Where one was sent more often, as many as can be get a
/// partner with the same status.
fn align(
    mine: &[usize],
    others: &[usize],
    is_same: &dyn Fn(usize, usize) -> bool,
) -> Vec<(usize, usize)> {
    let one_by_one = || mine.iter().copied().zip(others.iter().copied()).collect();
    let longest = mine.len().max(others.len());
    if mine.len() == others.len() || longest > MOST_ALIGNED {
        return one_by_one();
    }
    // best[i][j]: the most that the first i and the first j can score.
    let mut best = vec![vec![0_u32; others.len() + 1]; mine.len() + 1];
    let score = |one: usize, other: usize| if is_same(one, other) { 1001 } else { 1000 };
    let at = |best: &[Vec<u32>], i: usize, j: usize| {
        best.get(i).and_then(|row| row.get(j)).copied().unwrap_or_default()
    };
    for (i, one) in mine.iter().enumerate() {
        for (j, other) in others.iter().enumerate() {
            let most = (at(&best, i, j) + score(*one, *other)).max(at(&best, i, j + 1)).max(at(
                &best,
                i + 1,
                j,
            ));
            if let Some(cell) = best.get_mut(i + 1).and_then(|row| row.get_mut(j + 1)) {
                *cell = most;
            }
        }
    }
    let (mut i, mut j) = (mine.len(), others.len());
    let mut found = Vec::new();
    while let (Some(one), Some(other)) =
        (i.checked_sub(1).and_then(|i| mine.get(i)), j.checked_sub(1).and_then(|j| others.get(j)))
    {
        if at(&best, i, j) == at(&best, i - 1, j - 1) + score(*one, *other) {
            found.push((*one, *other));
            (i, j) = (i - 1, j - 1);
        } else if at(&best, i, j) == at(&best, i - 1, j) {
            i -= 1;
        } else {
            j -= 1;
        }
    }
    found.reverse();
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_more_of_the_same_shifts_nothing() {
        // 200, 200, 404 against 200, 404: the second 200 is the one more.
        let (mine, others) = ([200, 200, 404], [200, 404]);
        let same = |one: usize, other: usize| mine[one] == others[other];
        let pairs = align(&[0, 1, 2], &[0, 1], &same);
        assert_eq!(pairs.len(), 2);
        assert!(pairs.iter().all(|(one, other)| same(*one, *other)), "{pairs:?}");
        assert_eq!(align(&[0, 1], &[0, 1], &same), [(0, 0), (1, 1)]);
        assert!(align(&[], &[0], &same).is_empty());
    }
}
