use serde_json::Value;

use super::inner::{PartialFailures, allowed, at, failed, inner};
use crate::classify::{Classified, entry_fits};
use crate::clauses::contracts::PROBLEM_BATCH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::Expectation;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FaultStatus, Got, Measured, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "partial.fits-case",
    statement: "An entry that a case is about fails with the fault that the case expects.",
    basis: &[Basis::Contract("case")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "The contract names this entry as one that fails, so that callers can rely on it.",
    fix: "Look the entry up before it is processed, or correct the case.",
    check,
    met: &[Example::met(
        "the entry of the case failed as agreed",
        LOST,
        r#"HTTP/1.1 207 Multi-Status
Content-Type: application/json

{"results":[{"id":"r-1","status":200},{"id":"lost-2","status":404,"code":"unknown-reservation"}]}"#,
    )
    .under(PROBLEM_BATCH)],
    broken: &[
        Example::broken(
            "it succeeded",
            LOST,
            r#"HTTP/1.1 207 Multi-Status
Content-Type: application/json

{"results":[{"id":"r-1","status":200},{"id":"lost-2","status":200}]}"#,
            &[("body /results", "nothing")],
        )
        .under(PROBLEM_BATCH),
        Example::broken(
            "it failed with another fault",
            LOST,
            r#"HTTP/1.1 207 Multi-Status
Content-Type: application/json

{"results":[{"id":"r-1","status":200},{"id":"lost-2","status":409,"code":"berth-taken"}]}"#,
            &[("body /results/1", "409 (fault berth-taken)")],
        )
        .under(PROBLEM_BATCH),
    ],
};

/// A batch with an entry that a case is about.
const LOST: &str = "POST /v1/arrivals\nContent-Type: application/json\n\n\
    {\"arrivals\":[{\"id\":\"r-1\"},{\"id\":\"lost-2\"}]}";

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.situations.entry_cases.is_empty() {
        return ClauseOutcome::NotApplicable;
    }
    let (partial, body) = match inner(classified) {
        PartialFailures::Found(partial, body) => (partial, body),
        PartialFailures::None => return ClauseOutcome::NotApplicable,
        PartialFailures::Unknown => return ClauseOutcome::NotChecked,
    };
    let request = classified.situations.body.as_ref();
    let requested = partial.requested.as_ref().zip(request);
    let asked = requested.and_then(|(pointer, request)| at(request, pointer)?.as_array());
    let (Some(asked), Some(pointer)) = (asked, &partial.requested) else {
        return ClauseOutcome::NotChecked;
    };
    let (failed, faults) = (failed(partial, body), allowed(classified, partial));
    // Which entry a failure is about has to be known.
    if failed.iter().any(|entry| entry.index(partial, asked).is_none()) {
        return ClauseOutcome::NotChecked;
    }
    let cases = classified.situations.entry_cases.iter();
    for case in cases.filter_map(|at| classified.contract.cases.get(*at)) {
        let Expectation::Fault(id) = case.expect else { continue };
        let Some(due) = classified.contract.fault(id) else { continue };
        let about = |item: &Value| entry_fits(case, pointer, item, &classified.contract.shapes);
        for (index, _) in asked.iter().enumerate().filter(|(_, item)| about(item)) {
            let entry = failed.iter().find(|entry| entry.index(partial, asked) == Some(index));
            let fault = entry.and_then(|entry| entry.fault(&faults));
            if fault.is_some_and(|fault| fault.name == due.name) {
                continue;
            }
            let location = entry.map_or(partial.failures.clone(), |entry| entry.pointer.clone());
            let got = match (fault, entry) {
                (Some(fault), _) => {
                    let (status, fault) = (fault.status, fault.name.clone());
                    Got::Fault(FaultStatus { status, fault })
                }
                (None, Some(_)) => Got::None,
                (None, None) => Got::Nothing,
            };
            let index = Measured::count(index);
            let expected = Expected::EntryFault(due.name.clone(), index, case.name.clone());
            findings.add(Location::Pointer(location), expected, got);
        }
    }
    ClauseOutcome::Met
}
