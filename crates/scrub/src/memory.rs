//! What is remembered of names and texts that came before: most of them come again and again.

use std::collections::{HashMap, HashSet};

use foldhash::fast::RandomState;

use super::message::HeaderSort;
use faithful_clerk_model::secret::SecretKind;

/// So many of each are remembered, none of them longer than this.
const MOST: usize = 4096;
const LONGEST: usize = 256;

#[derive(Debug, Default)]
pub(super) struct Memory {
    names: HashMap<String, Option<SecretKind>, RandomState>,
    headers: HashMap<String, HeaderSort, RandomState>,
    pseudonyms: HashMap<String, String, RandomState>,
    plain: HashSet<String, RandomState>,
}

impl Memory {
    /// Is a member, parameter or cookie of that name a secret?
    pub(super) fn name(
        &mut self,
        name: &str,
        find: impl FnOnce() -> Option<SecretKind>,
    ) -> Option<SecretKind> {
        remembered(&mut self.names, name, find)
    }

    /// What a header field of that name holds.
    pub(super) fn header_sort(
        &mut self,
        name: &str,
        find: impl FnOnce() -> HeaderSort,
    ) -> HeaderSort {
        remembered(&mut self.headers, name, find)
    }

    /// The pseudonym of a secret.
    pub(super) fn pseudonym(&mut self, secret: &str, make: impl FnOnce() -> String) -> String {
        remembered(&mut self.pseudonyms, secret, make)
    }

    /// Was this text found to have nothing in it?
    pub(super) fn is_plain(&self, text: &str) -> bool {
        text.len() <= LONGEST && self.plain.contains(text)
    }

    /// Notes that a text has nothing in it, if that `is_so`.
    pub(super) fn enter_plain(&mut self, text: &str, is_so: impl FnOnce() -> bool) {
        if text.len() <= LONGEST && self.plain.len() < MOST && is_so() {
            self.plain.insert(text.to_owned());
        }
    }

    /// Forgets which texts have nothing in them, since now something else counts.
    pub(super) fn forget_plain(&mut self) {
        self.plain.clear();
    }
}

fn remembered<T: Clone>(
    known: &mut HashMap<String, T, RandomState>,
    text: &str,
    find: impl FnOnce() -> T,
) -> T {
    if let Some(known) = known.get(text) {
        return known.clone();
    }
    let found = find();
    if text.len() <= LONGEST && known.len() < MOST {
        known.insert(text.to_owned(), found.clone());
    }
    found
}
