use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.unique-names",
    statement: "The names of an object's members are unique.",
    basis: &[Basis::rfc(8259, "4"), Basis::rfc(7493, "2.3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "When a name is repeated, one parser takes the first value, another the last, and a third rejects the body.",
    fix: "Build the body as one object and serialize it once, instead of concatenating text.",
    check,
    met: &[Example::met("each name once", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "a repeated name",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth Z-99","code":4,"code":5}"#,
        &[("body /code", "two members of that name")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match classified.body() {
        ParsedBody::Json(_) => {}
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    }
    if let Some(twice) = classified.repeated_name() {
        findings.add(Location::Pointer(twice), Expected::UniqueName, Got::RepeatedName);
    }
    ClauseOutcome::Met
}
