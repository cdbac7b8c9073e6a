use crate::classify::{Classified, StatusVerdict};
use crate::clauses::example::{ENDS_TOO_EARLY, FAILED};
use crate::clauses::situation;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::Fault;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FaultStatus, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.fits-situation",
    statement: "An error response fits what was wrong with the request.",
    basis: &[Basis::Contract("when"), Basis::rfc(9110, "15.5"), Basis::rfc(9110, "15.6")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A 500 for a caller's mistake sends the caller to the service's team and the team to its logs, and neither finds anything. A 422 for a valid request is worse.",
    fix: "Validate before acting on the request: the route, the credentials, the media type, the syntax, the members. Nothing that a caller can send should reach the catch-all handler.",
    check,
    met: &[Example::met(
        "malformed JSON gets its fault",
        ENDS_TOO_EARLY,
        "HTTP/1.1 400 Bad Request\nContent-Type: application/problem+json\n\n\
                 {\"title\":\"Bad Request\",\"status\":400}",
    )],
    broken: &[
        Example::broken(
            "malformed JSON ends in an internal failure",
            ENDS_TOO_EARLY,
            FAILED,
            &[("the status line", "500 (fault unexpected)")],
        ),
        Example::broken(
            "a valid request is called invalid",
            "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n\
                      {\"vessel_id\":\"OB1234\",\"nights\":2}",
            "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/invalid-request\",\
                     \"title\":\"The request is not valid\",\"status\":422,\
                     \"errors\":[{\"pointer\":\"/nights\",\"detail\":\"too many\"}]}",
            &[("the status line", "422")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (due, came) = match &classified.verdict {
        StatusVerdict::Misfits { due, came } => (due, came),
        StatusVerdict::Fits | StatusVerdict::OtherStatus(_) => return ClauseOutcome::Met,
        _ => return ClauseOutcome::NotApplicable,
    };
    let status = classified.status().unwrap_or_default();
    let sent = |fault: &Fault| FaultStatus { status, fault: fault.name.clone() };
    let served_by = classified.situations.served_by.as_ref();
    let expected = match came {
        _ if served_by.is_some() && classified.situations.is_valid() => {
            Expected::SuccessByCase(served_by.cloned().unwrap_or_default())
        }
        _ if classified.situations.repeats => Expected::SuccessAgain,
        Some(fault) if classified.situations.is_valid() => {
            Expected::FaultOnlyFor(sent(fault), fault.when.clone())
        }
        _ => situation::due(classified, due),
    };
    let got = match came {
        Some(fault) if !classified.situations.is_valid() => Got::Fault(sent(fault)),
        _ => Got::Status(status),
    };
    let found = findings.add(Location::StatusLine, expected, got);
    found.because_of_request(classified);
    ClauseOutcome::Met
}
