use crate::classify::{Classified, StatusVerdict};
use crate::clauses::example::BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "success.no-error-inside",
    statement: "A success has no error inside.",
    basis: &[Basis::rfc(9110, "15.3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "Clients, caches and monitors look at the status and take the failure for a success.",
    fix: "Respond with the status of the error. If parts of a request may fail, declare where failures are listed.",
    check,
    met: &[Example::met("a success", "GET /v1/berths/A-3", BERTH)],
    broken: &[
        Example::broken(
            "a failure under 200",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"success":false,"message":"no such berth"}"#,
            &[("body /success", "false")],
        ),
        Example::broken(
            "an error under 200",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"error":"no such berth"}"#,
            &[("body /error", "\"no such berth\"")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // That a wrong request was accepted is another finding, and the same root.
    if !matches!(classified.verdict, StatusVerdict::Served) {
        return ClauseOutcome::NotApplicable;
    }
    if let Some(error) = classified.embedded_error() {
        let location = Location::Pointer(error.pointer.clone());
        let status = classified.status().unwrap_or_default();
        findings.add(location, Expected::NoErrorInside(status), error.evidence.clone());
    }
    ClauseOutcome::Met
}
