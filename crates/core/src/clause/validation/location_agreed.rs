use serde_json::Value;

use crate::address::Place;
use crate::clause::contracts::DEMANDING;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::contract::{Choice, Named as Placement, PointerForm};
use crate::finding::Weight;
use crate::place::{AnswerBody, Form, Placed};
use crate::pointer::tokens;
use crate::shape::Sort;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.location-agreed",
    statement: "Invalid places are written as the contract says.",
    basis: &[Basis::Contract("invalid-places")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "A form that shows messages at fields has code for one way of naming them.",
    mending: "Write all places with the same function, and test it with a missing and an \
             unknown member.",
    judge,
    kept: &[Example::kept("a missing member named by its parent", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r#"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"","code":"missing","detail":"vessel_id is missing"},{"pointer":"/nights","code":"out_of_range"}]}"#).under(DEMANDING)],
    broken: &[Example::broken("a missing member named itself, and a fragment", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r##"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"/vessel_id","code":"missing"},{"pointer":"#/nights","code":"out_of_range"}]}"##, &[("body /errors/0/pointer", "\"/vessel_id\""), ("body /errors/1/pointer", "\"#/nights\"")]).under(DEMANDING)],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let rule = &placed.contract.places;
    if let AnswerBody::Unknown(_) = placed.body() {
        return Judged::Unjudged;
    }
    let mut judged = Judged::Outside;
    for entry in placed.entries() {
        let Some(location) = &entry.location else { continue };
        let place = || Place::Pointer(entry.at.clone());
        let seen = || Value::from(location.as_str()).to_string();
        let wrong_form = match (&rule.pointer, entry.form) {
            (PointerForm::Plain, Form::Fragment) => Some("a plain pointer, without `#`"),
            (PointerForm::Fragment, Form::Pointer) => Some("a pointer as a URI fragment, with `#`"),
            (PointerForm::Either, _) | (_, Form::Nowhere) => None,
            _ => {
                judged = Judged::Kept;
                None
            }
        };
        if let Some(agreed) = wrong_form {
            findings.add(place(), agreed, seen());
            continue;
        }
        let invalid = placed.situations.invalid.iter();
        let mine = invalid.filter(|m| tokens(&m.pointer).is_some_and(|steps| steps == entry.steps));
        for mismatch in mine {
            let agreed = match mismatch.sort {
                Sort::Missing if rule.missing == Placement::Parent => {
                    "the object that it is missing in"
                }
                Sort::Unknown if rule.unknown == Placement::Parent => {
                    "the object that it stands in"
                }
                Sort::Choice => match &rule.choice {
                    Choice::Discriminator(member) => {
                        findings.add(place(), format!("the member `{member}` of it"), seen());
                        continue;
                    }
                    Choice::Either | Choice::Whole => continue,
                },
                _ => continue,
            };
            findings.add(place(), agreed, seen());
        }
    }
    judged
}
