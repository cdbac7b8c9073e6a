//! A check as JSON, for programs.
//!
//! One object, format `fclerk check`, version 1:
//!
//! | member | what it is |
//! |---|---|
//! | `format`, `version` | `"fclerk check"` and 1; the version goes up when a reader has to change |
//! | `service` | the contract's name for the service, or null |
//! | `passed` | true if something was checked, there is no breach and everything could be read |
//! | `recordings` | the names of the recordings, in the order of the run |
//! | `totals` | numbers: `checked`, `excluded`, `unreadable` (exchanges), `breaches`, `warnings`, `notes`, `waived` (findings) |
//! | `gate` | `fail_on` (the least severity that fails), `baseline` (the ledger compared with, or null), how many findings are `new` by severity (`breaches`, `warnings`, `notes`), how many are `known`, how many are `failing`, and whether it `passed` |
//! | `grid` | an array of rows: `endpoint`, and `cells`: `situation` (null: valid), `mark`, and how many exchanges were `met`, `broken`, `not_checked`; `from_comparison`: breaches that came of comparing exchanges |
//! | `findings` | an array: `clause`, `severity`, `endpoint`, `location`, `pointer` (where the location is in a JSON body), `expected`, `got`, `because`, `source` (where its rule stands: the contract's key and line, or the section of a standard), `not_checked` (what could not be checked because of it), `fingerprint`, `known` (was it in the baseline?), `conforming` (an address where it is as expected, or null), `count` (exchanges), `addresses` (the first of them) |
//! | `more` | findings that are only counted: `clause`, `severity`, `endpoint`, `count` |
//! | `waivers` | an array: `clause`, `endpoint` (null: everywhere), `reason`, `until`, `line` in the contract, `validity` (`in force`, `expired`, `unused`), how many findings it `waived`, and those `findings` |
//! | `clauses` | an array: `name`, and in how many exchanges it was `met`, `broken`, `not_checked` |
//! | `excluded`, `not_checked` | arrays of `reason` and `count`, in exchanges |
//! | `unreadable` | what could not be read, the first of it: `recording`, `entry` (its number, or null), `offset` (bytes), `reason` |
//! | `without_credentials` | the recordings in which `missing-credentials` was not checked |
//! | `bounds` | an array: `clause`, which compares exchanges, and `bound`: of what it compared only the first |

use std::collections::BTreeMap;

use faithful_clerk_check::gate::GateResult;
use faithful_clerk_check::grid::Grid;
use faithful_clerk_check::ledger::{
    ClauseFindings, ClauseTally, EndpointRow, FindingKey, FindingOccurrences, StaleWaiver,
    fingerprint,
};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::invisible::escaped_json;
use faithful_clerk_recording::{Unreadable, UnreadableParts};
use serde::Serialize;

use crate::finding_text::source;
use crate::{CheckReport, RecordingNames};

#[derive(Serialize)]
struct JsonCheck<'r> {
    format: &'static str,
    version: u32,
    service: Option<&'r str>,
    passed: bool,
    recordings: &'r [String],
    totals: JsonTotals,
    gate: JsonGate<'r>,
    grid: Vec<JsonGridRow>,
    findings: Vec<JsonFinding<'r>>,
    more: Vec<JsonMore>,
    waivers: Vec<JsonWaived<'r>>,
    clauses: Vec<JsonClause>,
    excluded: Vec<JsonReason<'r>>,
    not_checked: Vec<JsonReason<'r>>,
    unreadable: Vec<JsonUnreadable<'r>>,
    without_credentials: Vec<&'r str>,
    bounds: Vec<JsonBound>,
}

#[derive(Serialize)]
struct JsonBound {
    clause: &'static str,
    bound: String,
}

#[derive(Serialize)]
struct JsonTotals {
    checked: u64,
    excluded: u64,
    unreadable: u64,
    breaches: u64,
    warnings: u64,
    notes: u64,
    waived: u64,
}

#[derive(Serialize)]
struct JsonGate<'r> {
    fail_on: &'static str,
    baseline: Option<&'r str>,
    new: JsonNew,
    known: u64,
    failing: u64,
    passed: bool,
}

#[derive(Serialize)]
struct JsonNew {
    breaches: u64,
    warnings: u64,
    notes: u64,
}

