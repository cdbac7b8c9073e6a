use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::media::{falls_under, is_html, is_json};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.documented",
    statement: "A response has a media type that the description documents for its status.",
    basis: &[Basis::Contract("openapi")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Generated clients choose a parser by what the description says.",
    fix: "Send the documented type, or document the one that is sent.",
    check,
    met: &[
        Example::met("the documented type", "GET /v1/berths/Z-99", NO_SUCH_BERTH).described(QUAY)
    ],
    broken: &[Example::broken(
        "another type",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"There is no berth Z-99"}"#,
        &[("header Content-Type", "application/json")],
    )
    .described(QUAY)],
};

const QUAY: &str = r#"{
  "openapi": "3.1.0",
  "info": {"title": "Quay", "version": "1"},
  "paths": {"/berths/{id}": {"get": {"responses": {
    "404": {"description": "none", "content": {"application/problem+json": {}}}
  }}}}
}"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // A media type that the contract declares is `media.declared`'s.
    if classified.is_error() && classified.expected_media().is_some() {
        return ClauseOutcome::NotApplicable;
    }
    let Some(content) = classified.documented().map(|response| &response.content) else {
        return ClauseOutcome::NotApplicable;
    };
    let has_body = match classified.response().map(|response| &response.body) {
        Some(ResponseBody::Present(content)) => content.first_byte().is_some(),
        _ => false,
    };
    if content.is_empty() || !has_body {
        return ClauseOutcome::NotApplicable;
    }
    let media = classified.media();
    if media.is_some_and(|media| content.iter().any(|(range, _)| falls_under(media, range))) {
        return ClauseOutcome::Met;
    }
    // A label that lies about the body is `media.matches-body`'s.
    let lies = classified.is_error()
        && match classified.body() {
            ParsedBody::Json(_) => media.is_some_and(is_html),
            ParsedBody::Html(_) | ParsedBody::Text(_) => media.is_some_and(is_json),
            _ => false,
        };
    if !lies {
        let types = content.iter().map(|(range, _)| range.clone()).collect();
        let got = media.map_or(Got::NoMediaType, |media| Got::MediaType(media.to_owned()));
        findings.add(Location::header("Content-Type"), Expected::DocumentedMediaTypes(types), got);
    }
    ClauseOutcome::Met
}
