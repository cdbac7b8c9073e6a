use crate::address::Location;
use crate::classify::CUT;
use crate::classify::{Classified, ParsedBody};
use crate::clause::example::NO_SUCH_BERTH;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.complete",
    statement: "An answer comes to its end.",
    basis: &[Basis::rfc(9112, "8")],
    severity: Severity::Note,
    applies_to: AppliesTo::Responses,
    reason: "Half an answer can't be read, and a caller who does not notice acts on half of \
             the truth.",
    fix: "Look for what closes the connection: a time limit, a worker that dies, a proxy. \
             If it is the recorder that cuts bodies, raise its limit.",
    check: judge,
    met: &[Example::kept("a whole answer", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "less came than was announced",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Length: 174
Content-Type: application/problem+json

{"title":"There"#,
        &[("the exchange", "an answer that was cut")],
    )],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let by_length = || placed.is_error() && matches!(placed.body(), ParsedBody::Unknown(CUT));
    if placed.is_truncated() || by_length() {
        findings.add(Location::Exchange, "a whole answer", "an answer that was cut");
    }
    ClauseOutcome::Met
}
