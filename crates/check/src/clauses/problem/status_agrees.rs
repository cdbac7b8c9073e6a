use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.status-agrees",
    statement: "The member `status` equals the status code of the response.",
    basis: &[Basis::rfc(9457, "3.1.2")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "With two different numbers, some callers trust the status line and some the body.",
    fix: "Fill the member from the status that is sent. If a gateway rewrites statuses, make it leave the service's errors alone.",
    check,
    met: &[Example::met(
        "the same number twice",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":404.0}",
    )],
    broken: &[Example::broken(
        "another number in the body",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":400}",
        &[("body /status", "400")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    // A status that is no number is `problem.member-type`'s.
    let Some(status) = members.member("status").and_then(serde_json::Value::as_f64) else {
        return ClauseOutcome::NotApplicable;
    };
    let line = classified.status().unwrap_or_default();
    let is_code = status.fract() == 0.0 && (100.0..600.0).contains(&status);
    if is_code && status != f64::from(line) {
        let got = members.member("status").map_or(Got::Nothing, Got::value);
        findings.add(Location::Pointer("/status".to_owned()), Expected::StatusLine(line), got);
    }
    ClauseOutcome::Met
}
