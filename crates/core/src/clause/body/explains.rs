use crate::address::Place;
use crate::clause::contracts::BARE;
use crate::clause::example::NO_SUCH_BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::json;
use crate::place::{AnswerBody, Placed};
use crate::pointer::{from_tokens, resolve};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.explains",
    statement: "The body of an error says something.",
    basis: &[Basis::rfc(9110, "15.5"), Basis::rfc(9457, "3.1.4"), Basis::Contract("reading")],
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
            // The contract may say where the words stand; one that is missing there breaks the shape, if
            // there is one.
            let message = placed.contract.reading.message.as_ref();
            let words = message.and_then(|steps| resolve(value, steps)).map(json::strings);
            if let (Some(steps), Some(words)) = (message, words)
                && words.trim().is_empty()
            {
                let place = Place::Pointer(from_tokens(steps));
                findings.add(place, "words about the error", "none");
                return Judged::Kept;
            }
            // What a problem or an agreed shape lacks, the clauses about those tell.
            let says = json::has_words(value);
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
