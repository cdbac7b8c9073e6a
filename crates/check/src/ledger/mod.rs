//! The ledger: the sum of a check.
//!
//! The ledgers of two parts add up to the ledger of both, in any order, so that parts can be checked on any
//! number of threads with the same result. A ledger does not grow with the recording either: of equal findings it keeps
//! the first few addresses, and of different findings of one clause at one endpoint the first few; the rest is counted.
//!
//! Clauses that compare exchanges can only be checked once all exchanges are known: [`Ledger::conclude`] does
//! that, once, at the end.

mod compared;
mod entries;
mod file;
pub mod fingerprint;
mod reach;
mod sum;
mod waivers;

pub use compared::{ComparisonBound, MOST_SUBJECTS, MOST_VALUES, ObservedValues};
pub use entries::{
    ClauseFindings, ClauseTallies, ClauseTally, Column, FindingKey, FindingOccurrences, LedgerCell,
    MOST_ADDRESSES, MOST_ENTRIES, column_name,
};
pub use faithful_clerk_contract::EndpointRow;
pub use file::{
    Baseline, CHECK_LEDGER, LEDGER_VERSION, LedgerError, LedgerHead, LedgerOrigin, LedgerSources,
    OriginDifference, RestoredLedger,
};
pub use fingerprint::fingerprint;
pub use reach::NearestServer;
pub(crate) use sum::why_not_checked;
pub use sum::{ComparisonFinding, ComparisonFindings, Ledger, StaleWaiver, UndecidedCredentials};
pub use waivers::waivers;
