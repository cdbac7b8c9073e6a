//! Every finding of a check as JSON Lines: one line for each finding in each exchange, whatever their number.
//!
//! | member | what it is |
//! |---|---|
//! | `clause`, `severity` | the clause's name, and `breach`, `warning` or `note` |
//! | `address` | the exchange, as `FILE#N` |
//! | `endpoint` | its endpoint, as `METHOD /path` |
//! | `location` | where in the response |
//! | `pointer` | the same as a JSON Pointer, where it is in a JSON body; else null |
//! | `expected`, `got`, `because`, `source`, `not_checked` | as in the other outputs; the last three may be null |
//! | `conforming` | an address where it is as expected, where exchanges were compared; else null |
//! | `fingerprint` | the same for the same finding in another recording |
//! | `waived` | is it covered by a waiver? |
//! | `known` | was it in the baseline? |
//!
//! Lines come in the order of the recordings; those of clauses that compare exchanges stand at their exchange, too. While a
//! check runs, each worker writes what it finds to a spool of its own; [`merge`] puts the spools of a recording into
//! one, and [`write()`] makes the lines once everything is known. Memory does not grow with any of them.

use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::io::{BufRead, Error, Lines, Write};

use faithful_clerk_check::clauses::{Observation, clause};
use faithful_clerk_check::ledger::{ComparisonFindings, FindingKey, fingerprint};
use faithful_clerk_check::{CheckObserver, CheckedExchange, CredentialAssumption};
use faithful_clerk_contract::{EndpointId, EndpointRow, ErrorContract};
use faithful_clerk_model::address::{Address, Location};
use faithful_clerk_model::finding::{
    Because, Expected, Finding, Got, NotChecked, ObservedValue, Severity, Subject,
};
use serde::{Deserialize, Serialize};

use crate::CheckReport;
use crate::finding_text::source;

/// What one worker found so far, a line an exchange.
#[derive(Debug)]
pub struct FindingSpool<W> {
    to: W,
    failure: Option<Error>,
}

impl<W> FindingSpool<W> {
    /// A spool that writes to `to`.
    pub fn new(to: W) -> Self {
        Self { to, failure: None }
    }

    /// What it wrote to.
    ///
    /// # Errors
    /// Where something could not be written.
    pub fn finish(self) -> Result<W, Error> {
        match self.failure {
            Some(error) => Err(error),
            None => Ok(self.to),
        }
    }
}

impl<W: Write + Send> CheckObserver for FindingSpool<W> {
    fn checked(&mut self, checked: CheckedExchange<'_>) {
        let line = SpooledExchange::of(checked);
        let written = serde_json::to_writer(&mut self.to, &line)
            .map_err(Error::from)
            .and_then(|()| self.to.write_all(b"\n"));
        if let Err(error) = written {
            self.failure.get_or_insert(error);
        }
    }
}

/// An exchange in a spool.
#[derive(Debug, Serialize, Deserialize)]
struct SpooledExchange {
    recording: u32,
    number: u64,
    row: SpooledRow,
    /// The assumption about credentials; none where it does not matter.
    credentials_recorded: Option<bool>,
    findings: Vec<SpooledFinding>,
    observations: Vec<SpooledObservation>,
}

#[derive(Debug, Serialize, Deserialize)]
enum SpooledRow {
    Endpoint(usize),
    OtherMethods(usize),
    UnknownRoute,
}

#[derive(Debug, Serialize, Deserialize)]
struct SpooledFinding {
    clause: String,
    severity: Severity,
    location: Location,
    expected: Expected,
    got: Got,
    because: Option<Because>,
    not_checked: Option<NotChecked>,
}

#[derive(Debug, Serialize, Deserialize)]
struct SpooledObservation {
    clause: String,
    subject: Subject,
    value: ObservedValue,
    location: Location,
    part: Option<String>,
}

impl SpooledExchange {
    fn of(checked: CheckedExchange<'_>) -> Self {
        let CheckedExchange { address, row, assumption, findings, observations } = checked;
        let finding = |finding: &Finding| SpooledFinding {
            clause: finding.clause.to_owned(),
            severity: finding.severity,
            location: finding.location.clone(),
            expected: finding.expected.clone(),
            got: finding.got.clone(),
            because: finding.because.clone(),
            not_checked: finding.not_checked.clone(),
        };
        let observation = |observation: &Observation| SpooledObservation {
            clause: observation.clause.to_owned(),
            subject: observation.subject.clone(),
            value: observation.value.clone(),
            location: observation.location.clone(),
            part: observation.part.clone(),
        };
        Self {
            recording: address.recording,
            number: address.number,
            row: match row {
                EndpointRow::Endpoint(id) => SpooledRow::Endpoint(id.0),
                EndpointRow::OtherMethods(id) => SpooledRow::OtherMethods(id.0),
                EndpointRow::UnknownRoute => SpooledRow::UnknownRoute,
            },
            credentials_recorded: recorded(assumption),
            findings: findings.iter().map(finding).collect(),
            observations: observations.iter().map(observation).collect(),
        }
    }

    fn row(&self) -> EndpointRow {
        match self.row {
            SpooledRow::Endpoint(id) => EndpointRow::Endpoint(EndpointId(id)),
            SpooledRow::OtherMethods(id) => EndpointRow::OtherMethods(EndpointId(id)),
            SpooledRow::UnknownRoute => EndpointRow::UnknownRoute,
        }
    }
}

