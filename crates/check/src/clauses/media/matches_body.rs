use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{BodyForm, Expected, Got, NotChecked, Severity};
use faithful_clerk_model::media::{is_html, is_json};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.matches-body",
    statement: "The body is what its media type says.",
    basis: &[Basis::rfc(9110, "8.3"), Basis::rfc(8259, "2")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "If the media type says JSON, a caller parses the body as JSON. It then reports the parser's error, and the service's own is lost.",
    fix: "Write the body and its media type in one place. Templates that build JSON from text break at the first quotation mark: use a serializer.",
    check,
    met: &[Example::met("JSON that says it is JSON", "GET /v1/berths/A-3", BERTH)],
    broken: &[
        Example::broken(
            "a page under a JSON type",
            "GET /v1/nowhere",
            "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     <html><h1>Not Found</h1></html>",
            &[("the body", "HTML")],
        ),
        Example::broken(
            "JSON under an HTML type",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: text/html\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":404}",
            &[("header Content-Type", "text/html, over a JSON object")],
        ),
        Example::broken(
            "a body that says JSON and is not",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     {\"title\":\"no \"such\" berth\"}",
            &[("the body", "broken JSON: expected `,` or `}` at line 1 column 15")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(said) = classified.media() else { return ClauseOutcome::NotApplicable };
    let (says_json, says_html) = (is_json(said), is_html(said));
    if !says_json && !says_html {
        return ClauseOutcome::NotApplicable;
    }
    if !classified.is_error() {
        return success(classified, said, findings);
    }
    match classified.body() {
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        body @ ParsedBody::Json(_) if says_html => {
            let got = Got::Mislabelled(said.to_owned(), body.form());
            let expected = classified.expected_media().map(str::to_owned);
            let expected = expected.map_or(Expected::JsonMediaType, Expected::MediaType);
            findings.add(Location::header("Content-Type"), expected, got);
        }
        ParsedBody::Json(_) => {}
        body if says_json => {
            findings
                .add(
                    Location::Body,
                    Expected::JsonAsLabelled(said.to_owned()),
                    Got::Body(body.form()),
                )
                .not_checked(NotChecked::Members);
        }
        _ => {}
    }
    ClauseOutcome::Met
}

/// Of a success only the first byte is looked at: whether a page stands where JSON was said.
fn success(classified: &Classified<'_>, said: &str, findings: &mut Findings) -> ClauseOutcome {
    let Some(ResponseBody::Present(content)) = classified.response().map(|response| &response.body)
    else {
        return ClauseOutcome::NotApplicable;
    };
    if is_json(said) && content.first_byte() == Some(b'<') {
        let expected = Expected::JsonAsLabelled(said.to_owned());
        findings.add(Location::Body, expected, Got::Body(BodyForm::Html));
    }
    ClauseOutcome::Met
}
