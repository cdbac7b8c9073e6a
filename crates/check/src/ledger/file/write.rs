//! Writes a ledger down.

use std::collections::{BTreeMap, BTreeSet};

use super::origin::LedgerSources;
use super::wire::{
    At, WireCell, WireCount, WireEntries, WireEntry, WireFile, WireFindings, WireFound, WireLedger,
    WireLocation, WireMore, WireObservedValues, WireSeen, WireTally, WireUndecided, WireUnreadable,
    WireUnreadableParts, WireValue, WireWaived,
};
use super::{CHECK_LEDGER, LEDGER_VERSION};
use crate::ledger::fingerprint::of_unused;
use crate::ledger::{self, Column, FindingKey, Ledger, StaleWaiver, fingerprint};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::{self, Address};
use faithful_clerk_model::invisible::escaped_json;

impl Ledger {
    /// The ledger as the text of a file. It must not have been concluded, since it could not be added to
    /// others then.
    ///
    /// # Errors
    /// Only if serde can't write what is text, numbers and lists.
    pub fn save(
        &self,
        contract: &ErrorContract,
        sources: &LedgerSources,
    ) -> Result<String, serde_json::Error> {
        let undecided = self.undecided.iter().map(|(recording, of)| WireUndecided {
            recording: *recording,
            has_credentials: of.has_credentials,
            if_recorded: of.if_recorded.as_ref().map(|ledger| ledger.wire(contract)),
            if_not: of.if_not.as_ref().map(|ledger| ledger.wire(contract)),
        });
        let file = WireFile {
            format: CHECK_LEDGER.to_owned(),
            version: LEDGER_VERSION,
            service: contract.service.clone(),
            contract: contract.digest.clone(),
            origin: sources.origin.clone(),
            recordings: sources.recordings.clone(),
            digests: sources.digests.iter().cloned().collect(),
            found: self.found(contract),
            sum: self.wire(contract),
            undecided: undecided.collect(),
        };
        Ok(escaped_json(serde_json::to_string(&file)? + "\n"))
    }

