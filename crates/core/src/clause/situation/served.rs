use crate::address::Location;
use crate::classify::{Classified, StatusVerdict};
use crate::clause::example::{FAILED, NO_SUCH_BERTH};
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "situation.served",
    statement: "A request that is in order does not meet the service's own failure.",
    basis: &[Basis::rfc(9110, "15.6.1"), Basis::Contract("servers-own")],
    severity: Severity::Note,
    applies_to: AppliesTo::Responses,
    reason: "The answer may be just as agreed for a failure, and the failure is still there: often \
             a case that nobody thought of, such as an id that leads to nothing.",
    fix: "Find the exchange in the service's log. If the caller could have known better, the \
              answer is a 4xx that is not declared yet.",
    check: judge,
    met: &[Example::kept(
        "an unknown id is told as what it is",
        "GET /v1/berths/Z-99",
        NO_SUCH_BERTH,
    )],
    broken: &[Example::broken(
        "an unknown id ends as the service's failure",
        "GET /v1/berths/Z-99",
        FAILED,
        &[("the status line", "500")],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match &placed.verdict {
        StatusVerdict::Failed => {
            let status = placed.status().unwrap_or_default();
            let agreed = "no failure of the service, as the request shows nothing wrong";
            findings.add(Location::StatusLine, agreed, status.to_string());
            ClauseOutcome::Met
        }
        StatusVerdict::Served | StatusVerdict::Fits if placed.situations.is_valid() => {
            ClauseOutcome::Met
        }
        _ => ClauseOutcome::NotApplicable,
    }
}
