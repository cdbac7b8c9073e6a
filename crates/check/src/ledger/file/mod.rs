//! A ledger as a file: what a check of one part of the recordings found, to be added to other parts'
//! later, or to tell later what is new.
//!
//! One JSON object, format `fclerk ledger`, version 1. It is written before comparisons are concluded,
//! since they can only be once everything was seen; the fingerprints of what was found by then stand
//! beside that. It holds what outputs hold: no body, and no secret that is not masked.

mod baseline;
mod error;
mod head;
mod origin;
mod read;
mod wire;
mod write;

pub use baseline::Baseline;
pub use error::LedgerError;
pub use head::{LEDGER_VERSION, LedgerHead};
pub use origin::{LedgerOrigin, LedgerSources, OriginDifference};
pub use read::RestoredLedger;

/// The name of the format of what a check found.
pub const CHECK_LEDGER: &str = "fclerk ledger";
