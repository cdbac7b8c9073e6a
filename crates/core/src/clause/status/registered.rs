use crate::address::Place;
use crate::clause::example::BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{Placed, Verdict};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.registered",
    statement: "The status code is one that is registered, or that the contract declares.",
    basis: &[Basis::rfc(9110, "15"), Basis::rfc(9110, "16.2.1"), Basis::Contract("status")],
    weight: Weight::Breach,
    of: Of::Answers,
    reason: "A caller understands an unregistered code by its first digit only, and one outside of \
             100 to 599 not at all.",
    mending: "Answer with the registered code of that meaning; put what is finer into the problem \
              type.",
    judge,
    kept: &[Example::kept("a registered code", "GET /v1/berths/A-3", BERTH)],
    broken: &[Example::broken(
        "a code of the service's own making",
        "GET /v1/berths/A-3",
        "HTTP/1.1 520 Odd\nContent-Type: application/problem+json\n\n\
                 {\"title\":\"Odd\",\"status\":520}",
        &[("the status line", "520")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let status = placed.status().unwrap_or_default();
    if matches!(placed.verdict, Verdict::Unregistered) {
        let agreed = match status {
            100..=599 => "a registered status code",
            _ => "a status code from 100 to 599",
        };
        findings.add(Place::StatusLine, agreed, status.to_string());
    }
    Judged::Kept
}
