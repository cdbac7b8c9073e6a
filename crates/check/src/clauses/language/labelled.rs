use crate::classify::Classified;
use crate::clauses::comparing::language;
use crate::clauses::contracts::LANGUAGES;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "language.labelled",
    statement: "Content-Language names the language of the text.",
    basis: &[Basis::rfc(9110, "8.5")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "With a wrong label, a screen reader pronounces one language by the rules of another.",
    fix: "Set Content-Language where the language is chosen, or not at all.",
    check,
    met: &[Example::met(
        "the language of the title",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Language: en
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#,
    )
    .under(LANGUAGES)],
    broken: &[Example::broken(
        "another language",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Language: de
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#,
        &[("header Content-Language", "de")],
    )
    .under(LANGUAGES)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let label = classified.response().and_then(|response| response.headers.get("content-language"));
    let (Some(label), Some(language)) = (label, language(classified)) else {
        return ClauseOutcome::NotApplicable;
    };
    let primary = |tag: &str| tag.trim().split('-').next().unwrap_or_default().to_ascii_lowercase();
    if !label.split(',').any(|tag| primary(tag) == primary(language)) {
        let expected = Expected::LanguageOfTitle(language.to_owned());
        findings.add(Location::header("Content-Language"), expected, Got::header(label));
    }
    ClauseOutcome::Met
}