#[derive(Serialize)]
struct JsonGridRow {
    endpoint: String,
    cells: Vec<JsonCell>,
}

#[derive(Serialize)]
struct JsonCell {
    situation: Option<&'static str>,
    mark: &'static str,
    met: u64,
    broken: u64,
    not_checked: u64,
    from_comparison: u64,
}

#[derive(Serialize)]
struct JsonWaived<'r> {
    clause: &'static str,
    endpoint: Option<String>,
    reason: &'r str,
    until: String,
    line: usize,
    validity: &'static str,
    waived: u64,
    findings: Vec<JsonFinding<'r>>,
}

#[derive(Serialize)]
struct JsonFinding<'r> {
    clause: &'static str,
    severity: &'static str,
    endpoint: String,
    location: String,
    pointer: Option<&'r str>,
    expected: String,
    got: String,
    because: Option<String>,
    source: Option<String>,
    not_checked: Option<String>,
    fingerprint: String,
    known: bool,
    conforming: Option<String>,
    count: u64,
    addresses: Vec<String>,
}

#[derive(Serialize)]
struct JsonMore {
    clause: &'static str,
    severity: &'static str,
    endpoint: String,
    count: u64,
}

#[derive(Serialize)]
struct JsonClause {
    name: &'static str,
    met: u64,
    broken: u64,
    not_checked: u64,
}

#[derive(Serialize)]
pub(crate) struct JsonReason<'r> {
    reason: &'r str,
    count: u64,
}

#[derive(Serialize)]
pub(crate) struct JsonUnreadable<'r> {
    recording: &'r str,
    entry: Option<u64>,
    offset: u64,
    reason: &'r str,
}

/// The whole of it, with a line end.
///
/// # Errors
/// Only if serde can't write what is text, numbers and lists.
pub fn check(report: &CheckReport<'_>) -> Result<String, serde_json::Error> {
    let ledger = report.ledger;
    let name = |row: &EndpointRow| row.name(report.contract);
    let check = JsonCheck {
        format: "fclerk check",
        version: 1,
        service: report.contract.service.as_deref(),
        passed: report.is_kept(),
        recordings: report.recordings,
        totals: JsonTotals {
            checked: ledger.checked,
            excluded: ledger.excluded.values().sum(),
            unreadable: ledger.unreadable.count,
            breaches: ledger.count(Severity::Breach),
            warnings: ledger.count(Severity::Warning),
            notes: ledger.count(Severity::Note),
            waived: report.waived(),
        },
        gate: gate(report),
        grid: grid(report),
        findings: ledger
            .findings
            .iter()
            .flat_map(|((row, _), entries)| entries.kept.iter().map(move |of| (row, of)))
            .map(|(row, (key, entry))| finding(report, row, key, entry))
            .collect(),
        more: ledger
            .findings
            .iter()
            .flat_map(|((row, clause), entries)| {
                entries.more.iter().map(move |(severity, count)| (row, *clause, *severity, *count))
            })
            .map(|(row, clause, severity, count)| JsonMore {
                clause,
                severity: severity.name(),
                endpoint: name(row),
                count,
            })
            .collect(),
        waivers: waivers(report),
        clauses: ledger.clauses.iter().map(|(name, tally)| clause(name, tally)).collect(),
        excluded: reasons(&ledger.excluded),
        not_checked: reasons(&ledger.not_checked),
        unreadable: unreadable(&ledger.unreadable, report.names()),
        without_credentials: ledger
            .without_credentials
            .iter()
            .map(|at| report.recording(*at))
            .collect(),
        bounds: ledger
            .bounds
            .iter()
            .map(|(clause, bound)| JsonBound { clause, bound: bound.words() })
            .collect(),
    };
    pretty(&check)
}

/// With a line end.
pub(crate) fn pretty(value: &impl Serialize) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(value).map(|text| escaped_json(text + "\n"))
}

fn gate<'r>(report: &CheckReport<'r>) -> JsonGate<'r> {
    let GateResult { new, known, failing } = report.gate.passing(report.contract, report.ledger);
    let new = |severity| new.get(&severity).copied().unwrap_or_default();
    JsonGate {
        fail_on: report.gate.fail_on.name(),
        baseline: report.baseline,
        new: JsonNew {
            breaches: new(Severity::Breach),
            warnings: new(Severity::Warning),
            notes: new(Severity::Note),
        },
        known,
        failing,
        passed: failing == 0
            && report.ledger.unreadable.count == 0
            && (report.ledger.checked > 0 || report.allows_empty),
    }
}

