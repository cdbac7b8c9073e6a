use serde_json::Value;

use crate::classify::{Classified, resolved};
use crate::clauses::comparing::language;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Recorded, Severity, Subject};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.title-stable",
    statement: "A problem type has one title.",
    basis: &[Basis::rfc(9457, "3.1.3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A title summarizes a problem type. If it changes between occurrences, people can't tell that it is the same problem.",
    fix: "Put what differs into detail, and keep the title constant.",
    check,
    met: &[Example::met(
        "one title twice",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )
    .under(OPEN)
    .beside(&[(
        "GET /v1/berths/Z-98",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )])],
    broken: &[Example::broken(
        "another title for the same type",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd Z-99"}"#,
        &[("body /title", "\"Odd Z-99\"")],
    )
    .under(OPEN)
    .beside(&[(
        "GET /v1/berths/Z-97",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"urn:harbour:odd","title":"Odd"}"#,
    )])],
};

/// No types and titles are declared.
const OPEN: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.none]
status = 404
when = ["resource-not-found"]
[endpoint."GET /berths/{id}"]
faults = ["none"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    let (Some(Value::String(uri)), Some(Value::String(title))) =
        (members.member("type"), members.member("title"))
    else {
        return ClauseOutcome::NotApplicable;
    };
    // A declared title is `problem.title-declared`'s, for each response by itself.
    let declared = classified.faults.iter().any(|fault| fault.title.is_some());
    if declared || uri == "about:blank" {
        return ClauseOutcome::NotApplicable;
    }
    let base = classified.exchange.request.url.as_ref();
    let uri = resolved(base, uri).to_string();
    // A title in another language is no second title (RFC 9457 section 3.1.3).
    let labelled =
        classified.response().and_then(|response| response.headers.get("content-language"));
    let subject = match language(classified).or(labelled) {
        Some(language) => Subject::TypeIn(uri, language.trim().to_ascii_lowercase()),
        None => Subject::Type(uri),
    };
    let title = ObservedValue::Title(Recorded::quoted(title));
    findings.compare(subject, title, Location::Pointer("/title".to_owned()));
    ClauseOutcome::NotApplicable
}
