use crate::address::Place;
use crate::clause::example::{FAILED, NO_SUCH_BERTH};
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{Placed, Verdict};

pub(super) static CLAUSE: Clause = Clause {
    name: "situation.served",
    statement: "A request that is in order does not meet the service's own failure.",
    basis: &[Basis::rfc(9110, "15.6.1"), Basis::Contract("servers-own")],
    weight: Weight::Remark,
    of: Of::Answers,
    reason: "The answer may be just as agreed for a failure, and the failure is still there: often \
             a case that nobody thought of, such as an id that leads to nothing.",
    mending: "Find the exchange in the service's log. If the caller could have known better, the \
              answer is a 4xx that is not declared yet.",
    judge,
    kept: &[Example::kept(
        "an unknown id is told as what it is",
        "GET /v1/berths/Z-99",
        NO_SUCH_BERTH,
    )],
    broken: &[Example::broken(
        "an unknown id ends as the service's failure",
        "GET /v1/berths/Z-99",
        FAILED,
        &[("the status line", "500")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    match &placed.verdict {
        Verdict::Failed => {
            let status = placed.status().unwrap_or_default();
            let agreed = "no failure of the service, as the request shows nothing wrong";
            findings.add(Place::StatusLine, agreed, status.to_string());
            Judged::Kept
        }
        Verdict::Served | Verdict::Fits if placed.situations.is_in_order() => Judged::Kept,
        _ => Judged::Outside,
    }
}
