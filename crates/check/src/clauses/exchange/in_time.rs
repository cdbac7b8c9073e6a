use crate::classify::Classified;
use crate::clauses::contracts::DEMANDING;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Measured, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.in-time",
    statement: "A response comes within the declared time.",
    basis: &[Basis::Contract("respond-within")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A caller gives up at some point. A response after that is wasted work, and the request is often sent again.",
    fix: "Find out where the time goes; if it can't be shortened, respond 202 and let the caller ask for the result later.",
    check,
    met: &[Example::met(
        "a response in time",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Recorded-Time: 180
Content-Type: application/problem+json

{"title":"Not Found"}"#,
    )
    .under(DEMANDING)],
    broken: &[Example::broken(
        "a late response",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Recorded-Time: 3400
Content-Type: application/problem+json

{"title":"Not Found"}"#,
        &[("the exchange", "3400 ms")],
    )
    .under(DEMANDING)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let every = classified.rules().respond_within;
    let error = classified.style().error.respond_within.filter(|_| classified.is_error());
    let Some(limit) = error.or(every) else { return ClauseOutcome::NotApplicable };
    let Some(time) = classified.exchange.timing.milliseconds() else {
        return ClauseOutcome::NotChecked;
    };
    if time > limit {
        let got = Got::Milliseconds(Measured::milliseconds(time));
        findings.add(Location::Exchange, Expected::ResponseWithin(limit.to_string()), got);
    }
    ClauseOutcome::Met
}
