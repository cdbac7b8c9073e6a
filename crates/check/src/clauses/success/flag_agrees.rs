use crate::classify::{Classified, ParsedBody, SuccessFlag, flag};
use crate::clauses::contracts::ENVELOPE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "success.flag-agrees",
    statement: "The success flag of a body agrees with the status.",
    basis: &[Basis::Contract("envelope"), Basis::rfc(9110, "15.5")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "If flag and status differ, some callers trust the flag and some the status.",
    fix: "Set the flag from the status, or drop it: the status says the same.",
    check,
    met: &[Example::met(
        "an error that says so",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
    )
    .under(ENVELOPE)],
    broken: &[Example::broken(
        "an error that calls itself a success",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":true,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
        &[("body /ok", "true")],
    )
    .under(ENVELOPE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let Some((pointer, says, got)) = flag(classified, body) else {
        return ClauseOutcome::NotApplicable;
    };
    // What a declared shape says of the flag is `shape.declared`'s.
    let name = pointer.trim_start_matches('/');
    if classified.expected_shape().is_some_and(|shape| shape.member(name).is_some()) {
        return ClauseOutcome::NotApplicable;
    }
    if says == SuccessFlag::Success {
        let status = classified.status().unwrap_or_default();
        findings.add(Location::Pointer(pointer), Expected::FailureFlag(status), got);
    }
    ClauseOutcome::Met
}
