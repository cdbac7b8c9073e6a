use crate::classify::Classified;
use crate::clauses::contracts::BUSY;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::headers::is_http_date;

pub(super) static CLAUSE: Clause = Clause {
    name: "header.retry-after",
    statement: "Retry-After is a date or a whole number of seconds.",
    basis: &[Basis::rfc(9110, "10.2.3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A client that can't parse it retries at once, just when the service is overloaded.",
    fix: "Write seconds as digits only, or a date as in Tue, 15 Nov 2033 08:12:31 GMT.",
    check,
    met: &[Example::met(
        "a number of seconds",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 429 Too Many Requests
Retry-After: 30
Content-Type: application/json

{"message":"Too many requests a minute"}"#,
    )
    .under(BUSY)],
    broken: &[Example::broken(
        "a duration with a unit",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 429 Too Many Requests
Retry-After: 30s
Content-Type: application/json

{"message":"Too many requests a minute"}"#,
        &[("header Retry-After", "30s")],
    )
    .under(BUSY)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let value = classified.response().and_then(|response| response.headers.get("retry-after"));
    let Some(value) = value else { return ClauseOutcome::NotApplicable };
    if !is_delay_or_date(value) {
        findings.add(Location::header("Retry-After"), Expected::SecondsOrDate, Got::header(value));
    }
    ClauseOutcome::Met
}

/// `Retry-After = HTTP-date / delay-seconds` (RFC 9110 section 10.2.3).
pub(super) fn is_delay_or_date(value: &str) -> bool {
    let is_seconds = !value.is_empty() && value.bytes().all(|byte| byte.is_ascii_digit());
    is_seconds || is_http_date(value)
}
