use super::input::is_about_input;
use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::TOO_MANY_NIGHTS;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_shape::{Shape, is_told_wholly, outline};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.one-shape",
    statement: "All validation errors have one shape.",
    basis: &[Basis::rfc(9457, "3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "Callers who show validation errors have to write code for each shape.",
    fix: "Write all of them in one layer: the framework's and those of the service's own rules.",
    check,
    met: &[Example::met(
        "one shape for other fields",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":{"nights":["at most 28"]}}"#,
    )
    .under(BARE)
    .beside(&[(
        r#"POST /v1/reservations
Content-Type: application/json

{"vessel_id":"x","nights":2}"#,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":{"vessel_id":["is odd"]}}"#,
    )])],
    broken: &[Example::broken(
        "another shape",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"nights","message":"at most 28"}],"hint":"mend it"}"#,
        &[("the whole body", "{errors: array of {field: string, message: string}, hint: string}")],
    )
    .under(BARE)
    .beside(&[
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"nights","message":"at most 28"}]}"#,
        ),
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"nights","message":"at most 28"}]}"#,
        ),
    ])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // A declared shape is `shape.declared`'s, for each response by itself.
    let own = |shape: &&Shape| shape.name != "problem";
    if !is_about_input(classified) || classified.expected_shape().is_some_and(|shape| own(&shape)) {
        return ClauseOutcome::NotApplicable;
    }
    let ParsedBody::Json(body) = classified.body() else { return ClauseOutcome::NotApplicable };
    if !is_told_wholly(body) {
        return ClauseOutcome::NotApplicable;
    }
    let value = ObservedValue::Outline(outline(body, &classified.data_locations()));
    findings.compare(Subject::ValidationErrors, value, Location::Pointer(String::new()));
    ClauseOutcome::NotApplicable
}
