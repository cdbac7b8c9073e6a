use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.file-path",
    statement: "A response discloses no file path on the server.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A path tells strangers where things are, and which system and framework is in use.",
    fix: "Keep paths in the log; respond with what the caller sent.",
    check,
    met: &[Example::met(
        "text that discloses nothing",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Nothing is at /v1/berths/Z-99; see /docs/berths.html"}"#,
    )],
    broken: &[Example::broken(
        "internal details",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"cannot open /srv/harbour/conf/berths.yaml"}"#,
        &[("body /detail", "a path on the server: /srv/harbour/conf/berths.yaml")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::FilePath)
}
