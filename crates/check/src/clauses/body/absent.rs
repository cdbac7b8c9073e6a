use crate::classify::{Classified, ParsedBody};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.absent",
    statement: "A response that must not have content has none.",
    basis: &[
        Basis::rfc(9110, "9.3.2"),
        Basis::rfc(9110, "15.3.5"),
        Basis::rfc(9110, "15.3.6"),
        Basis::rfc(9110, "15.4.5"),
    ],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "On a persistent connection, the stray bytes are read as the start of the next response.",
    fix: "Send a status that allows content (200 instead of 204), or drop the body.",
    check,
    met: &[Example::met(
        "204 without content",
        "DELETE /v1/reservations/r-1",
        "HTTP/1.1 204 No Content",
    )],
    broken: &[Example::broken(
        "204 with content",
        "DELETE /v1/reservations/r-1",
        "HTTP/1.1 204 No Content\nContent-Type: application/json\n\n{\"deleted\":true}",
        &[("the body", "a body with a 204: a JSON object")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let head = classified.exchange.request.method == "HEAD";
    let status = classified.status().unwrap_or_default();
    if !head && !matches!(status, 204 | 205 | 304) {
        return ClauseOutcome::NotApplicable;
    }
    let empty = classified.response().is_none_or(|r| matches!(r.body, ResponseBody::Empty));
    if !empty && !matches!(classified.body(), ParsedBody::Empty) {
        if let ParsedBody::Unknown(_) = classified.body() {
            return ClauseOutcome::NotChecked;
        }
        let form = classified.body().form();
        let (expected, got) = if head {
            (Expected::NoContentToHead, Got::BodyToHead(form))
        } else {
            (Expected::NoContent(status), Got::BodyWithStatus(status, form))
        };
        findings.add(Location::Body, expected, got);
    }
    ClauseOutcome::Met
}
