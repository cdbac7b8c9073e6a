use serde_json::Value;

use crate::classify::{Classified, EnvelopeValue, ParsedBody, title_values};
use crate::clauses::contracts::LANGUAGES;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "language.negotiated",
    statement: "Titles are in the language that was negotiated.",
    basis: &[Basis::Contract("languages"), Basis::rfc(9110, "12.5.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A caller who asks for a language means to show the text to somebody who reads \
             it.",
    fix: "Choose the language by Accept-Language with its weights, and the default language if none of them is available.",
    check,
    met: &[Example::met(
        "the requested language",
        "GET /v1/berths/Z-99\nAccept-Language: fr, de;q=0.8, en;q=0.1",
        r#"HTTP/1.1 404 Not Found
Vary: Accept-Language
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"Diesen Liegeplatz gibt es nicht"}"#,
    )
    .under(LANGUAGES)],
    broken: &[Example::broken(
        "another language",
        "GET /v1/berths/Z-99\nAccept-Language: de",
        r#"HTTP/1.1 404 Not Found
Vary: Accept-Language
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#,
        &[("body /title", "\"There is no such berth\", which is en")],
    )
    .under(LANGUAGES)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(due) = classified.expected_language() else { return ClauseOutcome::NotApplicable };
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let Some(fault) = classified.fault().filter(|fault| !fault.titles.is_empty()) else {
        return ClauseOutcome::NotApplicable;
    };
    let titles = title_values(classified);
    // What has a text for each language has that of the negotiated one, too.
    let [EnvelopeValue { pointer, value: Some(Value::String(title)), language: None }] = &*titles
    else {
        return ClauseOutcome::NotApplicable;
    };
    // What is no title of the fault in any language is `problem.title-declared`'s.
    let in_due = fault.titles.iter().any(|(language, text)| language == due && text == title);
    let other = fault.titles.iter().find(|(_, text)| text == title);
    match other {
        None => ClauseOutcome::NotApplicable,
        Some((language, _)) => {
            if !in_due {
                let expected = fault.titles.iter().find(|(known, _)| known == due);
                let expected = expected.map(|(_, text)| text.clone()).unwrap_or_default();
                let location = Location::Pointer(pointer.clone());
                let got = Got::TextIn(Recorded::quoted(title), language.clone());
                findings.add(location, Expected::TitleIn(expected, due.to_owned()), got);
            }
            ClauseOutcome::Met
        }
    }
}
