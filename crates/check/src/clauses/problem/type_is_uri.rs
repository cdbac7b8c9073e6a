use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_shape::is_uri_reference;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.type-is-uri",
    statement: "A problem's type is a URI reference.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "A type is resolved as a URI before it is compared; anything else can't be.",
    fix: "Give the problem type a URI of your own, such as \
             https://harbour.example/faults/berth-taken.",
    check,
    met: &[Example::met("a URI", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "a sentence as a type",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"no such berth","title":"There is no such berth","status":404}"#,
        &[("body /type", "\"no such berth\"")],
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
    let Some(Value::String(uri)) = members.member("type") else {
        return ClauseOutcome::NotApplicable;
    };
    if !is_uri_reference(uri) {
        let location = Location::Pointer("/type".to_owned());
        findings.add(location, Expected::UriReference, Got::quoted(uri));
    }
    ClauseOutcome::Met
}
