//! What is known of secrets while a recording is gone over.

use std::fmt;
use std::ops::Range;
use std::sync::Arc;

use super::ScrubKey;
use super::blank::{self, BlankReason};
use super::known::{
    KnownSecrets, KnownWords, NotedWords, SHORTEST_OTHER, SHORTEST_WITH_DIGIT, WordLog, noted_words,
};
use super::memory::{Memory, NameFacts};
use super::personal::{can_be_personal, is_personal_name};
use super::report::{ScrubReport, Tally};
use faithful_clerk_model::json::folded;
pub(super) use faithful_clerk_model::secret::looks_random;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_model::secret::{
    SHORTEST_RANDOM, SecretKind, SecretRules, TextSigns, can_be_secret, is_secret_name,
    random_spans,
};

/// What a contract declares may be shorter than what looks like a secret.
const SHORTEST_DECLARED: usize = 4;

/// So long is a name of a person that counts wherever it stands.
const SHORTEST_PERSONAL: usize = 8;

/// Where a secret stands, as the report says it; only written down where there is one.
#[derive(Debug, Clone, Copy)]
pub(super) struct SecretLocation<'p> {
    pub(super) kind: &'static str,
    pub(super) name: Option<&'p str>,
}

impl<'p> SecretLocation<'p> {
    /// A place without a name, such as a URL.
    pub(super) fn of(kind: &'static str) -> Self {
        Self { kind, name: None }
    }

    /// A place with a name, such as a member.
    pub(super) fn named(kind: &'static str, name: &'p str) -> Self {
        Self { kind, name: Some(name) }
    }
}

impl fmt::Display for SecretLocation<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.name {
            // What is random in a name may be a secret, too.
            Some(name) if random_spans(name).next().is_some() => write!(f, "{} …", self.kind),
            Some(name) => write!(f, "{} {}", self.kind, masked(name)),
            None => f.write_str(self.kind),
        }
    }
}

/// Which pass it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum ScrubPhase {
    /// Secrets are collected.
    Collect,
    /// Secrets are collected, and replaced where they can be told without knowing others.
    Draft,
    /// Secrets are replaced, known ones wherever they stand.
    Replace,
}

/// Collects secrets, then replaces them.
#[derive(Debug)]
pub struct Scrubber<'r> {
    pub(super) rules: &'r SecretRules,
    key: ScrubKey,
    /// What is of a person is replaced, too.
    pub(super) is_personal: bool,
    /// What was found on the first pass.
    known: Arc<KnownSecrets>,
    phase: ScrubPhase,
    report: ScrubReport,
    tally: Tally,
    pub(super) memory: Memory,
    /// The words that known secrets may be found by, as far as they were noted.
    pub(super) words: WordLog,
    /// So often something was found that has to be collected, replaced, blanked or told.
    pub(super) effects: u64,
    /// The number of the entry that is gone over; 0 before the first.
    pub(super) entry: u64,
    /// So many parameters are around the one that is gone over.
    pub(super) nesting: usize,
}

impl<'r> Scrubber<'r> {
    /// A scrubber that has seen nothing yet.
    #[must_use]
    pub fn new(rules: &'r SecretRules, key: ScrubKey) -> Self {
        Self {
            rules,
            key,
            is_personal: false,
            known: Arc::default(),
            phase: ScrubPhase::Collect,
            report: ScrubReport::default(),
            tally: Tally::default(),
            memory: Memory::default(),
            words: WordLog::default(),
            effects: 0,
            entry: 0,
            nesting: 0,
        }
    }

    /// Replaces what is of a person, too: addresses of e-mail, telephone and card numbers, names.
    #[must_use]
    pub fn personal(mut self, is_personal: bool) -> Self {
        self.is_personal = is_personal;
        self
    }

    /// Another one that goes on where this one is, with a report of its own.
    pub(super) fn fork(&self) -> Self {
        let (phase, known) = match self.phase {
            ScrubPhase::Replace => (ScrubPhase::Replace, Arc::clone(&self.known)),
            ScrubPhase::Collect | ScrubPhase::Draft => (ScrubPhase::Draft, Arc::default()),
        };
        let fork = Self::new(self.rules, self.key.clone()).personal(self.is_personal);
        Self { known, phase, ..fork }
    }

    /// What was done since this was last asked; what was collected since stays.
    pub fn take_report(&mut self) -> ScrubReport {
        self.write_out();
        std::mem::take(&mut self.report)
    }

    /// Enters what was counted into the report.
    pub(super) fn write_out(&mut self) {
        self.tally.write_to(&mut self.report);
    }

    /// What a fork collected since this was last asked.
    pub(super) fn take_known(&mut self) -> KnownSecrets {
        match self.phase {
            ScrubPhase::Replace => KnownSecrets::default(),
            ScrubPhase::Collect | ScrubPhase::Draft => {
                std::mem::take(Arc::make_mut(&mut self.known))
            }
        }
    }

    /// What a fork noted of words since this was last asked.
    pub(super) fn take_words(&mut self) -> NotedWords {
        NotedWords::of(std::mem::take(&mut self.words))
    }

    /// Enters what a fork did.
    pub(super) fn join(&mut self, report: ScrubReport) {
        self.report.add(report);
    }

    /// Enters what a fork collected.
    pub(super) fn join_known(&mut self, known: KnownSecrets) {
        if !known.is_empty() {
            Arc::make_mut(&mut self.known).add(known);
        }
    }

