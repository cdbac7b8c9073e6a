use crate::address::Place;
use crate::clause::contracts::DEMANDING;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::media::{falls_under, is_json};
use crate::place::{AnswerBody, Placed, Verdict};
use crate::shape::compare;

pub(super) static CLAUSE: Clause = Clause {
    name: "success.shape-kept",
    statement: "A success has the shape that was agreed.",
    basis: &[Basis::Contract("success-shape")],
    weight: Weight::Breach,
    of: Of::Successes,
    reason: "The change that mends an error must not break the answers that were right.",
    mending: "Compare the success answers before and after each change of the layer that \
             writes them.",
    judge,
    kept: &[Example::kept(
        "the agreed envelope",
        "GET /v1/berths/A-3",
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"data":{"id":"A-3"}}"#,
    )
    .under(DEMANDING)],
    broken: &[Example::broken(
        "another envelope",
        "GET /v1/berths/A-3",
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"result":{"id":"A-3"}}"#,
        &[("body /data", "nothing")],
    )
    .under(DEMANDING)],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let shapes = &placed.contract.shapes;
    let shape = placed.rules().success_shape.and_then(|id| shapes.get(id));
    // A success with an error inside is another finding, and the same root.
    if placed.error_inside().is_some() {
        return Judged::Outside;
    }
    // What is no JSON by agreement has no members.
    let produces = placed.rules().produces.iter().flatten();
    let media = placed.media().filter(|media| !is_json(media));
    if media.is_some_and(|media| produces.into_iter().any(|range| falls_under(media, range))) {
        return Judged::Outside;
    }
    let is_plain = matches!(placed.verdict, Verdict::Served) && placed.status() != Some(304);
    let Some(shape) = shape.filter(|_| is_plain) else { return Judged::Outside };
    let body = match placed.body() {
        AnswerBody::Json(body) => body,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        AnswerBody::Empty => return Judged::Outside,
        other => {
            findings.add(
                Place::Body,
                format!("JSON of the shape {}", shape.name),
                other.in_brief(),
            );
            return Judged::Kept;
        }
    };
    for mismatch in compare(body, shape, shapes) {
        findings.add(Place::Pointer(mismatch.pointer), mismatch.agreed, mismatch.seen);
    }
    Judged::Kept
}
