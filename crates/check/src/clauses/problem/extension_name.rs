use super::meant::STANDARD;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::pointer::join;
use faithful_clerk_shape::is_extension_name;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.extension-name",
    statement: "The name of an extension member works in every format.",
    basis: &[Basis::rfc(9457, "3.2")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A name with other characters can't be an element name in the XML form, nor a variable name in most languages.",
    fix: "Start with a letter, continue with letters, digits and underscores, and use at least three characters.",
    check,
    met: &[Example::met(
        "letters and an underscore",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"berth_id":"Z-99"}"#,
    )],
    broken: &[Example::broken(
        "a dash, and too short a name",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"berth-id":"Z-99","id":1}"#,
        &[("body /berth-id", "`berth-id`"), ("body /id", "`id`")],
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
    let mut outcome = ClauseOutcome::NotApplicable;
    // What the contract declares is told once, there.
    let shape = classified.expected_shape();
    let is_declared = |name: &str| shape.is_some_and(|shape| shape.member(name).is_some());
    for name in members.keys().filter(|name| !STANDARD.contains(&name.as_str())) {
        outcome = ClauseOutcome::Met;
        if !is_extension_name(name) && !is_declared(name) {
            let location = Location::Pointer(join("", name));
            findings.add(location, Expected::ExtensionName, Got::Member(name.clone()));
        }
    }
    outcome
}
