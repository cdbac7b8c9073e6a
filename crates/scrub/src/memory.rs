//! What is remembered of names and texts that came before: most of them come again and again.

use std::hash::BuildHasher as _;
use std::sync::Arc;

use foldhash::fast::RandomState;

use super::entry::PairSort;
use super::message::HeaderSort;
use super::tape::Token;
use faithful_clerk_model::secret::SecretKind;

/// So many of each are remembered, none of them longer than this.
const SLOTS: usize = 4096;
const LONGEST: usize = 256;

/// A pair with more noted words is not remembered.
const MOST_WORDS: usize = 8;

/// The last values that belong to texts. Each text has one slot, and takes it from the one that was there.
#[derive(Debug)]
struct Recent<V> {
    slots: Vec<Option<(Box<str>, V)>>,
    hasher: RandomState,
}

impl<V> Default for Recent<V> {
    fn default() -> Self {
        Self { slots: Vec::new(), hasher: RandomState::default() }
    }
}

impl<V: Clone> Recent<V> {
    fn slot(&self, text: &str) -> usize {
        usize::try_from(self.hasher.hash_one(text) % SLOTS as u64).unwrap_or_default()
    }

    fn get(&self, text: &str) -> Option<&V> {
        let (known, value) = self.slots.get(self.slot(text))?.as_ref()?;
        (**known == *text).then_some(value)
    }

    fn enter(&mut self, text: &str, value: V) {
        if text.len() > LONGEST {
            return;
        }
        if self.slots.is_empty() {
            self.slots.resize_with(SLOTS, || None);
        }
        let slot = self.slot(text);
        if let Some(slot) = self.slots.get_mut(slot) {
            *slot = Some((text.into(), value));
        }
    }

    fn get_or_find(&mut self, text: &str, find: impl FnOnce() -> V) -> V {
        if let Some(known) = self.get(text) {
            return known.clone();
        }
        let found = find();
        self.enter(text, found.clone());
        found
    }
}

/// What is known of the name of a member, parameter or cookie.
#[derive(Debug, Clone, Copy)]
pub(super) struct NameFacts {
    /// What stands under it is a secret.
    pub(super) kind: Option<SecretKind>,
    /// Nothing in it is one, when it was looked into.
    plain: Option<Look>,
}

/// What is known of the name of a header field.
#[derive(Debug, Clone)]
pub(super) struct HeaderFacts {
    /// In small letters.
    pub(super) name: Arc<str>,
    /// What stands under it.
    pub(super) sort: HeaderSort,
}

/// A pair of a name and a value with nothing in it but some words.
#[derive(Debug, Clone)]
struct PlainPair {
    sort: PairSort,
    look: Look,
    words: Box<[u64]>,
}

/// What counts as a secret changes from one pass to the next; each has a number.
type Look = u32;

#[derive(Debug, Default)]
pub(super) struct Memory {
    look: Look,
    names: Recent<NameFacts>,
    headers: Recent<HeaderFacts>,
    pseudonyms: Recent<String>,
    pairs: Recent<PlainPair>,
    /// Room for what an entry is made of.
    pub(super) tokens: Vec<Token>,
}

impl Memory {
    /// Is a member, parameter or cookie of that name a secret?
    pub(super) fn name(
        &mut self,
        name: &str,
        find: impl FnOnce() -> Option<SecretKind>,
    ) -> NameFacts {
        self.names.get_or_find(name, || NameFacts { kind: find(), plain: None })
    }

    /// Was there nothing in this name?
    pub(super) fn is_plain_name(&self, facts: NameFacts) -> bool {
        facts.plain == Some(self.look)
    }

    /// Notes that there is nothing in a name.
    pub(super) fn enter_plain_name(&mut self, name: &str, facts: NameFacts) {
        self.names.enter(name, NameFacts { plain: Some(self.look), ..facts });
    }

    /// What a header field of that name holds.
    pub(super) fn header(&mut self, name: &str, find: impl FnOnce() -> HeaderFacts) -> HeaderFacts {
        self.headers.get_or_find(name, find)
    }

    /// The pseudonym of a secret.
    pub(super) fn pseudonym(&mut self, secret: &str, make: impl FnOnce() -> String) -> String {
        self.pseudonyms.get_or_find(secret, make)
    }

    /// The words of this pair of a name and a value, if there was nothing else in it.
    pub(super) fn plain_pair(&self, pair: &str, sort: PairSort) -> Option<&[u64]> {
        let known = self.pairs.get(pair).filter(|_| pair.len() <= LONGEST)?;
        (known.sort == sort && known.look == self.look).then_some(&known.words)
    }

    /// Notes that there is nothing in a pair but these words.
    pub(super) fn enter_plain_pair(&mut self, pair: &str, sort: PairSort, words: &[u64]) {
        if words.len() <= MOST_WORDS {
            self.pairs.enter(pair, PlainPair { sort, look: self.look, words: words.into() });
        }
    }

    /// Forgets what has nothing in it, since now something else counts.
    pub(super) fn forget_plain(&mut self) {
        self.look = self.look.wrapping_add(1);
    }
}
