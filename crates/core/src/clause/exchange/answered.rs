use crate::address::Location;
use crate::classify::Classified;
use crate::clause::example::BERTH;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::exchange::Answer;
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.answered",
    statement: "Every request gets an answer.",
    basis: &[Basis::rfc(9110, "3.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Exchanges,
    reason: "A caller that hears nothing can't know whether the request was carried out, and waits \
             until its own patience ends.",
    fix: "Look for what hangs or breaks off: a missing time limit, a worker that died, a \
              connection closed before the error handler wrote. Answer with a 5xx that is agreed.",
    check: judge,
    met: &[Example::kept("an answer came", "GET /v1/berths/A-3", BERTH)],
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
            found.because(format!("the recorder's word for it: {why}"));
        }
    }
    ClauseOutcome::Met
}
