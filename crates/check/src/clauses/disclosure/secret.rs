use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.secret",
    statement: "A response discloses no password, token or key.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A secret that was disclosed once has to be replaced everywhere.",
    fix: "Replace the secret now. Then find the code that puts settings or requests into responses.",
    check,
    met: &[Example::met(
        "text that discloses nothing",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The password is too short, and the token has expired"}"#,
    )],
    broken: &[Example::broken(
        "internal details",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"login with password=tide-and-time failed"}"#,
        &[("body /detail", "credentials, masked")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::Secret)
}
