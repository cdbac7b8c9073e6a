use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.title-phrase",
    statement: "Without a type of its own, a problem's title is the phrase of the status code.",
    basis: &[Basis::rfc(9457, "4.2.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "A problem without a type means no more than its status code; a title of its own promises more.",
    fix: "Give the problem a type, or use the phrase as title and put the rest into detail.",
    check,
    met: &[Example::met(
        "the phrase",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"title":"Not Found","detail":"There is no berth Z-99"}"#,
    )
    .under(GENERIC)],
    broken: &[Example::broken(
        "another title, and no type",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"title":"No luck today"}"#,
        &[("body /title", "\"No luck today\"")],
    )
    .under(GENERIC)],
};

/// Problems without titles of their own.
const GENERIC: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
shape = "problem"
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
    let is_blank = members.member("type").is_none_or(|uri| uri == "about:blank");
    let Some(Value::String(title)) = members.member("title").filter(|_| is_blank) else {
        return ClauseOutcome::NotApplicable;
    };
    // Where a title or a type is declared, or several languages are, it is not for this clause to say.
    let expected = classified.faults.iter().any(|f| f.title.is_some() || f.type_uri.is_some());
    let mut phrases =
        classified.status().into_iter().flat_map(faithful_clerk_model::status::phrases);
    let Some(phrase) =
        phrases.next().filter(|_| !expected && classified.contract.languages.is_empty())
    else {
        return ClauseOutcome::NotApplicable;
    };
    if title == phrase {
        return ClauseOutcome::Met;
    }
    let is_older = phrases.any(|older| older == title);
    let location = Location::Pointer("/title".to_owned());
    let expected = Expected::Title(phrase.to_owned());
    let found = findings.add(location, expected, Got::quoted(title));
    if is_older {
        found.severity(Severity::Note).because(Because::OlderPhrase);
    }
    ClauseOutcome::Met
}
