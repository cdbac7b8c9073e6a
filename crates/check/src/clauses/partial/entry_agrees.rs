use serde_json::Value;

use super::inner::{FailedEntry, PartialFailures, allowed, failed, inner, status_of};
use crate::classify::Classified;
use crate::clauses::contracts::{ARRIVALS, PROBLEM_BATCH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{Fault, PartialSuccess};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FaultStatus, FaultText, Got, Recorded, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_model::json::pointer::from_tokens;

pub(super) static CLAUSE: Clause = Clause {
    name: "partial.entry-agrees",
    statement: "A failure inside a success has the status, the code and the title of its fault.",
    basis: &[Basis::Contract("partial"), Basis::rfc(9457, "3.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "A caller handles a failure by its status and its code, whether it is the whole response or one entry of it.",
    fix: "Write failures with the same code that writes errors.",
    check,
    met: &[Example::met(
        "a problem in an entry",
        ARRIVALS,
        r#"HTTP/1.1 207 Multi-Status
Content-Type: application/json

{"results":[{"id":"r-1","status":200},{"id":"r-2","status":404,"code":"unknown-reservation","title":"There is no such reservation"}]}"#,
    )
    .under(PROBLEM_BATCH)],
    broken: &[Example::broken(
        "another status and another title",
        ARRIVALS,
        r#"HTTP/1.1 207 Multi-Status
Content-Type: application/json

{"results":[{"id":"r-1","status":200},{"id":"r-2","status":400,"code":"unknown-reservation","title":"No reservation r-2"}]}"#,
        &[
            ("body /results/1/status", "400"),
            ("body /results/1/title", "\"No reservation r-2\""),
        ],
    )
    .under(PROBLEM_BATCH)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (partial, body) = match inner(classified) {
        PartialFailures::Found(partial, body) => (partial, body),
        PartialFailures::None => return ClauseOutcome::NotApplicable,
        PartialFailures::Unknown => return ClauseOutcome::NotChecked,
    };
    let faults = allowed(classified, partial);
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in failed(partial, body) {
        // What is no fault that may occur there is `partial.faults-declared`'s.
        let Some(fault) = entry.fault(&faults) else { continue };
        outcome = ClauseOutcome::Met;
        status(&entry, fault, partial, findings);
        title(&entry, fault, findings);
        code(&entry, fault, partial, findings);
    }
    outcome
}

fn status(
    entry: &FailedEntry<'_>,
    fault: &Fault,
    partial: &PartialSuccess,
    findings: &mut Findings,
) {
    let (Some(steps), Some(status)) = (&partial.status, status_of(partial, entry.item)) else {
        return;
    };
    let is_right = status.parse().is_ok_and(|status| fault.has_status(status));
    if !is_right {
        let location = Location::Pointer(format!("{}{}", entry.pointer, from_tokens(steps)));
        let due = FaultStatus { status: fault.status, fault: fault.name.clone() };
        findings.add(
            location,
            Expected::Fault(vec![due], Vec::new()),
            Got::Text(Recorded::text(status)),
        );
    }
}

fn title(entry: &FailedEntry<'_>, fault: &Fault, findings: &mut Findings) {
    let Some(title @ Value::String(text)) = entry.item.member("title") else { return };
    let Some(declared) = &fault.title else { return };
    let is_right = text == declared || fault.titles.iter().any(|(_, title)| title == text);
    if !is_right {
        let expected = FaultText { text: format!("\"{declared}\""), fault: fault.name.clone() };
        let location = Location::Pointer(format!("{}/title", entry.pointer));
        findings.add(location, Expected::FaultText(vec![expected]), Got::value(title));
    }
}

/// A failure that is known by its type has the code of its fault, too, if it has one.
fn code(entry: &FailedEntry<'_>, fault: &Fault, partial: &PartialSuccess, findings: &mut Findings) {
    let (Some(due), Some(code)) = (&fault.code, &entry.code) else { return };
    if due != code {
        let location = format!("{}{}", entry.pointer, from_tokens(&partial.code));
        let expected = FaultText { text: due.clone(), fault: fault.name.clone() };
        let got = Got::Code(code.clone());
        findings.add(Location::Pointer(location), Expected::FaultText(vec![expected]), got);
    }
}
