use super::meant::{STANDARD, misnamed};
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::pointer::join;
use faithful_clerk_shape::Shape;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.extension-declared",
    statement: "An extension member is one that the contract declares.",
    basis: &[Basis::rfc(9457, "3.2"), Basis::Contract("shape")],
    severity: Severity::Note,
    applies_to: AppliesTo::Problems,
    reason: "Callers ignore members they do not know, so nobody reads it.",
    fix: "Declare the member in the fault's members, or leave it out.",
    check,
    met: &[Example::met(
        "a declared member",
        r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"vessel_id":"OB1234","nights":99}"#,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"}]}"#,
    )],
    broken: &[Example::broken(
        "an undeclared member",
        r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"vessel_id":"OB1234","nights":99}"#,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"}],"retryable":false}"#,
        &[("body /retryable", "`retryable`")],
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
    // Where only the standard members are declared, the contract is silent about others; a closed shape
    // is `shape.declared`'s.
    let shape = classified.expected_shape().filter(|shape| shape.is_problem && !shape.closed);
    let says = |shape: &&Shape| shape.members.iter().any(|m| !STANDARD.contains(&m.name.as_str()));
    let Some(shape) = shape.filter(says).filter(|_| !classified.faults.is_empty()) else {
        return ClauseOutcome::NotApplicable;
    };
    let misnamed = misnamed(classified);
    // The code of a fault is declared by itself.
    let has_code = classified.faults.iter().any(|fault| fault.code.is_some());
    let code_member = match &classified.style().envelope.code {
        Some(steps) => steps.first().map(String::as_str),
        None => Some("code"),
    };
    for name in members.keys().filter(|name| !STANDARD.contains(&name.as_str())) {
        let known = shape.member(name).is_some()
            || misnamed.iter().any(|other| other.name == name)
            || (has_code && code_member == Some(name.as_str()));
        if !known {
            let expected = Expected::MemberOf(shape.name.clone());
            findings.add(Location::Pointer(join("", name)), expected, Got::Member(name.clone()));
        }
    }
    ClauseOutcome::Met
}
