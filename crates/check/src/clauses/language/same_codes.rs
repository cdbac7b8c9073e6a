use serde_json::Value;

use crate::classify::{Classified, ParsedBody};
use crate::clauses::comparing::request_of;
use crate::clauses::contracts::LANGUAGES;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "language.same-codes",
    statement: "Types, codes and members are the same in every language.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "Programs read types, codes and member names. If those change with the language, programs break.",
    fix: "Translate titles and details, and nothing else.",
    check,
    met: &[Example::met("the same but for the title", "GET /v1/berths/Z-99\nAccept-Language: de", r#"HTTP/1.1 404 Not Found
Vary: Accept-Language
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"Diesen Liegeplatz gibt es nicht"}"#).under(LANGUAGES).beside(&[("GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#)])],
    broken: &[Example::broken("a member that was translated", "GET /v1/berths/Z-99\nAccept-Language: de", r#"HTTP/1.1 404 Not Found
Vary: Accept-Language
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"Diesen Liegeplatz gibt es nicht","liegeplatz":"Z-99"}"#, &[("the whole body", "https://harbour.example/faults/no-such-berth, no code, liegeplatz, title, type, in de")]).under(LANGUAGES).beside(&[("GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","berth":"Z-99"}"#)])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(due) = classified.expected_language() else { return ClauseOutcome::NotApplicable };
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let uri = body.member("type").and_then(Value::as_str).unwrap_or("about:blank");
    let code = body.member("code").map(Value::to_string);
    let mut names: Vec<String> =
        body.as_object().into_iter().flatten().map(|(name, _)| name.clone()).collect();
    names.sort_unstable();
    let value = ObservedValue::Error(uri.to_owned(), code, names);
    findings.compare_parts(due, request_of(classified), value, Location::Pointer(String::new()));
    ClauseOutcome::NotApplicable
}
