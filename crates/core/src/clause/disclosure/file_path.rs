use super::told;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.file-path",
    statement: "An answer holds no path of the server's files.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A path tells strangers where things lie, and which system and framework they lie \
             in.",
    fix: "Keep paths in the log; answer with what the caller named.",
    check: judge,
    met: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Nothing is at /v1/berths/Z-99; see /docs/berths.html"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"cannot open /srv/harbour/conf/berths.yaml"}"#,
        &[("body /detail", "a path on the server: /srv/harbour/conf/berths.yaml")],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::judge(placed, findings, DisclosureKind::FilePath, "no path on the server")
}
