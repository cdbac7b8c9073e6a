//! What a scrubber has to tell: what it replaced, what it blanked, and what it left though it looks random.

use std::collections::BTreeMap;

use super::blank::{self, Blanks};
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

fn add_counts<T: Ord + Copy>(counts: &mut PlaceCounts<T>, later: PlaceCounts<T>) {
    for ((what, place), count) in later {
        count_at(counts, what, place, count);
    }
}

/// Counts something at a place.
pub(super) fn count_at<T: Ord + Copy>(
    counts: &mut PlaceCounts<T>,
    what: T,
    place: String,
    count: u64,
) {
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
