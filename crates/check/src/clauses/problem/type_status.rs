use serde_json::Value;

use crate::classify::{Classified, resolved};
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.type-status",
    statement: "A problem type comes with one status.",
    basis: &[Basis::rfc(9457, "4")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A problem type is defined with one status. With several, callers who check the status and callers who check the type behave differently.",
    fix: "Set the status in the place that sets the type.",
    check,
    met: &[Example::met(
        "one status twice",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/vessels/Z-98",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )])],
    broken: &[Example::broken(
        "another status for the same type",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 409 Conflict
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
        &[("the status line", "409")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    let Some(Value::String(uri)) = members.member("type") else {
        return ClauseOutcome::NotApplicable;
    };
    // The status of a declared type is declared, and `status.fits-situation`'s or `status.declared`'s.
    let base = classified.exchange.request.url.as_ref();
    let seen = resolved(base, uri);
    let mut declared = classified.contract.faults.iter().filter_map(|f| f.type_uri.as_deref());
    if uri == "about:blank" || declared.any(|expected| resolved(base, expected) == seen) {
        return ClauseOutcome::NotApplicable;
    }
    let status = classified.status().unwrap_or_default();
    let subject = Subject::Type(seen.to_string());
    findings.compare(subject, ObservedValue::Status(status), Location::StatusLine);
    ClauseOutcome::NotApplicable
}
