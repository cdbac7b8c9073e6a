use crate::classify::{Classified, StatusVerdict, code_of};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, FaultStatus, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.declared",
    statement: "The status is one that the contract declares for this endpoint and this fault.",
    basis: &[Basis::Contract("success"), Basis::Contract("faults"), Basis::rfc(9457, "4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Callers write code for declared responses. An undeclared one ends in their catch-all, whatever it meant.",
    fix: "Respond with a declared fault; or, if the response is right, declare it.",
    check,
    met: &[Example::met("a declared fault", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[
        Example::broken(
            "a status that no fault of the endpoint has",
            "GET /v1/berths/A-3",
            "HTTP/1.1 403 Forbidden\nContent-Type: application/problem+json\n\n\
                     {\"title\":\"Forbidden\",\"status\":403}",
            &[("the status line", "403")],
        ),
        Example::broken(
            "a success that is not declared",
            "GET /v1/berths/A-3",
            "HTTP/1.1 202 Accepted\nContent-Type: application/json\n\n{}",
            &[("the status line", "202")],
        ),
        Example::broken(
            "a declared type with another status",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 400 Bad Request\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":400}",
            &[("the status line", "400")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let expected = match &classified.verdict {
        StatusVerdict::OtherSuccess => {
            let declared =
                classified.endpoint().map_or(&[][..], |endpoint| endpoint.rules.success());
            Expected::Success(declared.to_vec())
        }
        StatusVerdict::OtherStatus(fault) => {
            let by_code = fault.code.is_some() && code_of(classified) == fault.code;
            let expected = FaultStatus { status: fault.status, fault: fault.name.clone() };
            if by_code && fault.type_uri.is_none() {
                Expected::StatusOfCode(expected)
            } else {
                Expected::StatusOfType(expected)
            }
        }
        StatusVerdict::Undeclared(statuses) if statuses.is_empty() => Expected::NoError,
        StatusVerdict::Undeclared(statuses) => Expected::Error(statuses.clone()),
        StatusVerdict::NotChecked(_) => return ClauseOutcome::NotApplicable,
        _ => return ClauseOutcome::Met,
    };
    let status = classified.status().unwrap_or_default();
    let declares_none = expected == Expected::NoError;
    let found = findings.add(Location::StatusLine, expected, Got::Status(status));
    if declares_none {
        found.because(Because::NoErrorDeclared);
    }
    ClauseOutcome::Met
}
