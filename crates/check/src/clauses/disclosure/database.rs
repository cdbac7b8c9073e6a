use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.database",
    statement: "A response discloses no database error text.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Names of tables and constraints help an attacker and mean nothing to the caller.",
    fix: "Catch the driver's errors where the query is made, and respond with what they mean: a conflict, a missing record, an invalid value.",
    check,
    met: &[Example::met(
        "text that discloses nothing",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The table of berths lists no Z-99; select one that exists"}"#,
    )],
    broken: &[Example::broken(
        "internal details",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"duplicate key value violates unique constraint \"berths_pkey\""}"#,
        &[("body /detail", "database error text: duplicate key value violates unique constraint")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::Database)
}
