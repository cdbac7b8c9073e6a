//! The ledger: the sum of a check.
//!
//! Two ledgers of two parts add up to the ledger of both, in any order, so parts can be judged on any
//! number of threads and the outcome is the same. It does not grow with the recording either: of equal
//! findings only the first few addresses are kept, and of different findings of one clause at one
//! endpoint only the first few texts, the rest being counted.
//!
//! Clauses that compare exchanges can only be judged when everything was seen: [`Ledger::conclude`] does
//! that, once, at the end.

mod compared;
mod entries;
mod file;
pub(crate) mod fingerprint;
mod sum;
mod waivers;

pub use crate::contract::Row;
pub use compared::{Compared, MOST_SUBJECTS, MOST_VALUES};
pub use entries::{
    Cell, Column, Entries, Entry, Key, MOST_ADDRESSES, MOST_ENTRIES, Tallies, Tally,
};
pub use file::{Baseline, Refusal, Restored};
pub use fingerprint::fingerprint;
pub use sum::{Ledger, Stale};
pub use waivers::waivers;
