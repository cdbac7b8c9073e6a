//! What a ledger was made by and of, beside its contract.

use std::collections::BTreeSet;
use std::fmt;

use serde::{Deserialize, Serialize};

/// How a check was made. Only ledgers of checks that were made alike add up.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LedgerOrigin {
    /// The version of the program: another one may check otherwise.
    pub program: String,
    /// Was everything checked, also what is not the service's own?
    pub all: bool,
    /// The format that the recordings were said to have.
    pub from: Option<String>,
    /// The digest of the map that read the recordings, where one did.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<String>,
    /// The largest exchange that was read, in bytes.
    pub max_exchange: u64,
    /// The day by which waivers were in force or expired.
    pub today: String,
}

/// A difference in how two checks were made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum OriginDifference {
    /// By other versions of the program.
    Program(String, String),
    /// With an option in one, and without or with another value in the other.
    Option(&'static str),
    /// By another day.
    Day(String, String),
}

impl LedgerOrigin {
    /// How this differs from another, if that matters to the sum. Days matter where waivers depend on them.
    #[must_use]
    pub fn difference(&self, other: &Self, has_waivers: bool) -> Option<OriginDifference> {
        let both = |one: &String, other: &String| (one.clone(), other.clone());
        if self.program != other.program {
            let (one, other) = both(&self.program, &other.program);
            return Some(OriginDifference::Program(one, other));
        }
        let options = [
            ("--all", self.all == other.all),
            ("--from", self.from == other.from),
            ("--map", self.map == other.map),
            ("--max-exchange", self.max_exchange == other.max_exchange),
        ];
        if let Some((option, _)) = options.into_iter().find(|(_, is_same)| !is_same) {
            return Some(OriginDifference::Option(option));
        }
        let is_other_day = has_waivers && self.today != other.today;
        let (one, other) = both(&self.today, &other.today);
        is_other_day.then_some(OriginDifference::Day(one, other))
    }
}

impl fmt::Display for OriginDifference {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Program(one, other) => write!(
                f,
                "it was made by version {one} of this program and the others by {other}: make all of them with one version"
            ),
            Self::Option(option) => write!(
                f,
                "it was made with another {option} than the others: make all of them with the same {option}"
            ),
            Self::Day(one, other) => write!(
                f,
                "its waivers are those in force on {one} and the others' on {other}: give all checks the same --today"
            ),
        }
    }
}

/// What a ledger is of.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LedgerSources {
    /// How the check was made.
    pub origin: LedgerOrigin,
    /// The names of its recordings, in the order of the run.
    pub recordings: Vec<String>,
    /// The digests of the bytes that were read, where they are known.
    #[serde(default)]
    pub digests: BTreeSet<String>,
}
