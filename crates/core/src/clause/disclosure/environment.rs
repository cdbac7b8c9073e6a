use super::told;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.environment",
    statement: "An answer holds nothing of the service's environment.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Settings tell how the service is run, and often enough hold its secrets.",
    fix: "Switch off the page that shows them, and the development mode with it.",
    check: judge,
    met: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The path to the pier is closed; use the north gate"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"DATABASE_URL is not set"}"#,
        &[("body /detail", "a part of the environment: DATABASE_URL")],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::judge(placed, findings, DisclosureKind::Environment, "nothing of the environment")
}
