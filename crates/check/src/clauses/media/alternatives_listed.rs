use crate::classify::{Classified, ParsedBody};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::headers::is_token;

pub(super) static CLAUSE: Clause = Clause {
    name: "media.alternatives-listed",
    statement: "A 406 lists the available media types.",
    basis: &[Basis::rfc(9110, "15.5.7")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "A caller who asked for an unavailable type can only choose if the available ones are listed.",
    fix: "List the media types in the body, or respond in the default type instead of refusing.",
    check,
    met: &[Example::met(
        "the available types",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 406 Not Acceptable
Content-Type: application/json

{"message":"This resource is application/json"}"#,
    )
    .under(NEGOTIATED)],
    broken: &[Example::broken(
        "a refusal without a list",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 406 Not Acceptable
Content-Type: application/json

{"message":"Not acceptable"}"#,
        &[("the body", "no media type")],
    )
    .under(NEGOTIATED)],
};

/// Text is to be had at the pier only.
const NEGOTIATED: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.no-such-form]
status = 406
when = ["not-acceptable"]
[endpoint."GET /berths/{id}"]
faults = ["no-such-form"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.status() != Some(406) {
        return ClauseOutcome::NotApplicable;
    }
    let words = match classified.body() {
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        body => body.words().unwrap_or_default(),
    };
    let is_media = |word: &str| {
        let word = word.trim_matches(|c: char| !c.is_alphanumeric());
        word.split_once('/').is_some_and(|(kind, sub)| is_token(kind) && is_token(sub))
    };
    if !words.split_whitespace().any(is_media) {
        findings.add(Location::Body, Expected::AvailableMediaTypes, Got::NoMediaType);
    }
    ClauseOutcome::Met
}
