use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_shape::{TypeName, is_uri, is_uri_reference};

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.type-absolute",
    statement: "A problem's type is an absolute URI.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A relative type resolves to a different URI at every path, and behind every proxy that changes the path.",
    fix: "Write the type with scheme and host.",
    check,
    met: &[Example::met("an absolute type", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "a type with its path only",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"/faults/no-such-berth","title":"There is no such berth","status":404}"#,
        &[("body /type", "/faults/no-such-berth")],
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
        return ClauseOutcome::NotApplicable;
    }
    if !is_uri(uri) {
        let location = Location::Pointer("/type".to_owned());
        let found = findings.add(location, Expected::AbsoluteUri, Got::Uri(uri.clone()));
        if !uri.starts_with('/') {
            found.because(Because::RelativeType);
        }
        // What the standard recommends, a shape can demand.
        let declared = classified.expected_shape().and_then(|shape| shape.member("type"));
        if declared.is_some_and(|member| matches!(member.constrained.name, TypeName::Uri)) {
            found.severity(Severity::Breach);
        }
    }
    ClauseOutcome::Met
}
