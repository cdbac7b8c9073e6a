use crate::address::Place;
use crate::clause::example::BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::exchange::Answer;
use crate::finding::Weight;
use crate::place::Placed;

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.answered",
    statement: "Every request gets an answer.",
    basis: &[Basis::rfc(9110, "3.4")],
    weight: Weight::Breach,
    of: Of::Exchanges,
    reason: "A caller that hears nothing can't know whether the request was carried out, and waits \
             until its own patience ends.",
    mending: "Look for what hangs or breaks off: a missing time limit, a worker that died, a \
              connection closed before the error handler wrote. Answer with a 5xx that is agreed.",
    judge,
    kept: &[Example::kept("an answer came", "GET /v1/berths/A-3", BERTH)],
    broken: &[Example::broken(
        "no answer came",
        "GET /v1/berths/A-3",
        "",
        &[("the exchange", "no answer")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    if let Answer::Missing(why) = &placed.exchange.answer {
        let found = findings.add(Place::Exchange, "an answer", "no answer");
        if let Some(why) = why {
            found.note(format!("the recorder's word for it: {why}"));
        }
    }
    Judged::Kept
}
