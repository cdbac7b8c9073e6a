use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::json;
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "body.conflict-named",
    statement: "A conflict says what the request conflicts with.",
    basis: &[Basis::rfc(9110, "15.5.10")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "A caller who knows what is in the way can wait, choose something else, or ask for an exception.",
    fix: "Put what the request conflicts with into the body: an id, a date, a state; as members or as text.",
    check,
    met: &[Example::met(
        "a conflict that names what is in the way",
        "DELETE /v1/berths/A-3",
        r#"HTTP/1.1 409 Conflict
Content-Type: application/json

{"message":"The berth is let until 2027-05-01"}"#,
    )
    .under(BARE)],
    broken: &[Example::broken(
        "a conflict without details",
        "DELETE /v1/berths/A-3",
        r#"HTTP/1.1 409 Conflict
Content-Type: application/json

{"message":"Conflict"}"#,
        &[("the whole body", "only \"Conflict\"")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.status() != Some(409) {
        return ClauseOutcome::NotApplicable;
    }
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    // A typed problem says what is in the way by its type; and then there may be words or members.
    let typed = body.member("type").is_some_and(|uri| uri.is_string() && uri != "about:blank");
    let words = json::strings(body);
    let words = words.trim();
    let is_phrase =
        faithful_clerk_model::status::phrases(409).any(|phrase| phrase.eq_ignore_ascii_case(words));
    if !typed && !words.is_empty() && is_phrase && body.as_object().is_some_and(|m| m.len() <= 3) {
        let location = Location::Pointer(String::new());
        findings.add(location, Expected::ConflictNamed, Got::Only(Recorded::quoted(words)));
    }
    ClauseOutcome::Met
}
