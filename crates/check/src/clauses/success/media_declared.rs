use crate::classify::{Classified, StatusVerdict};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::media::falls_under;

pub(super) static CLAUSE: Clause = Clause {
    name: "success.media-declared",
    statement: "A success has one of the media types that the contract says are produced.",
    basis: &[Basis::Contract("produces"), Basis::rfc(9110, "8.3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "Callers choose how to parse a response by its media type.",
    fix: "Set Content-Type where the body is written, or name the type in `produces`.",
    check,
    met: &[Example::met(
        "a type that is produced",
        "GET /v1/tides",
        "HTTP/1.1 200 OK\nContent-Type: text/csv; charset=utf-8\n\nhour,height_m\n6,1.2\n",
    )
    .under(TIDES)],
    broken: &[Example::broken(
        "another type",
        "GET /v1/tides",
        "HTTP/1.1 200 OK\nContent-Type: text/html\n\n<table></table>",
        &[("header Content-Type", "text/html")],
    )
    .under(TIDES)],
};

/// Tides come in two types.
const TIDES: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[endpoint."GET /tides"]
success = [200]
produces = ["application/json", "text/csv"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(produces) = &classified.rules().produces else { return ClauseOutcome::NotApplicable };
    let has_body = match classified.response().map(|response| &response.body) {
        Some(ResponseBody::Present(content)) => content.first_byte().is_some(),
        _ => false,
    };
    if !has_body || !matches!(classified.verdict, StatusVerdict::Served) {
        return ClauseOutcome::NotApplicable;
    }
    let media = classified.media();
    if media.is_some_and(|media| produces.iter().any(|range| falls_under(media, range))) {
        return ClauseOutcome::Met;
    }
    // What the description says of this very status is `media.documented`'s.
    if classified.documented().is_some_and(|response| !response.content.is_empty()) {
        return ClauseOutcome::NotApplicable;
    }
    let got = media.map_or(Got::NoMediaType, |media| Got::MediaType(media.to_owned()));
    findings.add(Location::header("Content-Type"), Expected::MediaTypes(produces.clone()), got);
    ClauseOutcome::Met
}
