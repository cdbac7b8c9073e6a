use crate::classify::Classified;
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_model::json::JsonType;
use faithful_clerk_model::json::pointer::join;

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.one-json-type",
    statement: "A member has one JSON type in all errors.",
    basis: &[Basis::rfc(9457, "3.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A member that is a string in one error and an object in the next can't be read without checking first.",
    fix: "Give the second meaning a name of its own.",
    check,
    met: &[Example::met(
        "one JSON type twice",
        "GET /v1/vessels/Z-99",
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
        "another JSON type",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":["no vessel","Z-99"]}"#,
        &[("body /message", "array")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99"}"#,
    )])],
};

/// An error with more members is not compared.
const MOST_MEMBERS: usize = 200;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else { return ClauseOutcome::NotApplicable };
    // Nobody compares so many, and it is told that nobody does.
    if members.len() > MOST_MEMBERS {
        return ClauseOutcome::NotChecked;
    }
    let expected = classified.expected_shape();
    for (name, value) in members.iter().filter(|(_, value)| !value.is_null()) {
        // What is declared is checked for each response by itself, and a field's name is data.
        let is_agreed = expected.is_some_and(|shape| shape.member(name).is_some());
        let is_field = classified
            .reported_fields()
            .iter()
            .any(|e| e.location.as_deref() == Some(name.as_str()));
        if !is_agreed && !is_field {
            let value = ObservedValue::Json(JsonType::of(value));
            findings.compare(
                Subject::Members(name.clone()),
                value,
                Location::Pointer(join("", name)),
            );
        }
    }
    ClauseOutcome::NotApplicable
}
