use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.accept-hint",
    statement: "A 415 says what would be accepted.",
    basis: &[Basis::rfc(9110, "15.5.16"), Basis::rfc(5789, "2.2")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "The caller sent something that is not accepted, and now has to guess what is.",
    fix: "Send Accept with the media types, Accept-Encoding with the codings, and \
             Accept-Patch for PATCH.",
    check,
    met: &[Example::met(
        "the accepted types",
        "POST /v1/reservations\nContent-Type: text/csv\n\na,b",
        r#"HTTP/1.1 415 Unsupported Media Type
Accept: application/json
Content-Type: application/json

{"message":"Send JSON"}"#,
    )
    .under(PICKY)],
    broken: &[
        Example::broken(
            "no hint at what is accepted",
            "POST /v1/reservations\nContent-Type: text/csv\n\na,b",
            r#"HTTP/1.1 415 Unsupported Media Type
Content-Type: application/json

{"message":"No"}"#,
            &[("header Accept", "no such header")],
        )
        .under(PICKY),
        Example::broken(
            "a PATCH, where the RFC asks for it",
            "PATCH /v1/reservations\nContent-Type: text/csv\n\na,b",
            r#"HTTP/1.1 415 Unsupported Media Type
Content-Type: application/json

{"message":"No"}"#,
            &[("header Accept-Patch", "no such header")],
        )
        .under(PICKY),
    ],
};

/// Only JSON is taken.
const PICKY: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.wrong-media]
status = 415
when = ["unsupported-media-type"]
[everywhere]
faults = ["wrong-media"]
accepts = ["application/json"]
[endpoint."POST /reservations"]
[endpoint."PATCH /reservations"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(response) = classified.response().filter(|response| response.status == 415) else {
        return ClauseOutcome::NotApplicable;
    };
    let is_patch = classified.exchange.request.method == "PATCH";
    let hints = ["accept", "accept-encoding", "accept-patch"];
    if hints.iter().any(|name| response.headers.has(name)) {
        return ClauseOutcome::Met;
    }
    let name = if is_patch { "Accept-Patch" } else { "Accept" };
    let found = findings.add(Location::header(name), Expected::AcceptedMediaTypes, Got::NoHeader);
    if is_patch {
        found.severity(Severity::Warning);
    }
    ClauseOutcome::Met
}
