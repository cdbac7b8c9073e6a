use super::told;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.secret",
    statement: "An answer holds no password, token or key.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "What is told once has to be changed everywhere.",
    fix: "Change the secret now. Then look for what puts settings or requests into \
             answers.",
    check: judge,
    met: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The password is too short, and the token has expired"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"login with password=tide-and-time failed"}"#,
        &[("body /detail", "credentials, masked")],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::judge(placed, findings, DisclosureKind::Secret, "no password, token or key")
}
