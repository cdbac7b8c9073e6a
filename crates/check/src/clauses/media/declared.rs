use crate::classify::{Classified, ParsedBody};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::Response;
use faithful_clerk_model::finding::{Expected, Got, NotChecked, Severity};
use faithful_clerk_model::media::{essence, is_html, is_json};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.declared",
    statement: "An error response has the media type that the contract declares.",
    basis: &[Basis::Contract("media"), Basis::rfc(9457, "3"), Basis::rfc(9110, "8.3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "Callers choose how to parse an error by its media type. One they do not expect is shown raw, or dropped.",
    fix: "Set Content-Type where the error body is written. A type that differs only on some routes is the framework's own error page: replace its handlers.",
    check,
    met: &[Example::met(
        "the declared type, with a parameter",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json; v=1\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":404}",
    )],
    broken: &[
        Example::broken(
            "problem members as plain JSON",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: application/json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":404}",
            &[("header Content-Type", "application/json")],
        ),
        Example::broken(
            "a page where a problem was declared: one finding, not one for each member",
            "GET /v1/nowhere",
            "HTTP/1.1 404 Not Found\nContent-Type: text/html\n\n<h1>Not Found</h1>",
            &[("header Content-Type", "text/html")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(expected) = classified.expected_media() else { return ClauseOutcome::NotApplicable };
    let seen = classified.media();
    let body = classified.body();
    // About what is not there nothing can be said; that it is not there is for `body.present`.
    if matches!(body, ParsedBody::Empty) {
        return ClauseOutcome::NotApplicable;
    }
    if classified.is_media_unknown() {
        return by_body(classified, expected, findings);
    }
    if classified.has_expected_media() {
        return ClauseOutcome::Met;
    }
    // A label that lies about the body is `media.matches-body`'s, whatever was expected.
    let is_other = matches!(body, ParsedBody::Html(_) | ParsedBody::Text(_));
    let lies = match body {
        ParsedBody::Json(_) => seen.is_some_and(is_html),
        _ => is_other && seen.is_some_and(is_json),
    };
    if lies {
        return ClauseOutcome::NotApplicable;
    }
    // Where only a parameter differs, it is told.
    let whole = classified.response().and_then(Response::media);
    let got = match (seen, whole) {
        (Some(seen), Some(whole)) if expected.starts_with(seen) => Got::MediaType(whole.to_owned()),
        (Some(seen), _) => Got::MediaType(seen.to_owned()),
        (None, _) => Got::NoMediaType,
    };
    let expected = declared(classified, expected);
    let found = findings.add(Location::header("Content-Type"), expected, got);
    if is_other {
        found.not_checked(NotChecked::Members);
    }
    ClauseOutcome::Met
}

fn declared(classified: &Classified<'_>, first: &str) -> Expected {
    match classified.expected_media_types().as_slice() {
        types @ [_, _, ..] => {
            Expected::MediaTypes(types.iter().map(|one| (*one).to_owned()).collect())
        }
        _ => Expected::MediaType(first.to_owned()),
    }
}

/// Where the recording does not hold the media type, what is no JSON is still of no type that is JSON.
fn by_body(classified: &Classified<'_>, expected: &str, findings: &mut Findings) -> ClauseOutcome {
    let body = classified.body();
    let is_no_json = !matches!(body, ParsedBody::Json(_) | ParsedBody::Unknown(_));
    let types = classified.expected_media_types();
    if !is_no_json || !types.into_iter().all(|one| is_json(&essence(one))) {
        return ClauseOutcome::NotChecked;
    }
    let expected = declared(classified, expected);
    findings.add(Location::Body, expected, Got::Body(body.form())).not_checked(NotChecked::Members);
    ClauseOutcome::Met
}
