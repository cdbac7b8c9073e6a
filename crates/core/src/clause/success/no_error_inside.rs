use crate::address::Place;
use crate::clause::example::BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{Placed, Verdict};

pub(super) static CLAUSE: Clause = Clause {
    name: "success.no-error-inside",
    statement: "A success has no error inside.",
    basis: &[Basis::rfc(9110, "15.3")],
    weight: Weight::Breach,
    of: Of::Successes,
    reason: "Whoever looks at the status, as clients, caches and monitors do, takes the \
             failure for a success.",
    mending: "Answer with the status of the error. Where parts of a success may fail, agree on \
             where they are told.",
    judge,
    kept: &[Example::kept("a success", "GET /v1/berths/A-3", BERTH)],
    broken: &[
        Example::broken(
            "a failure under 200",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"success":false,"message":"no such berth"}"#,
            &[("body /success", "false")],
        ),
        Example::broken(
            "an error under 200",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"error":"no such berth"}"#,
            &[("body /error", "\"no such berth\"")],
        ),
    ],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    // That a wrong request was accepted is another finding, and the same root.
    if !matches!(placed.verdict, Verdict::Served) {
        return Judged::Outside;
    }
    if let Some(error) = placed.error_inside() {
        let place = Place::Pointer(error.pointer.clone());
        let status = placed.status().unwrap_or_default();
        findings.add(place, format!("no error inside of a {status}"), error.seen.clone());
    }
    Judged::Kept
}
