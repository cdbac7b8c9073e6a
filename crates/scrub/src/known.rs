//! The secrets that were found, and where they stand once more: in time that depends on the text alone, however many there are.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::ops::Range;

use faithful_clerk_model::secret::TextSigns;
use foldhash::fast::RandomState;

/// How a secret lies around its longest word: so many bytes before it, and so many in all.
type Frame = (usize, usize);

/// Secrets, by the longest of their words.
#[derive(Debug, Clone, Default)]
pub(super) struct KnownSecrets {
    all: HashSet<String, RandomState>,
    frames: HashMap<String, BTreeSet<Frame>, RandomState>,
    /// The length of the shortest of these words, if there is one.
    shortest: Option<usize>,
}

impl KnownSecrets {
    pub(super) fn insert(&mut self, secret: &str) {
        if self.all.contains(secret) {
            return;
        }
        let longest = words(secret).max_by_key(|word| (word.len(), std::cmp::Reverse(word.start)));
        let Some(word) = longest else { return };
        let frame = (word.start, secret.len());
        let text = secret.get(word).unwrap_or_default();
        self.shortest = Some(self.shortest.map_or(text.len(), |known| known.min(text.len())));
        self.frames.entry(text.to_owned()).or_default().insert(frame);
        self.all.insert(secret.to_owned());
    }

    pub(super) fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    pub(super) fn contains(&self, secret: &str) -> bool {
        self.all.contains(secret)
    }

    /// Adds what was found elsewhere.
    pub(super) fn add(&mut self, others: Self) {
        self.all.extend(others.all);
        self.shortest = self.shortest.into_iter().chain(others.shortest).min();
        for (word, frames) in others.frames {
            self.frames.entry(word).or_default().extend(frames);
        }
    }

    pub(super) fn into_sorted(self) -> Vec<String> {
        let mut all: Vec<String> = self.all.into_iter().collect();
        all.sort();
        all
    }

    /// Can one of them stand in a text with these signs?
    pub(super) fn may_be_in(&self, signs: TextSigns) -> bool {
        self.shortest.is_some_and(|shortest| !signs.is_ascii || signs.longest_word >= shortest)
    }

    /// Where known secrets stand in a text, not as parts of longer words.
    pub(super) fn find(&self, text: &str) -> Vec<Range<usize>> {
        let mut found = Vec::new();
        if self.is_empty() {
            return found;
        }
        let is_word = |at: Option<usize>| {
            at.and_then(|at| text.as_bytes().get(at)).is_some_and(u8::is_ascii_alphanumeric)
        };
        let shortest = self.shortest.unwrap_or_default();
        for word in words(text).filter(|word| word.len() >= shortest) {
            let Some(frames) = text.get(word.clone()).and_then(|word| self.frames.get(word)) else {
                continue;
            };
            for (before, length) in frames {
                let Some(start) = word.start.checked_sub(*before) else { continue };
                let range = start..start + length;
                let is_known = text.get(range.clone()).is_some_and(|text| self.all.contains(text));
                if is_known && !is_word(start.checked_sub(1)) && !is_word(Some(range.end)) {
                    found.push(range);
                }
            }
        }
        found
    }
}

/// The runs of letters and digits of a text, those of ASCII and those of other scripts apart.
fn words(text: &str) -> impl Iterator<Item = Range<usize>> {
    let is_ascii = |c: char| c.is_ascii_alphanumeric();
    let is_other = |c: char| !c.is_ascii() && c.is_alphanumeric();
    let mut at = 0;
    std::iter::from_fn(move || {
        let rest = text.get(at..)?;
        let start = at + rest.find(|c| is_ascii(c) || is_other(c))?;
        let run = text.get(start..)?;
        let length = match run.starts_with(is_ascii) {
            true => run.find(|c| !is_ascii(c)),
            false => run.find(|c| !is_other(c)),
        };
        at = start + length.unwrap_or(run.len());
        Some(start..at)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_known_secret_is_found_wherever_it_stands_whole() {
        let mut known = KnownSecrets::default();
        for secret in ["q7x9k2m4", "-a.q7x9k2m4b5/é=", "eyJh.eyJz.c2ln", "ключ-ворот"] {
            known.insert(secret);
        }
        for (text, found) in [
            ("at q7x9k2m4, (q7x9k2m4)", vec!["q7x9k2m4", "q7x9k2m4"]),
            ("q7x9k2m45 aq7x9k2m4", vec![]),
            ("say -a.q7x9k2m4b5/é= now", vec!["-a.q7x9k2m4b5/é="]),
            ("eyJh.eyJz.c2ln", vec!["eyJh.eyJz.c2ln"]),
            ("eyJh.eyJz.other", vec![]),
            ("«ключ-ворот» ключ-воротный", vec!["ключ-ворот"]),
            ("q7x9k2m4é", vec!["q7x9k2m4"]),
            ("", vec![]),
        ] {
            let ranges = known.find(text);
            let texts: Vec<&str> = ranges.into_iter().map(|range| &text[range]).collect();
            assert_eq!(texts, found, "{text}");
        }
    }
}
