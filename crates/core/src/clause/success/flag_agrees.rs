use crate::address::Place;
use crate::clause::contracts::ENVELOPE;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Flag, Placed, flag};

pub(super) static CLAUSE: Clause = Clause {
    name: "success.flag-agrees",
    statement: "The success flag of a body agrees with the status.",
    basis: &[Basis::Contract("reading"), Basis::rfc(9110, "15.5")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "Of flag and status the caller has to believe one, and half of them believe the \
             other.",
    mending: "Set the flag from the status, or drop it: the status says the same.",
    judge,
    kept: &[Example::kept(
        "an error that says so",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
    )
    .under(ENVELOPE)],
    broken: &[Example::broken(
        "an error that calls itself a success",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":true,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
        &[("body /ok", "true")],
    )
    .under(ENVELOPE)],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let body = match placed.body() {
        AnswerBody::Json(body) => body,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        _ => return Judged::Outside,
    };
    let Some((pointer, says, seen)) = flag(placed, body) else { return Judged::Outside };
    // What an agreed shape says of the flag is `shape.kept`'s.
    let name = pointer.trim_start_matches('/');
    if placed.agreed_shape().is_some_and(|shape| shape.member(name).is_some()) {
        return Judged::Outside;
    }
    if says == Flag::Success {
        let status = placed.status().unwrap_or_default();
        findings.add(
            Place::Pointer(pointer),
            format!("a failure, as the status {status} says"),
            seen,
        );
    }
    Judged::Kept
}