fn grid(report: &CheckReport<'_>) -> Vec<JsonGridRow> {
    let Grid { columns, rows } = Grid::of(report.contract, report.ledger);
    rows.iter()
        .map(|(row, cells)| JsonGridRow {
            endpoint: row.name(report.contract),
            cells: columns
                .iter()
                .zip(cells)
                .map(|(column, (mark, cell))| JsonCell {
                    situation: column.map(|situation| situation.name()),
                    mark: mark.name(),
                    met: cell.met,
                    broken: cell.broken,
                    not_checked: cell.not_checked,
                    from_comparison: cell.from_comparison,
                })
                .collect(),
        })
        .collect()
}

fn finding<'r>(
    report: &CheckReport<'_>,
    row: &EndpointRow,
    key: &'r FindingKey,
    entry: &FindingOccurrences,
) -> JsonFinding<'r> {
    let FindingKey {
        severity,
        clause,
        location,
        expected,
        got: seen,
        because,
        not_checked,
        conforming,
    } = key;
    let pointer = match location {
        Location::Pointer(pointer) => Some(pointer.as_str()),
        _ => None,
    };
    let endpoint = row.name(report.contract);
    let fingerprint = fingerprint(&endpoint, key);
    JsonFinding {
        clause,
        severity: severity.name(),
        known: report.gate.baseline.is_some_and(|since| since.knows(&fingerprint)),
        fingerprint,
        endpoint,
        location: location.to_string(),
        pointer,
        expected: expected.to_string(),
        got: seen.to_string(),
        because: because.as_ref().map(ToString::to_string),
        source: source(key, row, report.contract),
        not_checked: not_checked.as_ref().map(ToString::to_string),
        conforming: conforming.map(|address| report.address(address)),
        count: entry.count,
        addresses: entry.first.iter().map(|address| report.address(*address)).collect(),
    }
}

fn waivers<'r>(report: &CheckReport<'r>) -> Vec<JsonWaived<'r>> {
    let CheckReport { contract, ledger, .. } = *report;
    let waivers = contract.waivers.iter().enumerate();
    waivers
        .map(|(at, waiver)| {
            let endpoint = waiver.row.as_ref().map(|row| row.name(contract));
            let entries = ledger.waived.get(&at);
            let kept = entries.iter().flat_map(|entries| &entries.kept);
            // A waiver that holds everywhere has no row of its own.
            let row = waiver.row.as_ref().unwrap_or(&EndpointRow::UnknownRoute);
            JsonWaived {
                clause: waiver.clause,
                reason: &waiver.reason,
                until: waiver.until.to_string(),
                line: waiver.line,
                validity: match ledger.stale.get(&at) {
                    None => "in force",
                    Some(StaleWaiver::Expired) => "expired",
                    Some(StaleWaiver::Unused) => "unused",
                },
                waived: entries.map_or(0, ClauseFindings::count),
                findings: kept.map(|(key, entry)| finding(report, row, key, entry)).collect(),
                endpoint,
            }
        })
        .collect()
}

fn clause(name: &'static str, tally: ClauseTally) -> JsonClause {
    let ClauseTally { met: kept, broken, not_checked: unjudged } = tally;
    JsonClause { name, met: kept, broken, not_checked: unjudged }
}

/// Reasons with their counts.
pub(crate) fn reasons<R: AsRef<str>>(reasons: &BTreeMap<R, u64>) -> Vec<JsonReason<'_>> {
    reasons
        .iter()
        .map(|(reason, count)| JsonReason { reason: reason.as_ref(), count: *count })
        .collect()
}

/// What could not be read, the first of it.
pub(crate) fn unreadable<'r>(
    unreadable: &'r UnreadableParts,
    names: RecordingNames<'r>,
) -> Vec<JsonUnreadable<'r>> {
    let lost = |unreadable: &'r Unreadable| {
        let Unreadable { recording, offset, number, reason } = unreadable;
        let recording = names.recording(*recording);
        JsonUnreadable { recording, entry: *number, offset: *offset, reason }
    };
    unreadable.first.iter().map(lost).collect()
}
