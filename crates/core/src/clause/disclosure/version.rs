use super::told;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::disclosure::Inside;
use crate::finding::Weight;
use crate::place::Placed;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.version",
    statement: "An answer does not say which version of which software made it.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    weight: Weight::Remark,
    of: Of::Answers,
    reason: "A version is the key to a list of known holes.",
    mending: "Switch off the banner of server and framework.",
    judge,
    kept: &[Example::kept(
        "words that give nothing away",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Version 2 of the berth plan has no Z-99"}"#,
    )],
    broken: &[Example::broken(
        "what nobody needs to know",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"nginx/1.25.3"}"#,
        &[("body /detail", "a version: nginx/1.25.3")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    told::judge(placed, findings, Inside::Version, "no version")
}
