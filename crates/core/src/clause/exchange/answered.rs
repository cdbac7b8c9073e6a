use crate::address::Location;
use crate::clause::example::BERTH;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::exchange::Answer;
use crate::finding::Severity;
use crate::place::Classified;

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.answered",
    statement: "Every request gets an answer.",
    basis: &[Basis::rfc(9110, "3.4")],
    weight: Severity::Breach,
    of: AppliesTo::Exchanges,
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

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let Answer::Missing(why) = &placed.exchange.answer {
        let found = findings.add(Location::Exchange, "an answer", "no answer");
        if let Some(why) = why {
            found.note(format!("the recorder's word for it: {why}"));
        }
    }
    ClauseOutcome::Kept
}
