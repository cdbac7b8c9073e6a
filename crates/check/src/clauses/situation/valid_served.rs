use crate::classify::{Classified, StatusVerdict, by_intention};
use crate::clauses::example::{FAILED, NO_SUCH_BERTH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "situation.valid-served",
    statement: "A valid request does not end in an internal failure of the service.",
    basis: &[Basis::rfc(9110, "15.6.1"), Basis::Contract("internal")],
    severity: Severity::Note,
    applies_to: AppliesTo::Responses,
    reason: "The response may be exactly as declared for a failure, and the failure is still there: often \
             a case that nobody thought of, such as an unknown id. Where a probe meant the request to be served, it is a breach.",
    fix: "Find the exchange in the service's log. If the caller was wrong, the right response is a 4xx that is not declared yet.",
    check,
    met: &[Example::met("an unknown id gets a 404", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "an unknown id ends in an internal failure",
        "GET /v1/berths/Z-99",
        FAILED,
        &[("the status line", "500")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match &classified.verdict {
        StatusVerdict::Failed => {
            let status = classified.status().unwrap_or_default();
            let found =
                findings.add(Location::StatusLine, Expected::NoServerError, Got::Status(status));
            match classified.situations.is_to_be_served {
                true => found.severity(Severity::Breach).because(by_intention(classified)),
                false => found.because(Because::ValidRequest),
            };
            ClauseOutcome::Met
        }
        StatusVerdict::Served | StatusVerdict::Fits if classified.situations.is_valid() => {
            ClauseOutcome::Met
        }
        _ => ClauseOutcome::NotApplicable,
    }
}
