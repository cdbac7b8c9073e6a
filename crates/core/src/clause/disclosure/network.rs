use super::told;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.network",
    statement: "An answer holds no host or address that is not public.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "An inner address is of no use to a caller, and of much use to those who got one \
             step in already.",
    fix: "Name the part that failed by what it does ('the tide tables'), not by where it \
             runs.",
    check: judge,
    met: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Ask harbour.example, or call 10 minutes later"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"connect to tides-db.harbour.internal:5432 failed"}"#,
        &[(
            "body /detail",
            "a host or an address that is not public: tides-db.harbour.internal:5432",
        )],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::judge(placed, findings, DisclosureKind::InternalHost, "no address that is not public")
}
