//! Writes a ledger down.

use std::collections::{BTreeMap, BTreeSet};

use super::wire::{
    At, Cell, Compared, Count, Entries, Entry, File, Findings, Found, Loss, Losses, More, Place,
    Seen, Tally, Value, Waived,
};
use super::{FORMAT, VERSION};
use crate::address::{self, Address};
use crate::contract::Contract;
use crate::hidden::escaped_json;
use crate::ledger::fingerprint::of_unused;
use crate::ledger::{self, Column, Key, Ledger, Stale, fingerprint};

impl Ledger {
    /// The ledger as the text of a file. It must not have been concluded, since it could not be added to
    /// others then. `recordings` are the names of the recordings, in the order of the run.
    ///
    /// # Errors
    /// Only if serde can't write what is text, numbers and lists.
    pub fn save(
        &self,
        contract: &Contract,
        recordings: &[String],
    ) -> Result<String, serde_json::Error> {
        let counts = |counts: &BTreeMap<String, u64>| {
            counts.iter().map(|(name, count)| (name.clone(), Count(*count))).collect()
        };
        let reasons = |reasons: &BTreeMap<std::borrow::Cow<'static, str>, u64>| {
            reasons.iter().map(|(name, count)| (name.to_string(), Count(*count))).collect()
        };
        let file = File {
            format: FORMAT.to_owned(),
            version: VERSION,
            service: contract.service.clone(),
            contract: contract.digest.clone(),
            recordings: recordings.to_vec(),
            found: self.found(contract),
            judged: Count(self.judged),
            aside: reasons(&self.aside),
            unjudged: reasons(&self.unjudged),
            grid: self
                .grid
                .iter()
                .map(|((row, column), cell)| Cell {
                    row: row.name(contract),
                    situation: situation(*column),
                    kept: Count(cell.kept),
                    broken: Count(cell.broken),
                    unjudged: Count(cell.unjudged),
                    first: first(&cell.first),
                    first_broken: first(&cell.first_broken),
                })
                .collect(),
            findings: self
                .findings
                .iter()
                .map(|((row, clause), of)| Findings {
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
                        [tally.kept, tally.broken, tally.unjudged].map(Count);
                    (name.to_owned(), Tally { kept, broken, unjudged })
                })
                .collect(),
            weights: weights(&self.weights),
            losses: Losses {
                count: Count(self.losses.count),
                first: self.losses.first.iter().map(loss).collect(),
            },
            without_credentials: self.without_credentials.iter().copied().collect(),
            waived: self
                .waived
                .iter()
                .map(|(waiver, of)| Waived { waiver: *waiver, entries: entries(of) })
                .collect(),
            faults: counts(&self.faults),
            cases: self.cases.iter().map(|(case, count)| (*case, Count(*count))).collect(),
            compared: self.compared(contract),
        };
        Ok(escaped_json(serde_json::to_string(&file)? + "\n"))
    }

    /// What is found once comparisons are concluded.
    fn found(&self, contract: &Contract) -> Found {
        let mut whole = self.clone();
        whole.conclude(contract);
        let mut fingerprints: BTreeMap<String, Count> = BTreeMap::new();
        let mut more = Vec::new();
        for ((row, clause), entries) in &whole.findings {
            let row = row.name(contract);
            for (key, entry) in &entries.kept {
                fingerprints.entry(fingerprint(&row, key)).or_default().0 += entry.count;
            }
            more.extend(entries.more.keys().map(|weight| More {
                row: row.clone(),
                clause: (*clause).to_owned(),
                weight: weight.name().to_owned(),
            }));
        }
        for (at, stale) in &whole.stale {
            let waiver = contract.waivers.get(*at).filter(|_| *stale == Stale::Unused);
            let mark = waiver.map(|waiver| of_unused(waiver, contract));
            fingerprints.extend(mark.map(|mark| (mark, Count(1))));
        }
        Found { fingerprints, more }
    }

    fn compared(&self, contract: &Contract) -> Vec<Compared> {
        let subjects = self.compared.iter().map(|(clause, subject, values)| {
            let values = values.iter().map(|((part, value), places)| Value {
                part: part.clone(),
                value: value.clone(),
                places: places
                    .iter()
                    .map(|((row, column, at), entry)| Seen {
                        row: row.name(contract),
                        situation: situation(*column),
                        place: place(at),
                        count: Count(entry.count),
                        first: first(&entry.first),
                    })
                    .collect(),
            });
            let (clause, subject) = (clause.to_owned(), subject.to_owned());
            Compared { clause, subject, values: values.collect() }
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

fn weights(weights: &BTreeMap<crate::Weight, u64>) -> BTreeMap<String, Count> {
    weights.iter().map(|(weight, count)| (weight.name().to_owned(), Count(*count))).collect()
}

fn entries(of: &ledger::Entries) -> Entries {
    let entry = |(key, entry): (&Key, &ledger::Entry)| Entry {
        clause: key.clause.to_owned(),
        weight: key.weight.name().to_owned(),
        place: place(&key.place),
        agreed: key.agreed.clone(),
        seen: key.seen.clone(),
        note: key.note.clone(),
        count: Count(entry.count),
        first: first(&entry.first),
    };
    Entries { entries: of.kept.iter().map(entry).collect(), more: weights(&of.more) }
}

fn place(place: &address::Place) -> Place {
    match place {
        address::Place::Exchange => Place::Exchange,
        address::Place::StatusLine => Place::StatusLine,
        address::Place::Header(name) => Place::Header(name.to_string()),
        address::Place::Body => Place::Body,
        address::Place::Pointer(pointer) => Place::Pointer(pointer.clone()),
    }
}

fn loss(loss: &crate::recording::Loss) -> Loss {
    let (recording, offset) = (loss.recording, loss.offset);
    Loss { recording, entry: loss.number, offset, reason: loss.reason.clone() }
}
