use crate::classify::{Classified, ParsedBody, envelope_values};
use crate::clauses::contracts::BARE;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::json::{self, JsonType};
use faithful_clerk_model::snippet::snippet;

pub(super) static CLAUSE: Clause = Clause {
    name: "body.explains",
    statement: "The body of an error says something.",
    basis: &[Basis::rfc(9110, "15.5"), Basis::rfc(9457, "3.1.4"), Basis::Contract("envelope")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A body that only repeats the status tells the caller nothing new.",
    fix: "Say what was wrong, in words that help the caller fix it.",
    check,
    met: &[Example::met("an error that says what is wrong", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "an empty object",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{}"#,
        &[("the whole body", "{}")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match classified.body() {
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        ParsedBody::Json(value) => {
            // The contract may say where the words stand; one that is missing there breaks the shape, if
            // there is one.
            let message = classified.style().envelope.message.as_ref();
            let texts = message.map(|steps| envelope_values(classified, steps));
            let mut is_blank = false;
            for text in texts.into_iter().flatten() {
                let got = match text.value.map(json::strings) {
                    Some(words) if words.trim().is_empty() => Got::None,
                    None if text.is_missing_in_language(classified) => Got::Nothing,
                    Some(_) | None => continue,
                };
                is_blank = true;
                findings.add(Location::Pointer(text.pointer), Expected::ErrorWords, got);
            }
            if is_blank {
                return ClauseOutcome::Met;
            }
            // What a problem or a declared shape lacks, the clauses about those tell.
            let says = json::has_words(value);
            let is_agreed =
                classified.is_meant_as_problem() || classified.expected_shape().is_some();
            if !says && !is_agreed {
                let text = value.to_string();
                let got = Got::Value(JsonType::of(value), Recorded::text(snippet(&text, 60)));
                findings.add(Location::Pointer(String::new()), Expected::ErrorWords, got);
            }
        }
        ParsedBody::BrokenJson { .. } | ParsedBody::Html(_) | ParsedBody::Text(_) => {}
    }
    ClauseOutcome::Met
}
