use crate::classify::{Classified, EnvelopeValue, ParsedBody, code_values, envelope_values};
use crate::clauses::contracts::TWO_LANGUAGES;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::Fault;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FaultText, Got, Severity};
use faithful_clerk_model::json::scalar_text;
use serde_json::Value;

pub(super) static CLAUSE: Clause = Clause {
    name: "body.title-declared",
    statement: "The title in an envelope is the one that the contract declares for the fault.",
    basis: &[Basis::Contract("title"), Basis::Contract("envelope")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "People search for an error by its title, and read it in their own language. A title that varies leads them nowhere.",
    fix: "Keep titles and codes together in one list, and put what varies elsewhere.",
    check,
    met: &[Example::met(
        "the declared title in each language",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error":{"code":"no-such-berth","titles":{"en":"There is no such berth","de":"Diesen Liegeplatz gibt es nicht"}}}"#,
    )
    .under(TWO_LANGUAGES)],
    broken: &[
        Example::broken(
            "another title",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error":{"code":"no-such-berth","titles":{"en":"There is no berth Z-99","de":"Diesen Liegeplatz gibt es nicht"}}}"#,
            &[("body /error/titles/en", "\"There is no berth Z-99\"")],
        )
        .under(TWO_LANGUAGES),
        Example::broken(
            "no title in one of the languages",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"error":{"code":"no-such-berth","titles":{"en":"There is no such berth"}}}"#,
            &[("body /error/titles/de", "nothing")],
        )
        .under(TWO_LANGUAGES),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(steps) = &classified.style().envelope.title else {
        return ClauseOutcome::NotApplicable;
    };
    match classified.body() {
        ParsedBody::Json(_) => {}
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    }
    let (titles, codes) = (envelope_values(classified, steps), code_values(classified));
    let mut outcome = ClauseOutcome::NotApplicable;
    for title in titles {
        let faults = faults_of(&title, &codes, classified);
        let is_expected = |text: &str| faults.iter().any(|fault| fits(fault, title.language, text));
        if faults.is_empty() || faults.iter().any(|fault| fault.title.is_none()) {
            continue;
        }
        outcome = ClauseOutcome::Met;
        let got = match title.value {
            Some(Value::String(text)) if is_expected(text) => continue,
            Some(value @ Value::String(_)) => Got::value(value),
            None if title.is_missing_in_language(classified) => Got::Nothing,
            // What is no text, or is not there at all, is the shape's.
            Some(_) | None => continue,
        };
        let expected = faults.iter().filter_map(|fault| {
            let text = format!("\"{}\"", fault.title_in(title.language)?);
            Some(FaultText { text, fault: fault.name.clone() })
        });
        let expected = Expected::FaultText(expected.collect());
        findings.add(Location::Pointer(title.pointer.clone()), expected, got);
    }
    outcome
}

/// Is this a title of the fault: in that language, or in any where none is due here? Which one was negotiated is
/// `language.negotiated`'s.
fn fits(fault: &Fault, language: Option<&str>, text: &str) -> bool {
    match language {
        Some(_) => fault.title_in(language) == Some(text),
        None => {
            fault.title.as_deref() == Some(text)
                || fault.titles.iter().any(|(_, title)| title == text)
        }
    }
}

/// The faults that an error in a list may be: the one of the code beside it, else those of the response.
fn faults_of<'a>(
    title: &EnvelopeValue<'_>,
    codes: &[EnvelopeValue<'_>],
    classified: &Classified<'a>,
) -> Vec<&'a Fault> {
    let shared = |code: &&EnvelopeValue<'_>| {
        let same = title.pointer.split('/').zip(code.pointer.split('/'));
        same.take_while(|(one, other)| one == other).count()
    };
    let code = codes.iter().max_by_key(shared).filter(|_| codes.len() > 1);
    let code = code.and_then(|code| scalar_text(code.value?));
    let by_code = classified.contract.faults.iter().filter(|fault| fault.code == code);
    match by_code.take(usize::from(code.is_some())).next() {
        Some(fault) => vec![fault],
        None => classified.faults.clone(),
    }
}
