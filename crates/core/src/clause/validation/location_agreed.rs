use serde_json::Value;

use super::input::mentions;
use crate::address::Location;
use crate::clause::contracts::DEMANDING;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::contract::{
    ChoicePointer, PointerForm, PointerTarget as Placement, ValidationErrorRule,
};
use crate::finding::Severity;
use crate::place::{Classified, LocationForm, ParsedBody, ReportedField};
use crate::pointer::tokens;
use crate::shape::{Mismatch, MismatchKind};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.location-agreed",
    statement: "Invalid places are written as the contract says.",
    basis: &[Basis::Contract("invalid-places")],
    weight: Severity::Breach,
    of: AppliesTo::Errors,
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

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let rule = &placed.contract.places;
    if !rule.says_where() {
        return ClauseOutcome::Outside;
    }
    if let ParsedBody::Unknown(_) = placed.body() {
        return ClauseOutcome::Unjudged;
    }
    let mut judged = ClauseOutcome::Outside;
    for entry in placed.entries() {
        let Some(location) = &entry.location else { continue };
        judged = ClauseOutcome::Kept;
        let agreed = wrong_form(rule, entry.form).map(str::to_owned);
        let invalid = placed.situations.invalid.iter();
        let wrong = || invalid.filter_map(|m| wrong_place(rule, m, entry, placed)).next();
        if let Some(agreed) = agreed.or_else(wrong) {
            let seen = Value::from(location.as_str()).to_string();
            findings.add(Location::Pointer(entry.at.clone()), agreed, seen);
        }
    }
    judged
}

fn wrong_form(rule: &ValidationErrorRule, form: LocationForm) -> Option<&'static str> {
    match (rule.pointer, form) {
        (PointerForm::Plain, LocationForm::Fragment) => Some("a plain pointer, without `#`"),
        (PointerForm::Fragment, LocationForm::Pointer) => {
            Some("a pointer as a URI fragment, with `#`")
        }
        _ => None,
    }
}

/// Where the entry should have pointed, if it is about this mismatch and points elsewhere.
fn wrong_place(
    rule: &ValidationErrorRule,
    mismatch: &Mismatch,
    entry: &ReportedField,
    placed: &Classified<'_>,
) -> Option<String> {
    let place = tokens(&mismatch.pointer)?;
    let is_itself = entry.steps == place;
    let asked = match mismatch.sort {
        MismatchKind::Missing => rule.missing,
        MismatchKind::Unknown => rule.unknown,
        MismatchKind::Choice => {
            return match &rule.choice {
                ChoicePointer::Whole if entry.is_at_or_below(&place) && !is_itself => {
                    Some(format!("the choice as a whole, {}", mismatch.pointer))
                }
                ChoicePointer::Discriminator(member) if entry.is_at_or_below(&place) => {
                    let (last, parent) = entry.steps.split_last()?;
                    let is_agreed = last == member && parent == place;
                    (!is_agreed).then(|| format!("the member `{member}` of it"))
                }
                ChoicePointer::Either | ChoicePointer::Whole | ChoicePointer::Discriminator(_) => {
                    None
                }
            };
        }
        _ => return None,
    };
    let (field, parent) = place.split_last()?;
    match asked {
        Placement::Parent if is_itself => Some("the object that holds it".to_owned()),
        Placement::Itself if entry.steps == parent && mentions(&entry.words, field) => {
            let told = placed.entries().iter().any(|other| other.steps == place);
            (!told).then(|| format!("the member itself, {}", mismatch.pointer))
        }
        Placement::Parent | Placement::Itself | Placement::Either => None,
    }
}
