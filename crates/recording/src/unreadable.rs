//! What could not be read.

use std::collections::BTreeSet;

use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_model::exchange::Exchange;
use serde::{Deserialize, Serialize};

/// Of the unreadable parts of a run, so many are kept.
pub const MOST_UNREADABLE: usize = 50;

/// A part of a recording that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Unreadable {
    /// Which recording of the run, from 0.
    pub recording: u32,
    /// Where it stands, in bytes from the start of the file.
    pub offset: u64,
    /// The entry's number, from 1, where it is an entry.
    pub number: Option<u64>,
    /// What was expected there and what came.
    pub reason: String,
}

impl Unreadable {
    /// The body of a response could not be decoded; the rest of the exchange could be read.
    #[must_use]
    pub fn of_body(exchange: &Exchange<'_>, reason: &str) -> Self {
        Self {
            recording: exchange.address.recording,
            offset: exchange.offset,
            number: Some(exchange.address.number),
            reason: format!("the response body: {reason}"),
        }
    }
}

impl Unreadable {
    /// Where it is and why, in one line: `FILE#N, byte B: REASON`.
    #[must_use]
    pub fn told(&self, names: RecordingNames<'_>) -> String {
        let name = names.recording(self.recording);
        let at = self.number.map_or_else(|| name.to_owned(), |number| format!("{name}#{number}"));
        format!("{at}, byte {}: {}", self.offset, self.reason)
    }
}

/// Everything that could not be read: the first of it, and how much there was.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct UnreadableParts {
    /// The first, in the order of the run.
    pub first: BTreeSet<Unreadable>,
    /// How many there were.
    pub count: u64,
}

impl UnreadableParts {
    /// Enters one.
    pub fn enter(&mut self, unreadable: Unreadable) {
        self.count += 1;
        self.keep(unreadable);
    }

    /// Adds others to these.
    pub fn add(&mut self, other: Self) {
        self.count += other.count;
        for unreadable in other.first {
            self.keep(unreadable);
        }
    }

    fn keep(&mut self, unreadable: Unreadable) {
        self.first.insert(unreadable);
        while self.first.len() > MOST_UNREADABLE {
            self.first.pop_last();
        }
    }
}
