use super::inner::{PartialFailures, allowed, failed, inner};
use crate::classify::Classified;
use crate::clauses::contracts::{ARRIVALS, BATCH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "partial.faults-declared",
    statement: "A failure inside a success is one that the contract allows there.",
    basis: &[Basis::Contract("partial")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "A failure that nobody expects inside a success is one that nobody handles.",
    fix: "Declare the fault for the partial success, or refuse the whole request.",
    check,
    met: &[Example::met(
        "a fault that may occur",
        ARRIVALS,
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":[{"id":"r-2","code":"unknown-reservation"}]}"#,
    )
    .under(BATCH)],
    broken: &[Example::broken(
        "a fault that may not",
        ARRIVALS,
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":[{"id":"r-2","code":"berth-taken"}]}"#,
        &[("body /failures/0", "code berth-taken")],
    )
    .under(BATCH)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (partial, body) = match inner(classified) {
        PartialFailures::Found(partial, body) if !partial.faults.is_empty() => (partial, body),
        PartialFailures::Found(..) | PartialFailures::None => return ClauseOutcome::NotApplicable,
        PartialFailures::Unknown => return ClauseOutcome::NotChecked,
    };
    let faults = allowed(classified, partial);
    for entry in failed(partial, body) {
        let is_known = entry.fault(&faults).is_some();
        let got = match (entry.type_uri, entry.code) {
            (Some(uri), _) => Got::FailureType(uri),
            (None, Some(code)) => Got::FailureCode(code),
            // What it lacks, `partial.shape-declared` tells.
            (None, None) => continue,
        };
        if !is_known {
            let names = faults.iter().map(|fault| fault.name.clone()).collect();
            findings.add(Location::Pointer(entry.pointer), Expected::OneOfFaults(names), got);
        }
    }
    ClauseOutcome::Met
}