    /// The words by which what was collected is found.
    pub(super) fn known_words(&self) -> KnownWords {
        self.known.words()
    }

    /// Ends collecting: from now on secrets are replaced.
    pub fn begin(&mut self) {
        self.phase = ScrubPhase::Replace;
        self.memory.forget_plain();
    }

    /// Collects again, beside what was collected before.
    pub(super) fn collect_again(&mut self) {
        self.phase = ScrubPhase::Collect;
        self.memory.forget_plain();
    }

    /// What was found on the first pass.
    pub(super) fn into_known(self) -> Vec<String> {
        Arc::unwrap_or_clone(self.known).into_sorted()
    }

    /// What was done so far.
    #[must_use]
    pub fn report(&self) -> &ScrubReport {
        &self.report
    }

    /// Notes that something of the entry is blanked.
    pub(super) fn blanked(&mut self, place: &'static str, reason: BlankReason) {
        self.effects += 1;
        if self.phase != ScrubPhase::Collect {
            blank::note(&mut self.report.blanks, place, reason, self.entry);
        }
    }

    /// Is there nothing in a text with these signs that has to be looked at?
    pub(super) fn is_quiet(&self, signs: TextSigns) -> bool {
        let may_tell = match self.phase {
            ScrubPhase::Collect => false,
            ScrubPhase::Draft => {
                signs.longest_run >= SHORTEST_RANDOM
                    || signs.longest_with_digit >= SHORTEST_WITH_DIGIT
                    || signs.longest_word >= SHORTEST_OTHER
            }
            ScrubPhase::Replace => {
                signs.longest_run >= SHORTEST_RANDOM || self.known.may_be_in(signs)
            }
        };
        !may_tell && !signs.may_have_spans && !self.is_personal && self.rules.patterns.is_empty()
    }

    /// Notes what is left of a text and looks random.
    pub(super) fn left(&mut self, text: &str, location: SecretLocation<'_>) {
        if self.phase != ScrubPhase::Collect {
            for (_, form) in random_spans(text) {
                self.effects += 1;
                self.tally.left(form, location);
                self.write_out_if_full();
            }
        }
    }

    fn write_out_if_full(&mut self) {
        if self.tally.is_full() {
            self.write_out();
        }
    }

    /// Notes by which words of a text known secrets may be found in it.
    pub(super) fn note_words(&mut self, text: &str) {
        if self.phase == ScrubPhase::Draft {
            self.words.note(noted_words(text));
        }
    }

    /// Where known secrets stand in a text with these signs, on the second pass.
    pub(super) fn repeated(&self, text: &str, signs: TextSigns) -> Vec<Range<usize>> {
        match self.phase {
            ScrubPhase::Replace if self.known.may_be_in(signs) => self.known.find(text),
            _ => Vec::new(),
        }
    }

    /// Enters a secret; on the second pass, gives its pseudonym.
    pub(super) fn secret(
        &mut self,
        text: &str,
        kind: SecretKind,
        location: SecretLocation<'_>,
    ) -> Option<String> {
        if !self.is_one(text, kind) {
            return None;
        }
        self.collect_one(text, kind);
        if self.phase == ScrubPhase::Collect {
            return None;
        }
        self.effects += 1;
        self.tally.replaced(kind, location);
        self.write_out_if_full();
        Some(self.pseudonym(text))
    }

    /// Enters a secret that is not to be replaced here.
    pub(super) fn collect(&mut self, text: &str, kind: SecretKind) {
        if self.is_one(text, kind) {
            self.collect_one(text, kind);
        }
    }

    /// Can this text be a secret of that kind?
    fn is_one(&self, text: &str, kind: SecretKind) -> bool {
        let is_one = match kind {
            SecretKind::Named => can_be_secret(text),
            SecretKind::Personal => can_be_personal(text),
            _ => true,
        };
        is_one && !text.trim().is_empty() && !self.rules.public.contains(text)
    }

    fn collect_one(&mut self, text: &str, kind: SecretKind) {
        if self.phase == ScrubPhase::Replace {
            return;
        }
        let is_known_elsewhere = match kind {
            SecretKind::Declared => text.len() >= SHORTEST_DECLARED,
            // A first name is a word, too, and a year is in many numbers.
            SecretKind::Personal => text.len() >= SHORTEST_PERSONAL && text.contains(' '),
            _ => false,
        };
        if (is_known_elsewhere || looks_random(text)) && !self.known.contains(text) {
            self.effects += 1;
            Arc::make_mut(&mut self.known).insert(text);
        }
    }

    fn pseudonym(&mut self, secret: &str) -> String {
        self.memory.pseudonym(secret, || self.key.pseudonym(secret))
    }

    /// What is known of the name of a member, parameter or cookie.
    pub(super) fn name_facts(&mut self, name: &str) -> NameFacts {
        let (rules, is_personal) = (self.rules, self.is_personal);
        self.memory.name(name, || kind_of(name, rules, is_personal))
    }

    /// Is a member, parameter or cookie of that name a secret?
    pub(super) fn is_secret(&mut self, name: &str) -> Option<SecretKind> {
        self.name_facts(name).kind
    }
}

fn kind_of(name: &str, rules: &SecretRules, is_personal: bool) -> Option<SecretKind> {
    let declared = rules.names.iter().any(|known| folded(known) == folded(name));
    match declared {
        true => Some(SecretKind::Declared),
        false if is_secret_name(name) => Some(SecretKind::Named),
        false => (is_personal && is_personal_name(name, "")).then_some(SecretKind::Personal),
    }
}
