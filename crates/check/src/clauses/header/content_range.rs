use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.content-range",
    statement: "A 416 gives the complete length.",
    basis: &[Basis::rfc(9110, "15.5.17")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A client that asked for bytes past the end needs the length to ask again.",
    fix: "Send Content-Range: bytes */LENGTH.",
    check,
    met: &[Example::met(
        "the length",
        "GET /v1/berths/A-3\nRange: bytes=900-",
        r#"HTTP/1.1 416 Range Not Satisfiable
Content-Range: bytes */88
Content-Type: application/json

{"message":"Only 88 bytes"}"#,
    )
    .under(RANGES)],
    broken: &[Example::broken(
        "no length",
        "GET /v1/berths/A-3\nRange: bytes=900-",
        r#"HTTP/1.1 416 Range Not Satisfiable
Content-Type: application/json

{"message":"No"}"#,
        &[("header Content-Range", "no such header")],
    )
    .under(RANGES)],
};

/// Ranges can be asked for.
const RANGES: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.no-range]
status = 416
[endpoint."GET /berths/{id}"]
faults = ["no-range"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let range = classified.exchange.request.headers.get("range").unwrap_or_default();
    let Some(response) = classified.response().filter(|response| response.status == 416) else {
        return ClauseOutcome::NotApplicable;
    };
    if !range.trim_start().starts_with("bytes") {
        return ClauseOutcome::NotApplicable;
    }
    let value = response.headers.get("content-range");
    let length = value.and_then(|value| value.trim().strip_prefix("bytes */"));
    let fits = |length: &str| !length.is_empty() && length.bytes().all(|b| b.is_ascii_digit());
    if !length.is_some_and(fits) {
        let got = value.map_or(Got::NoHeader, Got::header);
        findings.add(Location::header("Content-Range"), Expected::UnsatisfiedRange, got);
    }
    ClauseOutcome::Met
}
