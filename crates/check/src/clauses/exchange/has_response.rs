use crate::classify::Classified;
use crate::clauses::example::BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Recorded, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.has-response",
    statement: "Every request gets a response.",
    basis: &[Basis::rfc(9110, "3.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Exchanges,
    reason: "Without a response a caller can't know whether the request was carried out, and waits until it times out.",
    fix: "Find what hangs or breaks: a missing timeout, a worker that died, a connection closed before the error handler wrote. Respond with a declared 5xx.",
    check,
    met: &[Example::met("a response", "GET /v1/berths/A-3", BERTH)],
    broken: &[Example::broken(
        "no response",
        "GET /v1/berths/A-3",
        "",
        &[("the exchange", "no response")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.exchange.response.is_none() {
        let found = findings.add(Location::Exchange, Expected::Response, Got::NoResponse);
        if let Some(why) = &classified.exchange.no_response {
            found.because(Because::RecorderSays(Recorded::text(why.to_string())));
        }
    }
    ClauseOutcome::Met
}
