use super::due;
use crate::classify::{Classified, RouteMatch, StatusVerdict};
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "situation.requires-error",
    statement: "A wrong request does not get a success.",
    basis: &[Basis::Contract("when"), Basis::rfc(9110, "15.3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "After a success the caller moves on. What was not done, or was done with bad data, is found much later and by somebody else.",
    fix: "Refuse before acting. If the request is valid after all, the contract is too strict: correct the endpoint's rules.",
    check,
    met: &[Example::met("a body with a wrong member is refused", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[
        Example::broken(
            "a body with a wrong member is accepted",
            TOO_MANY_NIGHTS,
            "HTTP/1.1 201 Created\nContent-Type: application/json\n\n{\"id\":\"r-1\"}",
            &[("the status line", "201")],
        ),
        Example::broken(
            "an unknown route gets a success",
            "GET /v1/boats",
            "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"error\":\"no such page\"}",
            &[("the status line", "200")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let StatusVerdict::WrongAccepted(faults) = &classified.verdict else {
        return if classified.situations.is_valid() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::Met
        };
    };
    let status = classified.status().unwrap_or_default();
    let found = findings.add(Location::StatusLine, due(classified, faults), Got::Status(status));
    match &classified.route {
        RouteMatch::UnknownRoute | RouteMatch::MethodNotAllowed(_) => {
            found.because(Because::Undeclared);
        }
        RouteMatch::Endpoint(..) => found.because_of_request(classified),
    }
    ClauseOutcome::Met
}
