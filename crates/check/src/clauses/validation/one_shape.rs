use super::complete::list_of_entries;
use super::input::{is_about_input, is_about_parameters};
use super::violation_form::violation_form;
use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::TOO_MANY_NIGHTS;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};

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

{"fields":{"nights":["at most 28"]},"hint":"mend it"}"#,
        &[("the whole body", "{fields: map of array of string}")],
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
    // Declared entries are `shape.declared`'s, for each response by itself.
    let declared =
        classified.expected_shape().is_some_and(|shape| list_of_entries(shape).is_some())
            || classified.style().envelope.fields.is_some();
    if !is_about_input(classified) || declared {
        return ClauseOutcome::NotApplicable;
    }
    let ParsedBody::Json(body) = classified.body() else { return ClauseOutcome::NotApplicable };
    let entries = classified.reported_fields();
    // Where the body as a whole is wrong, there is no field to name.
    let names_none = entries.iter().all(|entry| entry.location.is_none());
    if names_none && !has_field_to_name(classified) {
        return ClauseOutcome::NotApplicable;
    }
    let value = ObservedValue::Outline(violation_form(body, entries));
    // A violation of a parameter may well look otherwise than one of a field.
    let subject = match is_about_parameters(classified) {
        true => Subject::ParameterErrors,
        false => Subject::ValidationErrors,
    };
    findings.compare(subject, value, Location::Pointer(String::new()));
    ClauseOutcome::NotApplicable
}

/// Is anything wrong with a field or a parameter, and not with the body as a whole alone?
fn has_field_to_name(classified: &Classified<'_>) -> bool {
    let situations = &classified.situations;
    !situations.parameters.is_empty()
        || situations.invalid.iter().any(|mismatch| !mismatch.pointer.is_empty())
}
