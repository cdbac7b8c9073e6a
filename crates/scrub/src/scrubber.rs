//! What is known of secrets while a recording is gone over.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::fmt;

use aho_corasick::{AhoCorasick, MatchKind};

use super::ScrubKey;
use faithful_clerk_model::json::folded;
use faithful_clerk_model::secret::{SecretKind, SecretRules, is_secret_name};

/// So many secrets are looked for where nothing tells that they are some.
const MOST_KNOWN: usize = 20_000;

/// What a contract declares may be shorter than what looks like a secret.
const SHORTEST_DECLARED: usize = 4;

/// So many names, and pseudonyms, are remembered, none of them longer than this: most of them come again and again.
const MOST_REMEMBERED: usize = 4096;
const LONGEST_REMEMBERED: usize = 256;

/// Of the name of a place, so many characters are reported.
const LONGEST_PLACE: usize = 60;

/// So many places are told apart in the report.
const MOST_PLACES: usize = 200;

/// Where a secret stands, as the report says it; only written down where there is one.
#[derive(Debug, Clone, Copy)]
pub(super) struct SecretLocation<'p> {
    kind: &'p str,
    name: Option<&'p str>,
}

impl<'p> SecretLocation<'p> {
    /// A place without a name, such as a URL.
    pub(super) fn of(kind: &'p str) -> Self {
        Self { kind, name: None }
    }

    /// A place with a name, such as a member.
    pub(super) fn named(kind: &'p str, name: &'p str) -> Self {
        Self { kind, name: Some(name) }
    }
}

impl fmt::Display for SecretLocation<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.name {
            Some(name) => write!(f, "{} {name}", self.kind),
            None => f.write_str(self.kind),
        }
    }
}

/// Which way a recording is gone over.
#[derive(Debug)]
enum ScrubPhase {
    /// Secrets are collected.
    Collect,
    /// Secrets are replaced.
    Replace,
}

/// Collects secrets, then replaces them.
#[derive(Debug)]
pub struct Scrubber<'r> {
    pub(super) rules: &'r SecretRules,
    key: ScrubKey,
    /// What was found on the first way.
    known: BTreeSet<String>,
    phase: ScrubPhase,
    /// What finds known secrets, and how many there were when it was made: a recorder begins with each exchange.
    search: Option<(usize, AhoCorasick)>,
    replaced: BTreeMap<(SecretKind, String), u64>,
    /// What names that were asked about are.
    names: HashMap<String, Option<SecretKind>>,
    pseudonyms: HashMap<String, String>,
    /// Bodies in a content coding in which there is a secret, and which were made unreadable therefore.
    pub(super) blanked: u64,
}

impl<'r> Scrubber<'r> {
    /// A scrubber that has seen nothing yet.
    #[must_use]
    pub fn new(rules: &'r SecretRules, key: ScrubKey) -> Self {
        let (names, pseudonyms) = Default::default();
        let (known, replaced) = (BTreeSet::new(), BTreeMap::new());
        Self {
            rules,
            key,
            known,
            phase: ScrubPhase::Collect,
            search: None,
            replaced,
            names,
            pseudonyms,
            blanked: 0,
        }
    }

    /// Ends collecting: from now on secrets are replaced.
    pub fn begin(&mut self) {
        self.phase = ScrubPhase::Replace;
        let count = self.known.len();
        if self.search.as_ref().is_none_or(|(known, _)| *known != count) {
            let search =
                AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(&self.known);
            self.search = search.ok().map(|search| (count, search));
        }
    }

    /// Collects again, beside what was collected before.
    pub(super) fn collect_again(&mut self) {
        self.phase = ScrubPhase::Collect;
    }

    /// What was found on the first way.
    pub(super) fn into_known(self) -> BTreeSet<String> {
        self.known
    }

    /// What was replaced, by kind and place, and how often.
    #[must_use]
    pub fn replaced(&self) -> &BTreeMap<(SecretKind, String), u64> {
        &self.replaced
    }

    /// How many bodies were made unreadable, since a secret in them could not be replaced.
    #[must_use]
    pub fn blanked(&self) -> u64 {
        self.blanked
    }

    /// What finds known secrets, on the second way.
    pub(super) fn search(&self) -> Option<AhoCorasick> {
        match &self.phase {
            ScrubPhase::Collect => None,
            // What searches is shared, not copied.
            ScrubPhase::Replace => self.search.as_ref().map(|(_, search)| search.clone()),
        }
    }

    /// Enters a secret; on the second way, gives its pseudonym.
    pub(super) fn secret(
        &mut self,
        text: &str,
        kind: SecretKind,
        location: SecretLocation<'_>,
    ) -> Option<String> {
        if text.trim().is_empty() {
            return None;
        }
        if matches!(self.phase, ScrubPhase::Collect) {
            let is_declared = kind == SecretKind::Declared && text.len() >= SHORTEST_DECLARED;
            if (is_declared || looks_random(text))
                && self.known.len() < MOST_KNOWN
                && !self.known.contains(text)
            {
                self.known.insert(text.to_owned());
            }
            return None;
        }
        let mut location: String = location.to_string().chars().take(LONGEST_PLACE).collect();
        if self.replaced.len() >= MOST_PLACES
            && !self.replaced.contains_key(&(kind, location.clone()))
        {
            "other locations".clone_into(&mut location);
        }
        *self.replaced.entry((kind, location)).or_default() += 1;
        Some(self.pseudonym(text))
    }

    fn pseudonym(&mut self, secret: &str) -> String {
        if let Some(pseudonym) = self.pseudonyms.get(secret) {
            return pseudonym.clone();
        }
        let pseudonym = self.key.pseudonym(secret);
        if self.pseudonyms.len() < MOST_REMEMBERED && secret.len() <= LONGEST_REMEMBERED {
            self.pseudonyms.insert(secret.to_owned(), pseudonym.clone());
        }
        pseudonym
    }

    /// Is a member, parameter or cookie of that name a secret?
    pub(super) fn is_secret(&mut self, name: &str) -> Option<SecretKind> {
        if let Some(known) = self.names.get(name) {
            return *known;
        }
        let kind = self.kind_of(name);
        if self.names.len() < MOST_REMEMBERED && name.len() <= LONGEST_REMEMBERED {
            self.names.insert(name.to_owned(), kind);
        }
        kind
    }

    fn kind_of(&self, name: &str) -> Option<SecretKind> {
        let declared = self.rules.names.iter().any(|known| folded(known) == folded(name));
        match declared {
            true => Some(SecretKind::Declared),
            false => is_secret_name(name).then_some(SecretKind::Named),
        }
    }
}

/// Is a text that is a secret in one place one in every other? A word is not.
pub(super) fn looks_random(text: &str) -> bool {
    let has = |what: fn(&char) -> bool| text.chars().any(|c| what(&c));
    let is_mixed = has(char::is_ascii_digit) && has(char::is_ascii_alphabetic);
    !has(|c| c.is_whitespace()) && text.len() >= 8 && (is_mixed || text.len() >= 20)
}