    /// What it holds, as it is written down.
    fn wire(&self, contract: &ErrorContract) -> WireLedger {
        let counts = |counts: &BTreeMap<String, u64>| {
            counts.iter().map(|(name, count)| (name.clone(), WireCount(*count))).collect()
        };
        let reasons = |reasons: &BTreeMap<std::borrow::Cow<'static, str>, u64>| {
            reasons.iter().map(|(name, count)| (name.to_string(), WireCount(*count))).collect()
        };
        WireLedger {
            checked: WireCount(self.checked),
            excluded: reasons(&self.excluded),
            foreign: self.foreign.iter().cloned().collect(),
            not_checked: reasons(&self.not_checked),
            grid: self
                .grid
                .iter()
                .map(|((row, column), cell)| WireCell {
                    row: row.name(contract),
                    situation: situation(*column),
                    met: WireCount(cell.met),
                    broken: WireCount(cell.broken),
                    not_checked: WireCount(cell.not_checked),
                    first: first(&cell.first),
                    first_broken: first(&cell.first_broken),
                })
                .collect(),
            findings: self
                .findings
                .iter()
                .map(|((row, clause), of)| WireFindings {
                    row: row.name(contract),
                    clause: (*clause).to_owned(),
                    entries: entries(of),
                })
                .collect(),
            clauses: self
                .clauses
                .iter()
                .map(|(name, tally)| {
                    let [kept, broken, unjudged] =
                        [tally.met, tally.broken, tally.not_checked].map(WireCount);
                    (name.to_owned(), WireTally { met: kept, broken, not_checked: unjudged })
                })
                .collect(),
            severities: weights(&self.tallies),
            unreadable: WireUnreadableParts {
                count: WireCount(self.unreadable.count),
                first: self.unreadable.first.iter().map(unreadable).collect(),
            },
            without_credentials: self.without_credentials.iter().copied().collect(),
            waived: self
                .waived
                .iter()
                .map(|(waiver, of)| WireWaived { waiver: *waiver, entries: entries(of) })
                .collect(),
            faults: counts(&self.faults),
            cases: self.cases.iter().map(|(case, count)| (*case, WireCount(*count))).collect(),
            bounds: self
                .compared
                .bounds
                .iter()
                .map(|(clause, bound)| ((*clause).to_owned(), *bound))
                .collect(),
            compared: self.compared(contract),
        }
    }

    /// What is found once comparisons are concluded.
    fn found(&self, contract: &ErrorContract) -> WireFound {
        let mut whole = self.clone();
        whole.conclude(contract);
        let mut fingerprints: BTreeMap<String, WireCount> = BTreeMap::new();
        let mut more = Vec::new();
        for ((row, clause), entries) in &whole.findings {
            let row = row.name(contract);
            for (key, entry) in &entries.kept {
                fingerprints.entry(fingerprint(&row, key)).or_default().0 += entry.count;
            }
            more.extend(entries.more.keys().map(|severity| WireMore {
                row: row.clone(),
                clause: (*clause).to_owned(),
                severity: severity.name().to_owned(),
            }));
        }
        for (at, stale) in &whole.stale {
            let waiver = contract.waivers.get(*at).filter(|_| *stale == StaleWaiver::Unused);
            let mark = waiver.map(|waiver| of_unused(waiver, contract));
            fingerprints.extend(mark.map(|mark| (mark, WireCount(1))));
        }
        WireFound { fingerprints, more }
    }

    fn compared(&self, contract: &ErrorContract) -> Vec<WireObservedValues> {
        let subjects = self.compared.iter().map(|(clause, subject, values)| {
            let values = values.iter().map(|((part, value), locations)| WireValue {
                part: part.clone(),
                value: value.clone(),
                locations: locations
                    .iter()
                    .map(|((row, column, at), entry)| WireSeen {
                        row: row.name(contract),
                        situation: situation(*column),
                        location: place(at),
                        count: WireCount(entry.count),
                        first: first(&entry.first),
                    })
                    .collect(),
            });
            let (clause, subject) = (clause.to_owned(), subject.clone());
            WireObservedValues { clause, subject, values: values.collect() }
        });
        subjects.collect()
    }
}

fn situation(column: Column) -> Option<String> {
    column.map(|situation| situation.name().to_owned())
}

fn first(addresses: &BTreeSet<Address>) -> Vec<At> {
    addresses.iter().map(|address| (address.recording, address.number)).collect()
}

fn weights(
    weights: &BTreeMap<faithful_clerk_model::finding::Severity, u64>,
) -> BTreeMap<String, WireCount> {
    weights
        .iter()
        .map(|(severity, count)| (severity.name().to_owned(), WireCount(*count)))
        .collect()
}

fn entries(of: &ledger::ClauseFindings) -> WireEntries {
    let entry = |(key, entry): (&FindingKey, &ledger::FindingOccurrences)| WireEntry {
        clause: key.clause.to_owned(),
        severity: key.severity.name().to_owned(),
        location: place(&key.location),
        expected: key.expected.clone(),
        got: key.got.clone(),
        because: key.because.clone(),
        not_checked: key.not_checked.clone(),
        count: WireCount(entry.count),
        first: first(&entry.first),
    };
    WireEntries { entries: of.kept.iter().map(entry).collect(), more: weights(&of.more) }
}

fn place(place: &address::Location) -> WireLocation {
    match place {
        address::Location::Exchange => WireLocation::Exchange,
        address::Location::StatusLine => WireLocation::StatusLine,
        address::Location::Header(name) => WireLocation::Header(name.to_string()),
        address::Location::Body => WireLocation::Body,
        address::Location::Pointer(pointer) => WireLocation::Pointer(pointer.clone()),
    }
}

fn unreadable(unreadable: &faithful_clerk_recording::Unreadable) -> WireUnreadable {
    let (recording, offset) = (unreadable.recording, unreadable.offset);
    WireUnreadable {
        recording,
        entry: unreadable.number,
        offset,
        reason: unreadable.reason.clone(),
    }
}
