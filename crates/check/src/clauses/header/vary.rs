use crate::classify::Classified;
use crate::clauses::comparing::language;
use crate::clauses::contracts::LANGUAGES;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.vary",
    statement: "A response that depends on the requested language says so in Vary.",
    basis: &[Basis::rfc(9110, "12.5.5")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A cache that does not know serves one language to callers who asked for another.",
    fix: "Send Vary: Accept-Language with every response whose text depends on it.",
    check,
    met: &[Example::met(
        "Vary names the header",
        "GET /v1/berths/Z-99\nAccept-Language: de",
        r#"HTTP/1.1 404 Not Found
Vary: Accept-Language
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"Diesen Liegeplatz gibt es nicht"}"#,
    )
    .under(LANGUAGES)],
    broken: &[Example::broken(
        "no Vary",
        "GET /v1/berths/Z-99\nAccept-Language: de",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"Diesen Liegeplatz gibt es nicht"}"#,
        &[("header Vary", "no such header")],
    )
    .under(LANGUAGES)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // Only a response whose language is known to have been chosen is checked.
    let asked = || classified.exchange.request.headers.has("accept-language");
    let Some(response) =
        classified.response().filter(|_| language(classified).is_some() && asked())
    else {
        return ClauseOutcome::NotApplicable;
    };
    let values: Vec<&str> = response.headers.all("vary").collect();
    let named = values.iter().flat_map(|value| value.split(',')).map(str::trim);
    if !named.into_iter().any(|name| name == "*" || name.eq_ignore_ascii_case("accept-language")) {
        let got = if values.is_empty() { Got::NoHeader } else { Got::header(values.join(", ")) };
        let expected = Expected::ListContaining(vec!["Accept-Language".to_owned()]);
        findings.add(Location::header("Vary"), expected, got);
    }
    ClauseOutcome::Met
}
