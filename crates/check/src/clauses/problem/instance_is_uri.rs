use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_shape::is_uri_reference;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.instance-is-uri",
    statement: "A problem's instance is a URI reference.",
    basis: &[Basis::rfc(9457, "3.1.5")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "An instance identifies one occurrence so that it can be looked up; a sentence does not.",
    fix: "Send a URI with its full path. A bare id can be a member of its own, or urn:uuid:….",
    check,
    met: &[Example::met(
        "the path of the occurrence",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"instance":"/log/4711"}"#,
    )],
    broken: &[Example::broken(
        "a sentence as an instance",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"instance":"log entry 4711"}"#,
        &[("body /instance", "\"log entry 4711\"")],
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
    let Some(Value::String(uri)) = members.member("instance") else {
        return ClauseOutcome::NotApplicable;
    };
    if !is_uri_reference(uri) {
        let location = Location::Pointer("/instance".to_owned());
        findings.add(location, Expected::UriReference, Got::quoted(uri));
    }
    ClauseOutcome::Met
}
