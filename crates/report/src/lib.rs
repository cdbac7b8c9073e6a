//! Turns a ledger into something to read: text for a terminal, a page for a browser, JSON, JUnit XML, SARIF
//! and CSV for programs, Markdown for reviews.
//!
//! Nothing is computed here but layout. Text that comes from a recording enters an output only
//! through [`escape`].
#![forbid(unsafe_code)]
#![deny(missing_docs)]

pub mod compare;
pub mod contract;
pub mod coverage;
pub mod csv;
pub mod diagnostics;
pub mod drafted;
pub mod escape;
pub mod explain;
mod finding_text;
pub mod findings;
mod groups;
pub mod handbook;
pub mod html;
pub mod json;
pub mod junit;
pub mod markdown;
#[cfg(test)]
mod markdown_rendered;
mod page;
pub mod sarif;
mod shape_tree;
pub mod show;
pub mod survey;
pub mod text;
mod theme;

pub use theme::{ColorMode, MarkStyle, Theme};

use faithful_clerk_check::gate::Gate;
use faithful_clerk_check::grid::GridRows;
use faithful_clerk_check::ledger::ClauseFindings;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::finding::Severity;

pub use faithful_clerk_model::address::RecordingNames;

/// A check and what it was made of.
#[derive(Debug, Clone, Copy)]
pub struct CheckReport<'r> {
    /// The sum of the check.
    pub ledger: &'r Ledger,
    /// The contract.
    pub contract: &'r ErrorContract,
    /// The contract's path, as it was given.
    pub contract_path: &'r str,
    /// The names of the recordings, in the order of the run.
    pub recordings: &'r [String],
    /// Which findings let the check fail.
    pub gate: Gate<'r>,
    /// The name of the ledger that findings are compared with.
    pub baseline: Option<&'r str>,
    /// May it be that nothing was checked?
    pub allows_empty: bool,
    /// Which rows of the grid people are shown.
    pub grid_rows: GridRows,
}

impl<'r> CheckReport<'r> {
    /// A check with the usual gate.
    #[must_use]
    pub fn new(ledger: &'r Ledger, contract: &'r ErrorContract, recordings: &'r [String]) -> Self {
        let contract_path = "error-contract.toml";
        let (gate, grid_rows, allows_empty) = Default::default();
        Self {
            ledger,
            contract,
            contract_path,
            recordings,
            gate,
            baseline: None,
            allows_empty,
            grid_rows,
        }
    }
}

impl CheckReport<'_> {
    /// Was something checked, everything read, and every clause met, warnings and notes allowed?
    #[must_use]
    pub fn is_kept(&self) -> bool {
        let is_empty = self.ledger.checked == 0 && !self.allows_empty;
        !is_empty && self.ledger.count(Severity::Breach) == 0 && self.ledger.unreadable.count == 0
    }

    /// How many findings are waived.
    #[must_use]
    pub fn waived(&self) -> u64 {
        self.ledger.waived.values().map(ClauseFindings::count).sum()
    }

    /// The names of the recordings.
    #[must_use]
    pub fn names(&self) -> RecordingNames<'_> {
        RecordingNames(self.recordings)
    }

    /// The name of a recording.
    #[must_use]
    pub fn recording(&self, at: u32) -> &str {
        RecordingNames(self.recordings).recording(at)
    }

    /// An address as it is written: `FILE#N`.
    #[must_use]
    pub fn address(&self, address: Address) -> String {
        self.names().address(address)
    }
}
