//! What a scrubber has to tell: what it replaced, what it blanked, and what it left though it looks random.

use std::collections::{BTreeMap, HashMap};

use foldhash::fast::RandomState;

use super::blank::{self, Blanks};
use super::scrubber::SecretLocation;
use faithful_clerk_model::secret::{RandomForm, SecretKind};

/// Of the name of a place, so many characters are reported.
const LONGEST_PLACE: usize = 60;

/// So many places are told apart.
const MOST_PLACES: usize = 200;

/// Where what is beyond `MOST_PLACES` is counted.
const OTHER_PLACES: &str = "other locations";

/// How often something was found, by what it is and its place.
pub type PlaceCounts<T> = BTreeMap<(T, String), u64>;

/// What a scrubber did.
#[derive(Debug, Default)]
pub struct ScrubReport {
    /// What was replaced.
    pub replaced: PlaceCounts<SecretKind>,
    /// What could not be looked into, and was blanked.
    pub blanks: Blanks,
    /// What was left, though it is long and looks random: ids as a rule, but nobody can tell by the form alone.
    pub left: PlaceCounts<RandomForm>,
}

impl ScrubReport {
    /// Adds what was found later in the same recording.
    pub(super) fn add(&mut self, later: Self) {
        add_counts(&mut self.replaced, later.replaced);
        add_counts(&mut self.left, later.left);
        blank::add(&mut self.blanks, later.blanks);
    }
}

/// So many places are counted before they are written out.
const MOST_COUNTED: usize = 256;

type NumbersByName = HashMap<Option<Box<str>>, usize, RandomState>;

/// What a scrubber counts on its way. A place is written out once, however much is counted there.
#[derive(Debug, Default)]
pub(super) struct Tally {
    /// The numbers of places, by kind and name.
    numbers: Vec<(&'static str, NumbersByName)>,
    places: Vec<String>,
    replaced: Vec<((SecretKind, usize), u64)>,
    left: Vec<((RandomForm, usize), u64)>,
}

impl Tally {
    fn number(&mut self, location: SecretLocation<'_>) -> usize {
        let at = self.numbers.iter().position(|(kind, _)| *kind == location.kind);
        let at = at.unwrap_or_else(|| {
            self.numbers.push((location.kind, HashMap::default()));
            self.numbers.len() - 1
        });
        let Some((_, numbers)) = self.numbers.get_mut(at) else { return 0 };
        let name = location.name.map(Box::from);
        *numbers.entry(name).or_insert_with(|| {
            self.places.push(location.to_string());
            self.places.len() - 1
        })
    }

    /// Counts a secret that was replaced.
    pub(super) fn replaced(&mut self, kind: SecretKind, location: SecretLocation<'_>) {
        let place = self.number(location);
        count(&mut self.replaced, (kind, place));
    }

    /// Counts what looks random, and was left.
    pub(super) fn left(&mut self, form: RandomForm, location: SecretLocation<'_>) {
        let place = self.number(location);
        count(&mut self.left, (form, place));
    }

    /// Should it be written out?
    pub(super) fn is_full(&self) -> bool {
        self.places.len() > MOST_COUNTED
    }

    /// Writes out what was counted.
    pub(super) fn write_to(&mut self, report: &mut ScrubReport) {
        let Self { places, replaced, left, .. } = std::mem::take(self);
        let place = |number: usize| places.get(number).cloned().unwrap_or_default();
        for ((kind, number), count) in replaced {
            count_at(&mut report.replaced, kind, place(number), count);
        }
        for ((form, number), count) in left {
            count_at(&mut report.left, form, place(number), count);
        }
    }
}

fn count<K: PartialEq>(counts: &mut Vec<(K, u64)>, key: K) {
    match counts.iter_mut().find(|(known, _)| *known == key) {
        Some((_, count)) => *count += 1,
        None => counts.push((key, 1)),
    }
}

fn add_counts<T: Ord + Copy>(counts: &mut PlaceCounts<T>, later: PlaceCounts<T>) {
    for ((what, place), count) in later {
        count_at(counts, what, place, count);
    }
}

/// Counts something at a place.
fn count_at<T: Ord + Copy>(counts: &mut PlaceCounts<T>, what: T, place: String, count: u64) {
    let is_long = place.len() > LONGEST_PLACE;
    let place = if is_long { place.chars().take(LONGEST_PLACE).collect() } else { place };
    let is_full = counts.len() >= MOST_PLACES;
    let key = (what, place);
    if let Some(known) = counts.get_mut(&key) {
        *known += count;
    } else {
        let place = if is_full { OTHER_PLACES.to_owned() } else { key.1 };
        *counts.entry((what, place)).or_default() += count;
    }
}
