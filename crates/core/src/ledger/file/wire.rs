//! How a ledger is written down.

use std::collections::BTreeMap;

use serde::{Deserialize, Deserializer, Serialize};

/// A number of exchanges or findings: small enough that sums of many don't overflow.
#[derive(Debug, Clone, Copy, Default, Serialize)]
pub(super) struct Count(pub(super) u64);

impl<'de> Deserialize<'de> for Count {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let count = u64::deserialize(deserializer)?;
        if count > 1 << 53 {
            return Err(serde::de::Error::custom("a number of exchanges beyond 2^53"));
        }
        Ok(Self(count))
    }
}

/// The head: what is asked before the rest is read.
#[derive(Debug, Deserialize)]
pub(super) struct Head {
    pub(super) format: String,
    pub(super) version: u64,
    pub(super) service: Option<String>,
    pub(super) contract: String,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct File {
    pub(super) format: String,
    pub(super) version: u32,
    pub(super) service: Option<String>,
    pub(super) contract: String,
    pub(super) recordings: Vec<String>,
    pub(super) found: Found,
    pub(super) judged: Count,
    pub(super) aside: BTreeMap<String, Count>,
    pub(super) unjudged: BTreeMap<String, Count>,
    pub(super) grid: Vec<Cell>,
    pub(super) findings: Vec<Findings>,
    pub(super) clauses: BTreeMap<String, Tally>,
    pub(super) weights: BTreeMap<String, Count>,
    pub(super) losses: Losses,
    pub(super) without_credentials: Vec<u32>,
    pub(super) waived: Vec<Waived>,
    pub(super) faults: BTreeMap<String, Count>,
    pub(super) cases: BTreeMap<usize, Count>,
    pub(super) compared: Vec<Compared>,
}

/// What had been found when it was written.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Found {
    pub(super) fingerprints: BTreeMap<String, Count>,
    pub(super) more: Vec<More>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct More {
    pub(super) row: String,
    pub(super) clause: String,
    pub(super) weight: String,
}

/// An address: the recording and the number.
pub(super) type At = (u32, u64);

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Cell {
    pub(super) row: String,
    pub(super) situation: Option<String>,
    pub(super) kept: Count,
    pub(super) broken: Count,
    pub(super) unjudged: Count,
    pub(super) first: Vec<At>,
    pub(super) first_broken: Vec<At>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Findings {
    pub(super) row: String,
    pub(super) clause: String,
    #[serde(flatten)]
    pub(super) entries: Entries,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Waived {
    pub(super) waiver: usize,
    #[serde(flatten)]
    pub(super) entries: Entries,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Entries {
    pub(super) entries: Vec<Entry>,
    pub(super) more: BTreeMap<String, Count>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Entry {
    pub(super) clause: String,
    pub(super) weight: String,
    pub(super) place: Place,
    pub(super) agreed: String,
    pub(super) seen: String,
    pub(super) note: Option<String>,
    pub(super) count: Count,
    pub(super) first: Vec<At>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(super) enum Place {
    Exchange,
    StatusLine,
    Header(String),
    Body,
    Pointer(String),
}

#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
pub(super) struct Tally {
    pub(super) kept: Count,
    pub(super) broken: Count,
    pub(super) unjudged: Count,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Losses {
    pub(super) count: Count,
    pub(super) first: Vec<Loss>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Loss {
    pub(super) recording: u32,
    pub(super) entry: Option<u64>,
    pub(super) offset: u64,
    pub(super) reason: String,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Compared {
    pub(super) clause: String,
    pub(super) subject: String,
    pub(super) values: Vec<Value>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Value {
    pub(super) part: Option<String>,
    pub(super) value: String,
    pub(super) places: Vec<Seen>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Seen {
    pub(super) row: String,
    pub(super) situation: Option<String>,
    pub(super) place: Place,
    pub(super) count: Count,
    pub(super) first: Vec<At>,
}
