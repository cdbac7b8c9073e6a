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
pub mod fingerprint;
mod sum;
mod waivers;

pub use compared::{MOST_SUBJECTS, MOST_VALUES, ObservedValues};
pub use entries::{
    ClauseFindings, ClauseTallies, ClauseTally, Column, FindingKey, FindingOccurrences, LedgerCell,
    MOST_ADDRESSES, MOST_ENTRIES, column_name,
};
pub use faithful_clerk_contract::EndpointRow;
pub use file::{Baseline, LedgerError, RestoredLedger};
pub use fingerprint::fingerprint;
pub use sum::{Ledger, StaleWaiver};
pub use waivers::waivers;