fn recorded(assumption: CredentialAssumption) -> Option<bool> {
    match assumption {
        CredentialAssumption::None => None,
        CredentialAssumption::Recorded => Some(true),
        CredentialAssumption::NotRecorded => Some(false),
    }
}

/// Puts the spools of one recording's workers into one, in its order, without what was found under the wrong assumption
/// about credentials.
///
/// # Errors
/// Where a spool can't be read, or `to` can't be written.
pub fn merge<R: BufRead>(
    spools: Vec<R>,
    assumption: CredentialAssumption,
    to: &mut impl Write,
) -> Result<(), Error> {
    let mut spools: Vec<Lines<R>> = spools.into_iter().map(BufRead::lines).collect();
    let mut next: BinaryHeap<Reverse<(u64, usize, String)>> = BinaryHeap::new();
    let count = spools.len();
    let mut advance = |at: usize, next: &mut BinaryHeap<_>| -> Result<(), Error> {
        if let Some(line) = spools.get_mut(at).and_then(Iterator::next).transpose()? {
            let head: SpooledHead = serde_json::from_str(&line)?;
            next.push(Reverse((head.number, at, line)));
        }
        Ok(())
    };
    for at in 0..count {
        advance(at, &mut next)?;
    }
    while let Some(Reverse((_, at, line))) = next.pop() {
        let head: SpooledHead = serde_json::from_str(&line)?;
        if head.credentials_recorded.is_none() || head.credentials_recorded == recorded(assumption)
        {
            to.write_all(line.as_bytes())?;
            to.write_all(b"\n")?;
        }
        advance(at, &mut next)?;
    }
    Ok(())
}

#[derive(Debug, Deserialize)]
struct SpooledHead {
    number: u64,
    credentials_recorded: Option<bool>,
}

/// A line of the output.
#[derive(Debug, Serialize)]
struct FindingLine<'f> {
    clause: &'f str,
    severity: Severity,
    address: String,
    endpoint: &'f str,
    location: String,
    pointer: Option<&'f str>,
    expected: String,
    got: String,
    because: Option<String>,
    source: Option<String>,
    not_checked: Option<String>,
    conforming: Option<String>,
    fingerprint: String,
    waived: bool,
    known: bool,
}

/// Writes a line for each finding in `spool`, and for each that comes of comparing.
///
/// # Errors
/// Where the spool can't be read, or `to` can't be written.
pub fn write(
    report: &CheckReport<'_>,
    comparisons: &ComparisonFindings,
    spool: impl BufRead,
    to: &mut impl Write,
) -> Result<(), Error> {
    for line in spool.lines() {
        let exchange: SpooledExchange = serde_json::from_str(&line?)?;
        let row = exchange.row();
        let address = Address { recording: exchange.recording, number: exchange.number };
        for key in keys(exchange, comparisons) {
            write_line(report, &row, address, &key, to)?;
        }
    }
    Ok(())
}

/// What was found in one exchange.
fn keys(exchange: SpooledExchange, comparisons: &ComparisonFindings) -> Vec<FindingKey> {
    let found = exchange.findings.into_iter().filter_map(|found| {
        let SpooledFinding {
            clause: name,
            severity,
            location,
            expected,
            got,
            because,
            not_checked,
        } = found;
        let clause = clause(&name)?.name;
        let conforming = None;
        Some(FindingKey {
            severity,
            clause,
            location,
            expected,
            got,
            because,
            not_checked,
            conforming,
        })
    });
    let compared = exchange.observations.into_iter().filter_map(|seen| {
        let SpooledObservation { clause: name, subject, value, location, part } = seen;
        let clause = clause(&name)?.name;
        let observation = Observation { clause, subject, value, location, part };
        let of = comparisons.of(&observation)?.clone();
        Some(FindingKey {
            severity: of.severity,
            clause,
            location: observation.location,
            expected: of.expected,
            got: of.got,
            because: None,
            not_checked: None,
            conforming: of.conforming,
        })
    });
    found.chain(compared).collect()
}

fn write_line(
    report: &CheckReport<'_>,
    row: &EndpointRow,
    address: Address,
    key: &FindingKey,
    to: &mut impl Write,
) -> Result<(), Error> {
    let FindingKey { severity, clause, location, expected, got, because, not_checked, conforming } =
        key;
    let contract: &ErrorContract = report.contract;
    let endpoint = row.name(contract);
    let fingerprint = fingerprint(&endpoint, key);
    let line = FindingLine {
        clause,
        severity: *severity,
        address: report.address(address),
        endpoint: &endpoint,
        location: location.to_string(),
        pointer: match location {
            Location::Pointer(pointer) => Some(pointer),
            _ => None,
        },
        expected: expected.to_string(),
        got: got.to_string(),
        because: because.as_ref().map(ToString::to_string),
        source: source(key, row, contract),
        not_checked: not_checked.as_ref().map(ToString::to_string),
        conforming: conforming.map(|address| report.address(address)),
        waived: contract.waiver_for(clause, row).is_some(),
        known: report.gate.baseline.is_some_and(|baseline| baseline.knows(&fingerprint)),
        fingerprint,
    };
    serde_json::to_writer(&mut *to, &line)?;
    to.write_all(b"\n")
}
