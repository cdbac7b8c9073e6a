use super::input::{is_about_input, is_about_parameters};
use crate::classify::{Classified, LocationForm};
use crate::clauses::contracts::BARE;
use crate::clauses::example::TOO_MANY_NIGHTS;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.one-location-style",
    statement: "All validation errors name their locations in one style.",
    basis: &[Basis::rfc(9457, "3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "Callers who read the locations have to write code for each style.",
    fix: "Write all locations with one function. The standard's own example uses JSON Pointers.",
    check,
    met: &[Example::met(
        "one style twice",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
    )
    .under(BARE)
    .beside(&[(
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
    )])],
    broken: &[Example::broken(
        "another style",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"nights","message":"at most 28"}]}"#,
        &[("body /errors/0/field", "names and paths")],
    )
    .under(BARE)
    .beside(&[
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
        ),
        (
            TOO_MANY_NIGHTS,
            r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights","message":"at most 28"}]}"#,
        ),
    ])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // How parameters are named has nothing to do with how fields are.
    if !is_about_input(classified) || is_about_parameters(classified) {
        return ClauseOutcome::NotApplicable;
    }
    let mut told: Vec<&str> = Vec::new();
    for entry in classified.reported_fields().iter().filter(|entry| entry.location.is_some()) {
        // How a declared pointer is written is the contract's to say; and a name alone is a short path.
        let style = match entry.form {
            LocationForm::None | LocationForm::Parameter => continue,
            _ if entry.is_pointer || entry.is_in_parameters() => continue,
            LocationForm::Name | LocationForm::Dots | LocationForm::Brackets => "names and paths",
            form => form.words(),
        };
        if !told.contains(&style) {
            told.push(style);
            let place = Location::Pointer(entry.pointer.clone());
            let value = ObservedValue::Style(style.to_owned());
            findings.compare(Subject::ValidationErrors, value, place);
        }
    }
    ClauseOutcome::NotApplicable
}
