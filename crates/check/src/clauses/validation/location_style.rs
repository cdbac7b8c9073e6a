use super::complete::missing_member;
use super::input::mentions;
use crate::classify::{Classified, LocationForm, ParsedBody, ReportedField};
use crate::clauses::contracts::DEMANDING;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{
    ChoicePointer, LocationSpelling, PointerForm, PointerTarget as Placement, ValidationErrorRule,
};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Pointer, Severity};
use faithful_clerk_model::json::pointer::{from_tokens, tokens};
use faithful_clerk_shape::{Mismatch, MismatchKind};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.location-style",
    statement: "Invalid locations are written as the contract declares.",
    basis: &[Basis::Contract("validation-errors")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A form that shows messages at fields handles one way of naming them.",
    fix: "Write all locations with one function, and test it with a missing and an unknown member.",
    check,
    met: &[Example::met("a missing member named by its parent", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r#"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"","code":"missing","detail":"vessel_id is missing"},{"pointer":"/nights","code":"out_of_range"}]}"#).under(DEMANDING)],
    broken: &[Example::broken("a missing member named itself, as a fragment", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r##"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"/vessel_id","code":"missing"},{"pointer":"#/nights","code":"out_of_range"}]}"##, &[("body /errors/0/pointer", "\"/vessel_id\""), ("body /errors/1/pointer", "\"#/nights\"")]).under(DEMANDING)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let rule = &classified.style().validation_errors;
    if !rule.says_where() {
        return ClauseOutcome::NotApplicable;
    }
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields() {
        let Some(location) = &entry.location else { continue };
        outcome = ClauseOutcome::Met;
        let expected = wrong_form(rule, entry.form);
        let invalid = classified.situations.invalid.iter();
        let expected = expected.or_else(|| wrong_spelling(rule, location, entry, classified));
        let wrong = || invalid.filter_map(|m| wrong_place(rule, m, entry, classified)).next();
        if let Some(expected) = expected.or_else(wrong) {
            let got = Got::quoted(location);
            findings.add(Location::Pointer(entry.pointer.clone()), expected, got);
        } else if let Some((at, expected, got)) = unnamed_member(rule, entry, classified) {
            findings.add(at, expected, got);
        }
    }
    outcome
}

/// The name of a missing member that an entry about its parent has in words alone, and not where it belongs.
fn unnamed_member(
    rule: &ValidationErrorRule,
    entry: &ReportedField,
    classified: &Classified<'_>,
) -> Option<(Location, Expected, Got)> {
    let at = rule.missing_member.as_ref()?;
    let invalid = classified.situations.invalid.iter();
    let missing = invalid.filter(|mismatch| mismatch.kind == MismatchKind::Missing);
    let missing: Vec<String> = missing
        .filter_map(|mismatch| {
            let (parent, _) = mismatch.pointer.rsplit_once('/')?;
            let is_here = tokens(parent)? == entry.steps;
            is_here.then(|| tokens(&mismatch.pointer)?.pop())?
        })
        .collect();
    let own = missing_member(entry, at, classified);
    if missing.is_empty() || own.as_ref().is_some_and(|name| missing.contains(name)) {
        return None;
    }
    let in_words = missing.into_iter().find(|field| mentions(&entry.words, field))?;
    let location = Location::Pointer(format!("{}{}", entry.entry, from_tokens(at)));
    let got = own.map_or(Got::Nothing, |name| Got::quoted(&name));
    Some((location, Expected::LocationText(in_words), got))
}

fn wrong_form(rule: &ValidationErrorRule, form: LocationForm) -> Option<Expected> {
    match (rule.pointer, form) {
        (PointerForm::Plain, LocationForm::Fragment) => Some(Expected::PlainPointer),
        (PointerForm::Fragment, LocationForm::Pointer) => Some(Expected::FragmentPointer),
        _ => None,
    }
}

/// How the location should have been spelled, where the contract says that and it is not.
fn wrong_spelling(
    rule: &ValidationErrorRule,
    text: &str,
    entry: &ReportedField,
    classified: &Classified<'_>,
) -> Option<Expected> {
    if rule.root.as_deref() == Some(text) {
        return None;
    }
    let paths: Vec<Vec<String>> =
        classified.situations.invalid.iter().filter_map(|m| tokens(&m.pointer)).collect();
    let is_at = |path: &&Vec<String>| {
        !path.is_empty()
            && entry.is_at_or_below(path)
            && entry.paths().any(|steps| steps.len() == path.len())
    };
    let meant: Vec<&Vec<String>> = paths.iter().filter(is_at).collect();
    let parameter = classified.situations.parameters.iter().find(|p| entry.is_parameter(&p.name));
    if let Some(parameter) = parameter.filter(|_| meant.is_empty() || entry.is_in_parameters()) {
        let agreed = rule.parameter_location(parameter.location, &parameter.name)?;
        return (agreed != text).then_some(Expected::LocationText(agreed));
    }
    let spelling = rule.spelling?;
    let has_form = match spelling {
        LocationSpelling::Pointers => {
            matches!(entry.form, LocationForm::Pointer | LocationForm::Fragment)
        }
        LocationSpelling::Dotted => matches!(entry.form, LocationForm::Name | LocationForm::Dots),
        LocationSpelling::Bracketed => {
            matches!(entry.form, LocationForm::Name | LocationForm::Dots | LocationForm::Brackets)
        }
        LocationSpelling::Tokens => entry.form == LocationForm::TokenArray,
    };
    // A pointer as a fragment, and the tokens of an array, are not compared as texts.
    let is_text = matches!(spelling, LocationSpelling::Dotted | LocationSpelling::Bracketed);
    match meant.first() {
        Some(first)
            if !has_form || (is_text && meant.iter().all(|path| spelling.of(path) != text)) =>
        {
            Some(Expected::LocationText(spelling.of(first)))
        }
        None if !has_form => {
            let steps = ["crew", "0", "name"].map(str::to_owned);
            Some(Expected::LocationSpelling(spelling.of(&steps)))
        }
        _ => None,
    }
}

/// Where the entry should have pointed, if it is about this mismatch and points elsewhere.
fn wrong_place(
    rule: &ValidationErrorRule,
    mismatch: &Mismatch,
    entry: &ReportedField,
    classified: &Classified<'_>,
) -> Option<Expected> {
    let location = tokens(&mismatch.pointer)?;
    let is_itself = entry.steps == location;
    let asked = match mismatch.kind {
        MismatchKind::Missing => rule.missing,
        MismatchKind::Unknown => rule.unknown,
        MismatchKind::Choice => {
            return match &rule.one_of {
                ChoicePointer::Value if entry.is_at_or_below(&location) && !is_itself => {
                    Some(Expected::WholeChoice(Pointer::new(&mismatch.pointer)))
                }
                ChoicePointer::Discriminator(member) if entry.is_at_or_below(&location) => {
                    let (last, parent) = entry.steps.split_last()?;
                    let is_agreed = last == member && parent == location;
                    (!is_agreed).then(|| Expected::Discriminator(member.clone()))
                }
                ChoicePointer::Either | ChoicePointer::Value | ChoicePointer::Discriminator(_) => {
                    None
                }
            };
        }
        _ => return None,
    };
    let (field, parent) = location.split_last()?;
    match asked {
        Placement::Parent if is_itself => Some(Expected::ParentObject),
        Placement::Member if entry.steps == parent && mentions(&entry.words, field) => {
            let told = classified.reported_fields().iter().any(|other| other.steps == location);
            (!told).then(|| Expected::MemberItself(Pointer::new(&mismatch.pointer)))
        }
        Placement::Parent | Placement::Member | Placement::Either => None,
    }
}
