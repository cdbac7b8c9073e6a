use crate::address::Place;
use crate::clause::example::NO_SUCH_BERTH;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Placed, TextEncoding};

pub(super) static CLAUSE: Clause = Clause {
    name: "media.utf-8",
    statement: "JSON is written in UTF-8, without a byte order mark.",
    basis: &[Basis::rfc(8259, "8.1")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "A strict reader takes the mark for a mistake, and any other encoding for broken \
             text.",
    mending: "Write UTF-8, and look for a template file that was saved with a byte order mark.",
    judge,
    kept: &[Example::kept("UTF-8 without a mark", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "a byte order mark",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

﻿{"title":"There is no such berth","type":"https://harbour.example/faults/no-such-berth"}"#,
        &[("the body", "a byte order mark")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    match placed.body() {
        AnswerBody::Json(_) | AnswerBody::BrokenJson { .. } => {}
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        _ => return Judged::Outside,
    }
    match placed.text_encoding() {
        TextEncoding::Utf8 => {}
        TextEncoding::Utf8WithMark => {
            findings.add(Place::Body, "UTF-8 without a byte order mark", "a byte order mark");
        }
        TextEncoding::Other => {
            findings.add(Place::Body, "UTF-8", "bytes that are no UTF-8");
        }
    }
    Judged::Kept
}
