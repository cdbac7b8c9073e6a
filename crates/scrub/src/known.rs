//! The secrets that were found, and where they stand once more: in time that depends on the text alone, however many there are.

use std::collections::{BTreeSet, HashMap, HashSet};
use std::hash::BuildHasher as _;
use std::ops::Range;

use faithful_clerk_model::secret::TextSigns;
use foldhash::fast::{FixedState, RandomState};
use serde::{Deserialize, Serialize};

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

    /// The words by which they are found.
    pub(super) fn words(&self) -> KnownWords {
        let mut known = KnownWords::default();
        for secret in &self.all {
            let bytes = secret.as_bytes();
            for range in words(secret) {
                let Some(word) = secret.get(range.clone()) else { continue };
                if !self
                    .frames
                    .get(word)
                    .is_some_and(|all| all.contains(&(range.start, secret.len())))
                {
                    continue;
                }
                if is_noted(word) {
                    let byte = |at: Option<usize>| at.and_then(|at| bytes.get(at)).copied();
                    let around = [byte(range.start.checked_sub(1)), byte(Some(range.end))];
                    let around = around.map(Option::unwrap_or_default);
                    known.around.entry(hash(word)).or_default().insert(around);
                } else {
                    known.has_others = true;
                }
            }
        }
        known
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

/// A word with a digit in it that is this long, or any that is that long, is noted on the first pass: a known secret whose longest
/// word is another can stand anywhere.
pub(super) const SHORTEST_WITH_DIGIT: usize = 5;
pub(super) const SHORTEST_OTHER: usize = 16;

fn is_noted(word: &str) -> bool {
    let has_digit = || word.bytes().any(|byte| byte.is_ascii_digit());
    word.is_ascii()
        && (word.len() >= SHORTEST_OTHER || word.len() >= SHORTEST_WITH_DIGIT && has_digit())
}

/// A noted word: its hash, and in the lowest two bytes what stands before and behind it, or zeros.
type NotedWord = u64;

/// The noted words of a text.
pub(super) fn noted_words(text: &str) -> impl Iterator<Item = NotedWord> {
    let byte = |at: Option<usize>| at.and_then(|at| text.as_bytes().get(at)).copied();
    words(text).filter_map(move |range| {
        let word = text.get(range.clone()).filter(|word| is_noted(word))?;
        let around = [byte(range.start.checked_sub(1)), byte(Some(range.end))];
        Some(hash(word) | u64::from(u16::from_be_bytes(around.map(Option::unwrap_or_default))))
    })
}

/// The hash of a word; the lowest two bytes are zeros.
fn hash(word: &str) -> u64 {
    FixedState::default().hash_one(word) & !0xffff
}

/// The words of known secrets, by which it is told what has to be gone over again.
#[derive(Debug, Default)]
pub(super) struct KnownWords {
    /// What stands in the secrets before and behind each of those that are noted; zero where the secret begins or ends.
    around: HashMap<u64, BTreeSet<[u8; 2]>, RandomState>,
    /// There is one that is not noted.
    has_others: bool,
}

impl KnownWords {
    /// Can one of them be among these?
    pub(super) fn may_be_among(&self, noted: &NotedWords) -> bool {
        self.has_others || noted.is_beyond || noted.words.iter().any(|word| self.fits(*word))
    }

    /// Those that may be anywhere.
    #[cfg(test)]
    pub(super) fn any() -> Self {
        Self { has_others: true, ..Self::default() }
    }

    fn fits(&self, word: NotedWord) -> bool {
        let [.., before, behind] = word.to_be_bytes();
        let fits = |known: u8, here: u8| known == 0 || known == here;
        self.around.get(&(word & !0xffff)).is_some_and(|around| {
            around.iter().any(|known| fits(known[0], before) && fits(known[1], behind))
        })
    }
}

/// So many different words are kept of a batch, and so many are noted in it.
const MOST_KEPT: usize = 1 << 16;
const MOST_NOTED: usize = 1 << 18;

/// What was noted of the words of a batch.
#[derive(Debug, Default, Serialize, Deserialize)]
pub(super) struct NotedWords {
    words: Vec<NotedWord>,
    /// There were more than are noted.
    is_beyond: bool,
}

impl NotedWords {
    pub(super) fn of(log: WordLog) -> Self {
        let WordLog { mut words, is_full } = log;
        words.sort_unstable();
        words.dedup();
        let is_beyond = is_full || words.len() > MOST_KEPT;
        words.truncate(if is_beyond { 0 } else { MOST_KEPT });
        Self { words, is_beyond }
    }
}

/// The words of a batch as they come.
#[derive(Debug, Default)]
pub(super) struct WordLog {
    words: Vec<NotedWord>,
    /// There was no room for some.
    is_full: bool,
}

impl WordLog {
    /// So many were noted.
    pub(super) fn len(&self) -> usize {
        self.words.len()
    }

    /// Those that were noted since there were so many; nothing if there was no room for some.
    pub(super) fn since(&self, count: usize) -> Option<&[NotedWord]> {
        self.words.get(count..).filter(|_| !self.is_full)
    }

    pub(super) fn note(&mut self, words: impl IntoIterator<Item = NotedWord>) {
        for word in words {
            self.is_full |= self.words.len() >= MOST_NOTED;
            if self.is_full {
                return;
            }
            self.words.push(word);
        }
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

    fn noted(texts: &[&str]) -> NotedWords {
        let mut log = WordLog::default();
        texts.iter().for_each(|text| log.note(noted_words(text)));
        NotedWords::of(log)
    }

    #[test]
    fn words_tell_whether_a_known_secret_may_stand_in_a_text() {
        let mut known = KnownSecrets::default();
        known.insert("view-4167fbd5/x");
        known.insert("q7x9k2m4");
        let words = known.words();
        for text in ["(view-4167fbd5/x)", "a q7x9k2m4.", "other-4167fbd5/y"] {
            assert!(words.may_be_among(&noted(&["", text])), "{text}");
        }
        for text in ["4167fbd5/x", "view-4167fbd5", "q7x9k2m45", "", "quay 12"] {
            assert!(!words.may_be_among(&noted(&["", text])), "{text}");
        }
        // Words of letters alone, and short ones, are not noted.
        known.insert("correct-horse-9");
        assert!(known.words().may_be_among(&noted(&[])));
    }

    #[test]
    fn a_batch_with_more_words_than_are_noted_may_have_any() {
        let text: String = (0..MOST_KEPT + 1).map(|n| format!("{} ", 100_000 + n)).collect();
        let mut known = KnownSecrets::default();
        known.insert("q7x9k2m4");
        assert!(known.words().may_be_among(&noted(&[&text])));
        let log = |count: usize| {
            let mut log = WordLog::default();
            log.note((0..count as u64).map(|n| n % 7));
            (log.since(0).is_some(), NotedWords::of(log).is_beyond)
        };
        assert_eq!((log(MOST_NOTED), log(MOST_NOTED + 1)), ((true, false), (false, true)));
    }
}
