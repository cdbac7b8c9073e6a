use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.detail-helps",
    statement: "A problem's detail says more than its title.",
    basis: &[Basis::rfc(9457, "3.1.4")],
    severity: Severity::Note,
    applies_to: AppliesTo::Problems,
    reason: "Detail describes this occurrence, to help the caller fix it.",
    fix: "Say what was wrong with this request, or leave detail out.",
    check,
    met: &[Example::met(
        "a detail about this occurrence",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"No berth has the id Z-99."}"#,
    )],
    broken: &[Example::broken(
        "a detail that repeats the title",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"There is no such berth"}"#,
        &[("body /detail", "\"There is no such berth\"")],
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
    let Some(Value::String(detail)) = members.member("detail") else {
        return ClauseOutcome::NotApplicable;
    };
    let title = members.member("title").and_then(Value::as_str).unwrap_or_default();
    let mut phrases =
        classified.status().into_iter().flat_map(faithful_clerk_model::status::phrases);
    if plain(detail).is_empty() || same(detail, title) || phrases.any(|phrase| same(detail, phrase))
    {
        let location = Location::Pointer("/detail".to_owned());
        findings.add(location, Expected::HelpfulDetail, Got::quoted(detail));
    }
    ClauseOutcome::Met
}

fn plain(text: &str) -> &str {
    text.trim().trim_end_matches('.')
}

/// Are these the same words, whatever their letter case and a full stop behind them?
fn same(one: &str, other: &str) -> bool {
    let [one, other] = [one, other].map(|text| plain(text).chars().flat_map(char::to_lowercase));
    one.eq(other)
}
