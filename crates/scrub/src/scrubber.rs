//! What is known of secrets while a recording is gone over.

use std::fmt;
use std::ops::Range;
use std::sync::Arc;

use super::ScrubKey;
use super::blank::{self, BlankReason};
use super::known::KnownSecrets;
use super::memory::Memory;
use super::personal::{can_be_personal, is_personal_name};
use super::report::{ScrubReport, count_at};
use faithful_clerk_model::json::folded;
pub(super) use faithful_clerk_model::secret::looks_random;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_model::secret::{
    SecretKind, SecretRules, can_be_secret, is_secret_name, random_spans,
};

/// What a contract declares may be shorter than what looks like a secret.
const SHORTEST_DECLARED: usize = 4;

/// So long is a name of a person that counts wherever it stands.
const SHORTEST_PERSONAL: usize = 8;

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
            // What is random in a name may be a secret, too.
            Some(name) if random_spans(name).next().is_some() => write!(f, "{} …", self.kind),
            Some(name) => write!(f, "{} {}", self.kind, masked(name)),
            None => f.write_str(self.kind),
        }
    }
}

/// Which way a recording is gone over.
#[derive(Debug, Clone, Copy)]
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
    /// What is of a person is replaced, too.
    pub(super) is_personal: bool,
    /// What was found on the first way.
    known: Arc<KnownSecrets>,
    phase: ScrubPhase,
    report: ScrubReport,
    pub(super) memory: Memory,
    /// The number of the entry that is gone over; 0 before the first.
    pub(super) entry: u64,
    /// So many parameters are around the one that is gone over.
    pub(super) nesting: usize,
}

impl<'r> Scrubber<'r> {
    /// A scrubber that has seen nothing yet.
    #[must_use]
    pub fn new(rules: &'r SecretRules, key: ScrubKey) -> Self {
        let (known, report, memory) = Default::default();
        let (phase, is_personal) = (ScrubPhase::Collect, false);
        Self { rules, key, is_personal, known, phase, report, memory, entry: 0, nesting: 0 }
    }

    /// Replaces what is of a person, too: addresses of e-mail, telephone and card numbers, names.
    #[must_use]
    pub fn personal(mut self, is_personal: bool) -> Self {
        self.is_personal = is_personal;
        self
    }

    /// Another one that goes on where this one is, with a report of its own.
    pub(super) fn fork(&self) -> Self {
        let known = match self.phase {
            ScrubPhase::Collect => Arc::default(),
            ScrubPhase::Replace => Arc::clone(&self.known),
        };
        let fork = Self::new(self.rules, self.key.clone()).personal(self.is_personal);
        Self { known, phase: self.phase, ..fork }
    }

    /// What was done since this was last asked; what was collected since stays.
    pub fn take_report(&mut self) -> ScrubReport {
        std::mem::take(&mut self.report)
    }

    /// What a fork collected since this was last asked.
    pub(super) fn take_known(&mut self) -> KnownSecrets {
        match self.phase {
            ScrubPhase::Collect => std::mem::take(Arc::make_mut(&mut self.known)),
            ScrubPhase::Replace => KnownSecrets::default(),
        }
    }

    /// Enters what a fork did.
    pub(super) fn join(&mut self, report: ScrubReport, known: KnownSecrets) {
        self.report.add(report);
        if !known.is_empty() {
            Arc::make_mut(&mut self.known).add(known);
        }
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

    /// What was found on the first way.
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
        if matches!(self.phase, ScrubPhase::Replace) {
            blank::note(&mut self.report.blanks, place, reason, self.entry);
        }
    }

    /// Notes what is left of a text and looks random.
    pub(super) fn left(&mut self, text: &str, location: SecretLocation<'_>) {
        if matches!(self.phase, ScrubPhase::Replace) {
            for (_, form) in random_spans(text) {
                count_at(&mut self.report.left, form, location.to_string(), 1);
            }
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
        let is_one = match kind {
            SecretKind::Named => can_be_secret(text),
            SecretKind::Personal => can_be_personal(text),
            _ => true,
        };
        if text.trim().is_empty() || !is_one || self.rules.public.contains(text) {
            return None;
        }
        if matches!(self.phase, ScrubPhase::Collect) {
            let is_known_elsewhere = match kind {
                SecretKind::Declared => text.len() >= SHORTEST_DECLARED,
                // A first name is a word, too, and a year is in many numbers.
                SecretKind::Personal => text.len() >= SHORTEST_PERSONAL && text.contains(' '),
                _ => false,
            };
            if (is_known_elsewhere || looks_random(text)) && !self.known.contains(text) {
                Arc::make_mut(&mut self.known).insert(text);
            }
            return None;
        }
        count_at(&mut self.report.replaced, kind, location.to_string(), 1);
        Some(self.pseudonym(text))
    }

    fn pseudonym(&mut self, secret: &str) -> String {
        self.memory.pseudonym(secret, || self.key.pseudonym(secret))
    }

    /// Is a member, parameter or cookie of that name a secret?
    pub(super) fn is_secret(&mut self, name: &str) -> Option<SecretKind> {
        let (rules, is_personal) = (self.rules, self.is_personal);
        self.memory.name(name, || kind_of(name, rules, is_personal))
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
