use super::input::is_about_input;
use crate::address::Place;
use crate::clause::example::TOO_MANY_NIGHTS;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Named, Placed};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.no-duplicates",
    statement: "No violation is reported twice.",
    basis: &[Basis::rfc(9457, "3")],
    weight: Weight::Lapse,
    of: Of::Errors,
    reason: "A reader looks for the difference between two messages that say the same.",
    mending: "Look for a rule that is declared twice, or a validator that runs twice.",
    judge,
    kept: &[Example::kept(
        "two rules of one field",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/nights","detail":"a multiple of 2"}]}"#,
    )],
    broken: &[Example::broken(
        "one rule twice",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/nights","detail":"at most 28"}]}"#,
        &[("body /errors/1", "the same as /errors/0")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    if let AnswerBody::Unknown(_) = placed.body() {
        return Judged::Unjudged;
    }
    let entries = placed.entries();
    if entries.is_empty() || !is_about_input(placed) {
        return Judged::Outside;
    }
    // An entry that gives neither a code nor a reason can't be told from another one of its field.
    let says = |entry: &Named| (entry.code.clone(), entry.reason.clone());
    for (at, entry) in entries.iter().enumerate() {
        let same = |earlier: &&Named| {
            earlier.steps == entry.steps
                && earlier.location == entry.location
                && says(earlier) == says(entry)
        };
        let earlier = entries.iter().take(at).find(same);
        if let Some(earlier) = earlier.filter(|_| says(entry) != (None, None)) {
            let seen = format!("the same as {}", earlier.entry);
            findings.add(Place::Pointer(entry.entry.clone()), "each violation once", seen);
        }
    }
    Judged::Kept
}
