use crate::classify::Classified;
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_shape::{DataLocations, is_told_wholly, outline};

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.same-for-fault",
    statement: "One fault has one shape, on every method of a resource.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A client that handles 'not found' for GET gets another body for DELETE and fails to handle it.",
    fix: "Raise the same error in all handlers of the resource, instead of writing a body in each.",
    check,
    met: &[Example::met(
        "one shape twice",
        "DELETE /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99"}"#,
    )])],
    broken: &[Example::broken(
        "another shape for another method",
        "DELETE /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99","id":"Z-99"}"#,
        &[("the whole body", "{id: string, message: string}")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // A declared shape is `shape.declared`'s, for each response by itself; what is about input has a clause of
    // its own.
    if classified.expected_shape().is_some() || !classified.reported_fields().is_empty() {
        return ClauseOutcome::NotApplicable;
    }
    let (Some(endpoint), Some(body)) = (classified.endpoint(), classified.body().json()) else {
        return ClauseOutcome::NotApplicable;
    };
    // Detail and instance may be left out of a problem, as they are about the occurrence.
    let mut body = body.clone();
    if let Some(members) = body.as_object_mut() {
        members.retain(|name, _| !matches!(name.as_str(), "detail" | "instance"));
    }
    if !is_told_wholly(&body) {
        return ClauseOutcome::NotApplicable;
    }
    let status = classified.status().unwrap_or_default();
    let subject = match classified.fault() {
        Some(fault) => Subject::Fault(fault.name.clone(), endpoint.path.clone()),
        None => Subject::Status(status, endpoint.path.clone()),
    };
    let value = ObservedValue::Outline(outline(&body, &DataLocations::default()));
    findings.compare(subject, value, Location::Pointer(String::new()));
    ClauseOutcome::NotApplicable
}
