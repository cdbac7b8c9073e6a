use serde_json::Value;

use super::place::undeclared;
use crate::classify::Classified;
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "code.one-meaning",
    statement: "An application code stands for one kind of error.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A code with two meanings identifies neither.",
    fix: "Give each kind of error a code of its own.",
    check,
    met: &[Example::met(
        "one type twice",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"E17","type":"urn:harbour:no-berth","title":"No berth"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-98",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"E17","type":"urn:harbour:no-berth","title":"No berth"}"#,
    )])],
    broken: &[Example::broken(
        "another type for the same code",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"E17","type":"urn:harbour:no-vessel","title":"No vessel"}"#,
        &[("body /code", "with urn:harbour:no-vessel")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"E17","type":"urn:harbour:no-berth","title":"No berth"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some((code, pointer)) = undeclared(classified) else { return ClauseOutcome::NotApplicable };
    // Messages tell of occurrences, so only a type says what kind of error it is.
    let body = classified.body().json();
    let uri = body.and_then(|body| body.member("type")).and_then(Value::as_str);
    let Some(uri) = uri.filter(|uri| *uri != "about:blank") else {
        return ClauseOutcome::NotApplicable;
    };
    let value = ObservedValue::Type(uri.to_owned());
    findings.compare(Subject::Code(code), value, Location::Pointer(pointer));
    ClauseOutcome::NotApplicable
}
