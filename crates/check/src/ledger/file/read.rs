//! Reads a ledger that was written down.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::head::parsed;
use super::origin::LedgerSources;
use super::wire::{self, At, WireCount, WireFile, WireLedger};
use super::{CHECK_LEDGER, LedgerError, LedgerHead};
use crate::clauses::clause;
use crate::ledger::entries::keep_first;
use crate::ledger::sum::MOST_FOREIGN;
use crate::ledger::{
    ClauseFindings, Column, FindingKey, FindingOccurrences, Ledger, LedgerCell,
    UndecidedCredentials,
};
use faithful_clerk_contract::{EndpointId, EndpointRow, ErrorContract};
use faithful_clerk_model::address::{Address, Location};
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_recording::Unreadable;

/// A ledger that was written down, and what it is of.
#[derive(Debug, Clone)]
pub struct RestoredLedger {
    /// What it is of.
    pub sources: LedgerSources,
    /// The ledger, not concluded.
    pub ledger: Ledger,
}

impl RestoredLedger {
    /// Reads what a ledger is of, and nothing else of it.
    ///
    /// # Errors
    /// Where it is none, or was made by another contract.
    pub fn sources(text: &str, contract: &ErrorContract) -> Result<LedgerSources, LedgerError> {
        checked_head(text, contract)?;
        LedgerSources::read(text)
    }

    /// Reads a file that [`Ledger::save`] wrote under the same contract. `number` gives a recording's place in the run by its
    /// name.
    ///
    /// # Errors
    /// Where it is none, or was made by another contract.
    pub fn read(
        text: &str,
        contract: &ErrorContract,
        number: impl Fn(&str) -> u32,
    ) -> Result<Self, LedgerError> {
        checked_head(text, contract)?;
        let file: WireFile = parsed(text)?;
        let names = RowNames::of(contract);
        let numbers = file.recordings.iter().map(|name| number(name)).collect();
        let reader = LedgerReader { names, numbers };
        let mut ledger = reader.ledger(&file.sum, contract)?;
        for of in &file.undecided {
            let read = |of: &Option<WireLedger>| {
                let ledger = of.as_ref().map(|of| reader.ledger(of, contract)).transpose();
                ledger.map(|ledger| ledger.map(Box::new))
            };
            let undecided = UndecidedCredentials {
                has_credentials: of.has_credentials,
                if_recorded: read(&of.if_recorded)?,
                if_not: read(&of.if_not)?,
            };
            ledger.enter_undecided(reader.recording(of.recording)?, undecided);
        }
        let WireFile { origin, recordings, digests, .. } = file;
        let digests = digests.into_iter().collect();
        Ok(Self { sources: LedgerSources { origin, recordings, digests }, ledger })
    }
}

fn checked_head(text: &str, contract: &ErrorContract) -> Result<(), LedgerError> {
    let head = LedgerHead::read(text, CHECK_LEDGER)?;
    if head.contract == contract.digest { Ok(()) } else { Err(LedgerError::OtherContract) }
}

/// The rows of a contract by their names.
struct RowNames(BTreeMap<String, EndpointRow>);

impl RowNames {
    fn of(contract: &ErrorContract) -> Self {
        let ids = || (0..contract.endpoints.len()).map(EndpointId);
        let rows = ids().map(EndpointRow::Endpoint).chain([EndpointRow::UnknownRoute]);
        let mut names: BTreeMap<_, _> = rows.map(|row| (row.name(contract), row)).collect();
        // Of a path's endpoints, the first stands for it.
        for row in ids().map(EndpointRow::OtherMethods) {
            names.entry(row.name(contract)).or_insert(row);
        }
        Self(names)
    }
}

struct LedgerReader {
    names: RowNames,
    /// The places of the recordings in the run.
    numbers: Vec<u32>,
}

impl LedgerReader {
    fn ledger(&self, file: &WireLedger, contract: &ErrorContract) -> Result<Ledger, LedgerError> {
        let reasons = |reasons: &BTreeMap<String, WireCount>| {
            reasons.iter().map(|(name, count)| (Cow::Owned(name.clone()), count.0)).collect()
        };
        let mut ledger = Ledger {
            checked: file.checked.0,
            excluded: reasons(&file.excluded),
            foreign: file.foreign.iter().take(MOST_FOREIGN).cloned().collect(),
            not_checked: reasons(&file.not_checked),
            tallies: weights(&file.severities)?,
            faults: file.faults.iter().map(|(name, count)| (name.clone(), count.0)).collect(),
            cases: file.cases.iter().map(|(case, count)| (*case, count.0)).collect(),
            ..Ledger::default()
        };
        for cell in &file.grid {
            let sum = LedgerCell {
                met: cell.met.0,
                broken: cell.broken.0,
                not_checked: cell.not_checked.0,
                from_comparison: 0,
                first: self.first(&cell.first)?,
                first_broken: self.first(&cell.first_broken)?,
            };
            ledger.grid.insert((self.row(&cell.row)?, column(cell.situation.as_deref())?), sum);
        }
        for of in &file.findings {
            let location = (self.row(&of.row)?, named(&of.clause)?);
            ledger.findings.insert(location, self.entries(&of.entries)?);
        }
        for (name, tally) in &file.clauses {
            if let Some(sum) = ledger.clauses.of(named(name)?) {
                sum.met = tally.met.0;
                sum.broken = tally.broken.0;
                sum.not_checked = tally.not_checked.0;
            }
        }
        for unreadable in &file.unreadable.first {
            ledger.unreadable.enter(Unreadable {
                recording: self.recording(unreadable.recording)?,
                offset: unreadable.offset,
                number: unreadable.entry,
                reason: unreadable.reason.clone(),
            });
        }
        ledger.unreadable.count = file.unreadable.count.0;
        for recording in &file.without_credentials {
            ledger.without_credentials.insert(self.recording(*recording)?);
        }
        for waived in &file.waived {
            if waived.waiver >= contract.waivers.len() {
                return Err(LedgerError::Unknown("waiver", waived.waiver.to_string()));
            }
            ledger.waived.insert(waived.waiver, self.entries(&waived.entries)?);
        }
        for (clause, bound) in &file.bounds {
            ledger.compared.bounds.insert((named(clause)?, *bound));
        }
        for subject in &file.compared {
            self.subject(subject, &mut ledger)?;
        }
        Ok(ledger)
    }

