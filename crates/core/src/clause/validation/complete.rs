use crate::address::Place;
use crate::clause::example::{BOTH_REFUSED, TOO_MANY_NIGHTS_NO_VESSEL};
use crate::clause::{Basis, Clause, Example, Expected, Findings, Judged, Of};
use crate::contract::Fault;
use crate::finding::Weight;
use crate::place::{AnswerBody, Named, Placed, named_places};
use crate::pointer::{join, tokens};
use crate::shape::{Kind, Mismatch, Shape};
use crate::situation::Situation;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.complete",
    statement: "Every invalid field of a request is reported at once.",
    basis: &[Basis::rfc(9457, "3"), Basis::Contract("shape"), Basis::Contract("body-fields")],
    weight: Weight::Lapse,
    of: Of::Errors,
    reason: "With one field reported at a time the caller mends one, sends again, and meets the \
             next: as many rounds as there are mistakes.",
    mending: "Let the validation run to its end and collect what it finds, instead of leaving at \
              the first.",
    judge,
    kept: &[Example {
        shows: "both invalid fields are reported",
        request: TOO_MANY_NIGHTS_NO_VESSEL,
        answer: BOTH_REFUSED,
        findings: &[],
    }],
    broken: &[Example {
        shows: "one of two invalid fields is reported",
        request: TOO_MANY_NIGHTS_NO_VESSEL,
        answer: "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/invalid-request\",\
                 \"title\":\"The request is not valid\",\"status\":422,\
                 \"errors\":[{\"pointer\":\"/vessel_id\",\"detail\":\"is missing\"}]}",
        findings: &[Expected { place: "body /errors", seen: "only /vessel_id, without /nights" }],
    }],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let is_for_fields = |fault: &&Fault| fault.answers.contains(&Situation::FieldsInvalid);
    let holds = placed.situations.holds.contains(&Situation::FieldsInvalid);
    if !holds || !placed.faults.iter().any(is_for_fields) {
        return Judged::Outside;
    }
    let body = match placed.body() {
        AnswerBody::Json(value) => value,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        _ => return Judged::Outside,
    };
    let list = placed.agreed_shape().and_then(list_of_entries);
    // Where the agreed list is not there, that is the finding, and `shape.kept`'s.
    if list
        .is_some_and(|list| body.get(list).is_none_or(|list| !list.is_array() && !list.is_object()))
    {
        return Judged::Unjudged;
    }
    let entries = named_places(body, placed.agreed_shape(), &placed.contract.shapes);
    let words = placed.body().words().unwrap_or_default();
    let (told, left): (Vec<_>, Vec<_>) = placed.situations.invalid.iter().partition(|invalid| {
        let place = tokens(&invalid.pointer).unwrap_or_default();
        is_told(&place, &entries, &words, placed)
    });
    if left.is_empty() {
        return Judged::Kept;
    }
    let names = |places: &[&Mismatch]| {
        places.iter().map(|place| place.pointer.as_str()).collect::<Vec<_>>().join(", ")
    };
    let seen = match told.as_slice() {
        [] => "none of them".to_owned(),
        told => format!("only {}, without {}", names(told), names(&left)),
    };
    let all: Vec<_> = placed.situations.invalid.iter().collect();
    let place = match entries.first().and_then(|entry| tokens(&entry.at)?.into_iter().next()) {
        Some(list) => Place::Pointer(join("", &list)),
        None => Place::Pointer(String::new()),
    };
    let found = findings.add(place, format!("every invalid field at once ({})", names(&all)), seen);
    if list.is_some() {
        found.weighs(Weight::Breach).note("the RFC recommends it, and the contract agrees a list");
    }
    Judged::Kept
}

/// The member that holds the agreed list of entries.
fn list_of_entries(shape: &Shape) -> Option<&str> {
    shape.members.iter().find_map(|member| match &member.typed.kind {
        Kind::List(item) if matches!(item.kind, Kind::Shape(_)) => Some(member.name.as_str()),
        _ => None,
    })
}

/// Does the answer tell of this place? An entry names it; or it is named in prose, by an entry that
/// points at nothing known, or in an answer without entries.
fn is_told(place: &[String], entries: &[Named], words: &str, placed: &Placed<'_>) -> bool {
    let Some((field, parent)) = place.split_last() else {
        // The body as a whole: any answer tells of it.
        return true;
    };
    if entries.is_empty() {
        return mentions(words, field);
    }
    entries.iter().any(|entry| {
        // What points at nothing known is `validation.pointer-resolves`'s, and its words count; and so
        // they do where it points at what holds the field. What points below a place, such as into one
        // of the forms that it may have, tells of the place.
        let by_words = entry.location.is_none()
            || !is_known(entry, placed)
            || parent.starts_with(&entry.steps);
        entry.is_at_or_below(place) || (by_words && mentions(&entry.words, field))
    })
}

/// Does the entry point at a field that the request has, or that the contract knows?
fn is_known(entry: &Named, placed: &Placed<'_>) -> bool {
    let rules = placed.endpoint().and_then(|endpoint| endpoint.body.as_ref());
    let body = placed.situations.body.as_ref();
    entry.steps.iter().any(|step| {
        rules.is_some_and(|rules| rules.member(step).is_some())
            || body.is_some_and(|body| body.get(step).is_some())
    })
}

/// Does the text hold the field's name as a word?
fn mentions(text: &str, field: &str) -> bool {
    let inner = |c: char| c.is_alphanumeric() || c == '_';
    text.match_indices(field).any(|(at, _)| {
        let before = text.get(..at).and_then(|text| text.chars().next_back());
        let after = text.get(at + field.len()..).and_then(|text| text.chars().next());
        !before.is_some_and(inner) && !after.is_some_and(inner)
    })
}
