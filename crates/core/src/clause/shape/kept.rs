use crate::address::Place;
use crate::clause::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clause::{Basis, Clause, Example, Expected, Findings, Judged, Of};
use crate::finding::Weight;
use crate::place::{AnswerBody, Placed};
use crate::pointer::tokens;
use crate::shape::{MOST_MISMATCHES, Mismatch, Sort, compare};

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.kept",
    statement: "The body of an error has the shape that the contract declares for it.",
    basis: &[Basis::Contract("shape"), Basis::Contract("members")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "A caller's code reads members by name and kind. A member that is a text here and a list \
             there breaks it where nobody looks.",
    mending: "Make every error of one kind in one place. Where the service is right, mend the shape.",
    judge,
    kept: &[Example {
        shows: "the list of invalid fields, as agreed",
        request: TOO_MANY_NIGHTS,
        answer: NIGHTS_REFUSED,
        findings: &[],
    }],
    broken: &[
        Example {
            shows: "entries that lack what was agreed: one finding for all of them",
            request: "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n\
                      {\"vessel_id\":\"x\",\"nights\":99}",
            answer: "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/invalid-request\",\
                     \"title\":\"The request is not valid\",\"status\":422,\
                     \"errors\":[{\"pointer\":\"/vessel_id\"},{\"pointer\":\"/nights\"}]}",
            findings: &[Expected { place: "body /errors/0/detail", seen: "nothing" }],
        },
        Example {
            shows: "a text where a list was agreed",
            request: TOO_MANY_NIGHTS,
            answer: "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/invalid-request\",\
                     \"title\":\"The request is not valid\",\"status\":422,\
                     \"errors\":\"nights: at most 28\"}",
            findings: &[Expected { place: "body /errors", seen: "text \"nights: at most 28\"" }],
        },
    ],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let Some(shape) = placed.agreed_shape().filter(|_| !placed.faults.is_empty()) else {
        return Judged::Outside;
    };
    let value = match placed.body() {
        AnswerBody::Json(value) => value,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        _ => return Judged::Outside,
    };
    // That a problem is an object is `problem.is-object`'s.
    if shape.is_problem && !value.is_object() {
        return Judged::Outside;
    }
    let mismatches = compare(value, shape, &placed.contract.shapes);
    let own: Vec<&Mismatch> =
        mismatches.iter().filter(|m| is_own(placed, shape.is_problem, m)).collect();
    let mut told: Vec<(Vec<String>, Sort)> = Vec::new();
    for mismatch in &own {
        let form = (form(&mismatch.pointer), mismatch.sort);
        if told.contains(&form) {
            continue;
        }
        let alike = own.iter().filter(|m| (self::form(&m.pointer), m.sort) == form).count() - 1;
        let place = Place::Pointer(mismatch.pointer.clone());
        let found = findings.add(place, mismatch.agreed.clone(), mismatch.seen.clone());
        // The comparison stops at some number, and then nobody knows how many more there are.
        let or_more = if mismatches.len() < MOST_MISMATCHES { "" } else { ", or more" };
        match alike {
            0 => {}
            1 => {
                found.note("and at one more place of the same list");
            }
            more => {
                found.note(format!("and at {more} more places of the same list{or_more}"));
            }
        }
        told.push(form);
    }
    Judged::Kept
}

/// Is this mismatch for this clause to tell, and not a consequence of something else?
fn is_own(placed: &Placed<'_>, is_problem: bool, mismatch: &Mismatch) -> bool {
    if mismatch.sort == Sort::Missing && !placed.has_agreed_media() {
        return false;
    }
    let by_type = || placed.faults.iter().all(|fault| fault.type_uri.is_some());
    // The standard members have clauses of their own for everything but a contract's finer rules.
    !is_problem
        || match mismatch.pointer.as_str() {
            "/status" => false,
            "/type" => mismatch.sort == Sort::Value && !by_type(),
            "/title" | "/detail" | "/instance" => mismatch.sort == Sort::Value,
            _ => true,
        }
}

/// A place with its list indexes taken out, so that items of one list are alike.
fn form(pointer: &str) -> Vec<String> {
    let steps = tokens(pointer).unwrap_or_default();
    let is_index = |step: &str| step.bytes().all(|byte| byte.is_ascii_digit());
    steps.into_iter().map(|step| if is_index(&step) { "*".to_owned() } else { step }).collect()
}
