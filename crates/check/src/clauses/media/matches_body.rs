use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::Severity;
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
            &[("header Content-Type", "text/html, over JSON, an object")],
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
        return success(classified, says_json, findings);
    }
    match classified.body() {
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        body @ ParsedBody::Json(_) if says_html => {
            let seen = format!("{said}, over {}", body.in_brief());
            let expected =
                classified.expected_media().unwrap_or("the media type of JSON").to_owned();
            findings.add(Location::header("Content-Type"), expected, seen);
        }
        ParsedBody::Json(_) => {}
        body if says_json => {
            findings
                .add(Location::Body, format!("JSON, as {said} says"), body.in_brief())
                .because("so its members were not checked");
        }
        _ => {}
    }
    ClauseOutcome::Met
}

/// Of a success only the first byte is looked at: whether a page stands where JSON was said.
fn success(classified: &Classified<'_>, says_json: bool, findings: &mut Findings) -> ClauseOutcome {
    let Some(ResponseBody::Present(content)) = classified.response().map(|response| &response.body)
    else {
        return ClauseOutcome::NotApplicable;
    };
    if says_json && content.first_byte() == Some(b'<') {
        findings.add(Location::Body, "JSON, as its media type says", "HTML");
    }
    ClauseOutcome::Met
}
