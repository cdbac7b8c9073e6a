//! How a ledger is written down.

use std::collections::BTreeMap;

use serde::{Deserialize, Deserializer, Serialize};

use super::origin::LedgerOrigin;
use crate::ledger::ComparisonBound;
use faithful_clerk_model::finding::{Because, Expected, Got, NotChecked, ObservedValue, Subject};

/// A number of exchanges or findings: small enough that sums of many don't overflow.
#[derive(Debug, Clone, Copy, Default, Serialize)]
pub(super) struct WireCount(pub(super) u64);

impl<'de> Deserialize<'de> for WireCount {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let count = u64::deserialize(deserializer)?;
        if count > 1 << 53 {
            return Err(serde::de::Error::custom("a number of exchanges beyond 2^53"));
        }
        Ok(Self(count))
    }
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireFile {
    pub(super) format: String,
    pub(super) version: u32,
    pub(super) service: Option<String>,
    pub(super) contract: String,
    pub(super) origin: LedgerOrigin,
    pub(super) recordings: Vec<String>,
    #[serde(default)]
    pub(super) digests: Vec<String>,
    pub(super) found: WireFound,
    pub(super) sum: WireLedger,
    #[serde(default)]
    pub(super) undecided: Vec<WireUndecided>,
}

/// What can only be decided once all parts of a recording are there.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireUndecided {
    pub(super) recording: u32,
    pub(super) has_credentials: bool,
    pub(super) if_recorded: Option<WireLedger>,
    pub(super) if_not: Option<WireLedger>,
}

/// What a ledger holds.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireLedger {
    pub(super) checked: WireCount,
    pub(super) excluded: BTreeMap<String, WireCount>,
    #[serde(default)]
    pub(super) foreign: Vec<String>,
    pub(super) not_checked: BTreeMap<String, WireCount>,
    pub(super) grid: Vec<WireCell>,
    pub(super) findings: Vec<WireFindings>,
    pub(super) clauses: BTreeMap<String, WireTally>,
    pub(super) severities: BTreeMap<String, WireCount>,
    pub(super) unreadable: WireUnreadableParts,
    pub(super) without_credentials: Vec<u32>,
    pub(super) waived: Vec<WireWaived>,
    pub(super) faults: BTreeMap<String, WireCount>,
    pub(super) cases: BTreeMap<usize, WireCount>,
    pub(super) bounds: Vec<(String, ComparisonBound)>,
    pub(super) compared: Vec<WireObservedValues>,
}

/// What had been found when it was written.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireFound {
    pub(super) fingerprints: BTreeMap<String, WireCount>,
    pub(super) more: Vec<WireMore>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireMore {
    pub(super) row: String,
    pub(super) clause: String,
    pub(super) severity: String,
}

/// An address: the recording and the number.
pub(super) type At = (u32, u64);

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireCell {
    pub(super) row: String,
    pub(super) situation: Option<String>,
    pub(super) met: WireCount,
    pub(super) broken: WireCount,
    pub(super) not_checked: WireCount,
    pub(super) first: Vec<At>,
    pub(super) first_broken: Vec<At>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireFindings {
    pub(super) row: String,
    pub(super) clause: String,
    #[serde(flatten)]
    pub(super) entries: WireEntries,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireWaived {
    pub(super) waiver: usize,
    #[serde(flatten)]
    pub(super) entries: WireEntries,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireEntries {
    pub(super) entries: Vec<WireEntry>,
    pub(super) more: BTreeMap<String, WireCount>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireEntry {
    pub(super) clause: String,
    pub(super) severity: String,
    pub(super) location: WireLocation,
    pub(super) expected: Expected,
    pub(super) got: Got,
    pub(super) because: Option<Because>,
    pub(super) not_checked: Option<NotChecked>,
    pub(super) count: WireCount,
    pub(super) first: Vec<At>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(super) enum WireLocation {
    Exchange,
    StatusLine,
    Header(String),
    Body,
    Pointer(String),
}

#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
pub(super) struct WireTally {
    pub(super) met: WireCount,
    pub(super) broken: WireCount,
    pub(super) not_checked: WireCount,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireUnreadableParts {
    pub(super) count: WireCount,
    pub(super) first: Vec<WireUnreadable>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireUnreadable {
    pub(super) recording: u32,
    pub(super) entry: Option<u64>,
    pub(super) offset: u64,
    pub(super) reason: String,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireObservedValues {
    pub(super) clause: String,
    pub(super) subject: Subject,
    pub(super) values: Vec<WireValue>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireValue {
    pub(super) part: Option<String>,
    pub(super) value: ObservedValue,
    pub(super) locations: Vec<WireSeen>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct WireSeen {
    pub(super) row: String,
    pub(super) situation: Option<String>,
    pub(super) location: WireLocation,
    pub(super) count: WireCount,
    pub(super) first: Vec<At>,
}
