//! What is known of secrets while a recording is gone over.

use std::collections::{BTreeMap, HashMap};
use std::fmt;
use std::ops::Range;

use super::ScrubKey;
use super::blank::{self, BlankReason, Blanks};
use super::known::KnownSecrets;
use faithful_clerk_model::json::folded;
pub(super) use faithful_clerk_model::secret::looks_random;
use faithful_clerk_model::secret::{SecretKind, SecretRules, can_be_secret, is_secret_name};

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
    known: KnownSecrets,
    phase: ScrubPhase,
    replaced: BTreeMap<(SecretKind, String), u64>,
    /// What names that were asked about are.
    names: HashMap<String, Option<SecretKind>>,
    pseudonyms: HashMap<String, String>,
    blanks: Blanks,
    /// The number of the entry that is gone over; 0 before the first.
    pub(super) entry: u64,
    /// So many parameters are around the one that is gone over.
    pub(super) nesting: usize,
}

impl<'r> Scrubber<'r> {
    /// A scrubber that has seen nothing yet.
    #[must_use]
    pub fn new(rules: &'r SecretRules, key: ScrubKey) -> Self {
        let (names, pseudonyms) = Default::default();
        let (known, replaced, blanks) = Default::default();
        Self {
            rules,
            key,
            known,
            phase: ScrubPhase::Collect,
            replaced,
            names,
            pseudonyms,
            blanks,
            entry: 0,
            nesting: 0,
        }
    }

    /// Ends collecting: from now on secrets are replaced.
    pub fn begin(&mut self) {
        self.phase = ScrubPhase::Replace;
        self.entry = 0;
    }

    /// Collects again, beside what was collected before.
    pub(super) fn collect_again(&mut self) {
        self.phase = ScrubPhase::Collect;
    }

    /// What was found on the first way.
    pub(super) fn into_known(self) -> Vec<String> {
        self.known.into_sorted()
    }

    /// What was replaced, by kind and place, and how often.
    #[must_use]
    pub fn replaced(&self) -> &BTreeMap<(SecretKind, String), u64> {
        &self.replaced
    }

    /// What could not be looked into, and was blanked.
    #[must_use]
    pub fn blanks(&self) -> &Blanks {
        &self.blanks
    }

    /// Notes that something of the entry is blanked.
    pub(super) fn blanked(&mut self, place: &'static str, reason: BlankReason) {
        if matches!(self.phase, ScrubPhase::Replace) {
            blank::note(&mut self.blanks, place, reason, self.entry);
        }
    }

    /// Where known secrets stand in a text, on the second way.
    pub(super) fn repeated(&self, text: &str) -> Vec<Range<usize>> {
        match &self.phase {
            ScrubPhase::Collect => Vec::new(),
            ScrubPhase::Replace => self.known.find(text),
        }
    }

    /// Enters a secret; on the second way, gives its pseudonym.
    pub(super) fn secret(
        &mut self,
        text: &str,
        kind: SecretKind,
        location: SecretLocation<'_>,
    ) -> Option<String> {
        let is_one = kind != SecretKind::Named || can_be_secret(text);
        if text.trim().is_empty() || !is_one || self.rules.public.contains(text) {
            return None;
        }
        if matches!(self.phase, ScrubPhase::Collect) {
            let is_declared = kind == SecretKind::Declared && text.len() >= SHORTEST_DECLARED;
            if is_declared || looks_random(text) {
                self.known.insert(text);
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
