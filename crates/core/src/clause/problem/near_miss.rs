use super::meant::{is_asked_for, misnamed};
use crate::address::Place;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Placed};
use crate::pointer::join;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.near-miss",
    statement: "No member stands under a name that is almost that of a standard member.",
    basis: &[Basis::rfc(9457, "3.1"), Basis::rfc(9457, "3.2")],
    weight: Weight::Lapse,
    of: Of::Problems,
    reason: "Whoever reads problems looks for the five names of the standard. `statusCode` or \
             `message` is an extension that nobody knows.",
    mending: "Rename the member; if both names have to stand for a while, send both. Where the name \
              is meant, declare it as a member of the shape.",
    judge,
    kept: &[Example::kept(
        "a member that has a standard neighbour is an extension",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"detail\":\"Z-99\",\
                 \"message\":\"No berth Z-99\"}",
    )],
    broken: &[Example::broken(
        "a status and a detail that were meant and misnamed",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"statusCode\":404,\"message\":\"Z-99\"}",
        &[("body /statusCode", "`statusCode`"), ("body /message", "`message`")],
    )],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    if let AnswerBody::Unknown(_) = placed.body() {
        return Judged::Unjudged;
    }
    for found in misnamed(placed) {
        let place = Place::Pointer(join("", found.name));
        let agreed = format!("the member `{}`", found.meant);
        let finding = findings.add(place, agreed, format!("`{}`", found.name));
        if is_asked_for(placed, found.meant) {
            finding.weighs(Weight::Breach).note("the contract asks for this member");
        }
    }
    Judged::Kept
}
