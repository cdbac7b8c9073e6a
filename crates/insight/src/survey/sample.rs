//! Samples that add up: of the paths at which something happened, of the names that responses gave.

use std::collections::BTreeSet;

use faithful_clerk_model::stable_hash::StableHash;
use serde::{Deserialize, Serialize};

/// The things with the smallest hashes, at most so many, so that the samples of parts add up to that of the whole, and two
/// samples can be compared.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct HashSample<const MOST: usize> {
    hashes: BTreeSet<StableHash>,
}

/// Paths, by their decoded segments.
pub type PathSample = HashSample<32>;

/// Names that responses gave to things.
pub type NameSample = HashSample<4096>;

fn hash(thing: &[impl AsRef<str>]) -> StableHash {
    StableHash::of(thing.iter().map(|text| text.as_ref().as_bytes()))
}

impl<const MOST: usize> HashSample<MOST> {
    /// One thing, by its texts.
    #[must_use]
    pub fn of(thing: &[impl AsRef<str>]) -> Self {
        Self { hashes: BTreeSet::from([hash(thing)]) }
    }

    /// Adds one thing.
    pub fn note(&mut self, thing: &[impl AsRef<str>]) {
        let hash = hash(thing);
        if self.hashes.len() < MOST || self.hashes.last().is_some_and(|last| hash < *last) {
            self.hashes.insert(hash);
            self.shorten();
        }
    }

    /// Is this thing in it?
    #[must_use]
    pub fn has(&self, thing: &[impl AsRef<str>]) -> bool {
        !self.hashes.is_empty() && self.hashes.contains(&hash(thing))
    }

    /// Adds another sample.
    pub fn add(&mut self, other: &Self) {
        self.hashes.extend(&other.hashes);
        self.shorten();
    }

    fn shorten(&mut self) {
        while self.hashes.len() > MOST {
            self.hashes.pop_last();
        }
    }

    /// Up to which hash are all of its paths known?
    fn bound(&self) -> StableHash {
        let last = self.hashes.last().filter(|_| self.hashes.len() == MOST);
        last.copied().unwrap_or(StableHash::LAST)
    }

    /// Does the other have every path of this one, as far as both are known? `false` where nothing can be compared.
    #[must_use]
    pub fn is_within(&self, other: &Self) -> bool {
        let bound = other.bound();
        let mut known = self.hashes.iter().filter(|hash| **hash <= bound).peekable();
        known.peek().is_some() && known.all(|hash| other.hashes.contains(hash))
    }

    /// Does any path stand in both?
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        !self.hashes.is_disjoint(&other.hashes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sample(paths: impl IntoIterator<Item = usize>) -> PathSample {
        let mut sum = PathSample::default();
        for path in paths {
            sum.add(&PathSample::of(["berths".to_owned(), path.to_string()].as_slice()));
        }
        sum
    }

    #[test]
    fn samples_of_parts_add_up_and_can_be_compared() {
        let all = sample(0..1000);
        let mut parts = sample(500..1000);
        parts.add(&sample(0..500));
        assert_eq!(parts, all);
        assert!(sample([1, 2]).is_within(&sample([1, 2, 3])));
        assert!(!sample([1, 4]).is_within(&sample([1, 2, 3])));
        assert!(!sample([]).is_within(&all), "nothing can be compared");
        assert!(sample(0..500).is_within(&all));
        assert!(!all.is_within(&sample(0..500)));
        assert!(!sample(1000..2000).is_within(&all));
        assert!(sample([1, 2]).meets(&sample([2, 3])) && !sample([1]).meets(&sample([2])));
    }
}
