use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.network",
    statement: "A response discloses no internal host or address.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "An internal address is useless to a caller and useful to an attacker.",
    fix: "Name the part that failed by what it does ('the tide tables'), not by where it \
             runs.",
    check,
    met: &[Example::met(
        "text that discloses nothing",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Ask harbour.example, or call 10 minutes later"}"#,
    )],
    broken: &[Example::broken(
        "internal details",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"connect to tides-db.harbour.internal:5432 failed"}"#,
        &[("body /detail", "an internal host or address: tides-db.harbour.internal:5432")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::InternalHost)
}
