use crate::classify::CUT;
use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::Json;

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.complete",
    statement: "A response is complete.",
    basis: &[Basis::rfc(9112, "8")],
    severity: Severity::Note,
    applies_to: AppliesTo::Responses,
    reason: "A truncated response can't be read, and a caller who does not notice acts on partial data.",
    fix: "Find what closes the connection: a timeout, a worker that dies, a proxy. If it is the recorder that truncates bodies, raise its limit.",
    check,
    met: &[Example::met("a complete response", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "shorter than Content-Length",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Length: 174
Content-Type: application/problem+json

{"title":"There"#,
        &[("the exchange", "a truncated response")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let by_length =
        || classified.is_error() && matches!(classified.body(), ParsedBody::Unknown(CUT));
    if classified.is_truncated() || by_length() || is_cut_success(classified) {
        findings.add(Location::Exchange, Expected::CompleteResponse, Got::TruncatedResponse);
    }
    ClauseOutcome::Met
}

/// Less came of a success than its Content-Length says. One that is whole JSON was shortened by a recorder that masks.
fn is_cut_success(classified: &Classified<'_>) -> bool {
    let Some(response) = classified.response().filter(|_| !classified.is_error()) else {
        return false;
    };
    let ResponseBody::Present(content) = &response.body else { return false };
    let announced = response.headers.content_length();
    let is_short =
        announced.zip(content.at_most()).is_some_and(|(announced, most)| announced > most as u64);
    is_short
        && !response.headers.has("content-encoding")
        && !content.decode().is_ok_and(|bytes| matches!(Json::read(&bytes), Json::Value(_)))
}
