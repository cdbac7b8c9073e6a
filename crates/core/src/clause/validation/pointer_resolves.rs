use serde_json::Value;

use crate::address::Place;
use crate::clause::example::{BOTH_REFUSED, TOO_MANY_NIGHTS, TOO_MANY_NIGHTS_NO_VESSEL};
use crate::clause::{Basis, Clause, Example, Expected, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Placed, agreed_places};
use crate::pointer::{resolve, tokens};
use crate::shape::{Kind, Shape, Shapes};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.pointer-resolves",
    statement: "A pointer in a validation error leads to a place in the request.",
    basis: &[Basis::rfc(9457, "3"), Basis::rfc(6901, "4"), Basis::Contract("json pointer")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "A form shows the message at the field that the pointer names. If there is no such \
             field, the message is lost.",
    mending: "Make pointers from the names in the request, not from those in the service's code, \
              and escape `~` and `/` in them.",
    judge,
    kept: &[Example {
        shows: "a pointer to a member, and one to where a member is missing",
        request: TOO_MANY_NIGHTS_NO_VESSEL,
        answer: BOTH_REFUSED,
        findings: &[],
    }],
    broken: &[Example {
        shows: "a pointer by a name from the service's code",
        request: TOO_MANY_NIGHTS,
        answer: "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/invalid-request\",\
                 \"title\":\"The request is not valid\",\"status\":422,\
                 \"errors\":[{\"pointer\":\"/nights\",\"detail\":\"at most 28\"},\
                 {\"pointer\":\"/berthNights\",\"detail\":\"at most 28\"}]}",
        findings: &[Expected { place: "body /errors/1/pointer", seen: "\"/berthNights\"" }],
    }],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let body = match placed.body() {
        AnswerBody::Json(value) => value,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        _ => return Judged::Outside,
    };
    let shapes = &placed.contract.shapes;
    let entries = agreed_places(body, placed.agreed_shape(), shapes);
    let mut judged = Judged::Outside;
    for entry in entries.iter().filter(|entry| entry.is_pointer) {
        let Some(request) = &placed.situations.body else { return Judged::Unjudged };
        // What is no pointer at all breaks the shape, and is `shape.kept`'s.
        let Some(text) = &entry.location else { continue };
        let Some(steps) = tokens(text) else { continue };
        judged = Judged::Kept;
        let rules = placed.endpoint().and_then(|endpoint| endpoint.body.as_ref());
        if resolve(request, &steps).is_none() && !may_be_missing(request, &steps, rules, shapes) {
            let seen = Value::from(text.as_str()).to_string();
            let agreed = "a pointer to a place in the request's body";
            findings.add(Place::Pointer(entry.at.clone()), agreed, seen);
        }
    }
    judged
}

/// Can a member be missing there: is its parent an object that could have it?
fn may_be_missing(
    request: &Value,
    steps: &[String],
    rules: Option<&Shape>,
    shapes: &Shapes,
) -> bool {
    let Some((member, parent)) = steps.split_last() else { return true };
    let is_object = resolve(request, parent).is_some_and(Value::is_object);
    is_object
        && match rules.map(|rules| at(rules, parent, shapes)) {
            Some(Rules::Members(shape)) => shape.member(member).is_some(),
            Some(Rules::NotSaid) | None => true,
        }
}

/// What the rules say of the object at a place.
enum Rules<'s> {
    Members(&'s Shape),
    NotSaid,
}

fn at<'s>(rules: &'s Shape, steps: &[String], shapes: &'s Shapes) -> Rules<'s> {
    let mut shape = rules;
    let mut rest = steps.iter();
    while let Some(step) = rest.next() {
        let mut kind = shape.member(step).map(|member| &member.typed.kind);
        while let Some(Kind::List(item)) = kind {
            rest.next();
            kind = Some(&item.kind);
        }
        let Some(Kind::Shape(id)) = kind else { return Rules::NotSaid };
        let Some(next) = shapes.get(*id) else { return Rules::NotSaid };
        shape = next;
    }
    Rules::Members(shape)
}
