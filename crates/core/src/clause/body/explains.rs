use crate::address::Place;
use crate::clause::contracts::BARE;
use crate::clause::example::NO_SUCH_BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::json;
use crate::place::{AnswerBody, Placed};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.explains",
    statement: "The body of an error says something.",
    basis: &[Basis::rfc(9110, "15.5"), Basis::rfc(9457, "3.1.4")],
    weight: Weight::Lapse,
    of: Of::Errors,
    reason: "A body that holds nothing but the status leaves the caller as wise as before.",
    mending: "Say what was wrong, in words that help to put it right.",
    judge,
    kept: &[Example::kept(
        "an error that says what is wrong",
        "GET /v1/berths/Z-99",
        NO_SUCH_BERTH,
    )],
    broken: &[Example::broken(
        "an empty object",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{}"#,
        &[("the whole body", "{}")],
    )
    .under(BARE)],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    match placed.body() {
        AnswerBody::Empty => return Judged::Outside,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        AnswerBody::Json(value) => {
            // What a problem or an agreed shape lacks, the clauses about those tell.
            let says = !json::strings(value).trim().is_empty();
            let is_agreed = placed.is_meant_as_problem() || placed.agreed_shape().is_some();
            if !says && !is_agreed {
                let seen: String = value.to_string().chars().take(60).collect();
                findings.add(Place::Pointer(String::new()), "words about the error", seen);
            }
        }
        AnswerBody::BrokenJson { .. } | AnswerBody::Html(_) | AnswerBody::Text(_) => {}
    }
    Judged::Kept
}