    fn subject(
        &self,
        of: &wire::WireObservedValues,
        ledger: &mut Ledger,
    ) -> Result<(), LedgerError> {
        let mut values = BTreeMap::new();
        for value in &of.values {
            let mut places = BTreeMap::new();
            for seen in &value.locations {
                let at = (
                    self.row(&seen.row)?,
                    column(seen.situation.as_deref())?,
                    place(&seen.location),
                );
                let entry =
                    FindingOccurrences { count: seen.count.0, first: self.first(&seen.first)? };
                places.insert(at, entry);
            }
            values.insert((value.part.clone(), value.value.clone()), places);
        }
        ledger.compared.add_values(named(&of.clause)?, of.subject.clone(), values);
        Ok(())
    }

    fn row(&self, name: &str) -> Result<EndpointRow, LedgerError> {
        let row = self.names.0.get(name).cloned();
        row.ok_or_else(|| LedgerError::Unknown("endpoint", name.to_owned()))
    }

    fn recording(&self, at: u32) -> Result<u32, LedgerError> {
        let number = usize::try_from(at).ok().and_then(|at| self.numbers.get(at).copied());
        number.ok_or_else(|| LedgerError::Unknown("recording", at.to_string()))
    }

    fn first(&self, addresses: &[At]) -> Result<BTreeSet<Address>, LedgerError> {
        let mut first = BTreeSet::new();
        for (recording, number) in addresses {
            let recording = self.recording(*recording)?;
            keep_first(&mut first, Address { recording, number: *number });
        }
        Ok(first)
    }

    fn entries(&self, of: &wire::WireEntries) -> Result<ClauseFindings, LedgerError> {
        let mut entries = ClauseFindings { more: weights(&of.more)?, ..ClauseFindings::default() };
        for entry in &of.entries {
            let key = FindingKey {
                severity: weight(&entry.severity)?,
                clause: named(&entry.clause)?,
                location: place(&entry.location),
                expected: entry.expected.clone(),
                got: entry.got.clone(),
                because: entry.because.clone(),
                not_checked: entry.not_checked.clone(),
                conforming: None,
            };
            entries.add(
                key,
                FindingOccurrences { count: entry.count.0, first: self.first(&entry.first)? },
            );
        }
        Ok(entries)
    }
}

fn named(name: &str) -> Result<&'static str, LedgerError> {
    let known = clause(name).map(|clause| clause.name);
    known.ok_or_else(|| LedgerError::Unknown("clause", name.to_owned()))
}

fn column(name: Option<&str>) -> Result<Column, LedgerError> {
    let known = |name: &str| Situation::ALL.into_iter().find(|known| known.name() == name);
    match name {
        None => Ok(None),
        Some(name) => {
            known(name).map(Some).ok_or_else(|| LedgerError::Unknown("situation", name.to_owned()))
        }
    }
}

fn weight(name: &str) -> Result<Severity, LedgerError> {
    let known = [Severity::Breach, Severity::Warning, Severity::Note];
    let known = known.into_iter().find(|weight| weight.name() == name);
    known.ok_or_else(|| LedgerError::Unknown("severity", name.to_owned()))
}

fn weights(weights: &BTreeMap<String, WireCount>) -> Result<BTreeMap<Severity, u64>, LedgerError> {
    weights.iter().map(|(name, count)| Ok((weight(name)?, count.0))).collect()
}

fn place(place: &wire::WireLocation) -> Location {
    match place {
        wire::WireLocation::Exchange => Location::Exchange,
        wire::WireLocation::StatusLine => Location::StatusLine,
        wire::WireLocation::Header(name) => Location::Header(Cow::Owned(name.clone())),
        wire::WireLocation::Body => Location::Body,
        wire::WireLocation::Pointer(pointer) => Location::Pointer(pointer.clone()),
    }
}
