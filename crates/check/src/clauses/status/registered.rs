use crate::classify::{Classified, StatusVerdict};
use crate::clauses::example::BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.registered",
    statement: "The status code is registered, or declared by the contract.",
    basis: &[Basis::rfc(9110, "15"), Basis::rfc(9110, "16.2.1"), Basis::Contract("status")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A caller understands an unregistered code only by its first digit, and one outside 100 to 599 not at all.",
    fix: "Respond with the registered code of that meaning; put finer distinctions into the problem type.",
    check,
    met: &[Example::met("a registered code", "GET /v1/berths/A-3", BERTH)],
    broken: &[Example::broken(
        "a code of the service's own",
        "GET /v1/berths/A-3",
        "HTTP/1.1 520 Odd\nContent-Type: application/problem+json\n\n\
                 {\"title\":\"Odd\",\"status\":520}",
        &[("the status line", "520")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let status = classified.status().unwrap_or_default();
    if matches!(classified.verdict, StatusVerdict::Unregistered) {
        let expected = match status {
            100..=599 => Expected::RegisteredStatus,
            _ => Expected::PossibleStatus,
        };
        findings.add(Location::StatusLine, expected, Got::Status(status));
    }
    ClauseOutcome::Met
}
