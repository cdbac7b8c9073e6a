use super::told;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.database",
    statement: "An answer holds no words of the database.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "The names of tables and constraints are a map for those who look for a way in, \
             and to the caller they say nothing.",
    fix: "Catch the driver's errors where the query is made, and answer with what they \
             mean: a conflict, a missing record, an invalid value.",
    check: judge,
    met: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The table of berths lists no Z-99; select one that exists"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"duplicate key value violates unique constraint \"berths_pkey\""}"#,
        &[(
            "body /detail",
            "the database's own words: duplicate key value violates unique constraint",
        )],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::judge(placed, findings, DisclosureKind::Database, "no words of the database")
}
