use super::input::{is_about_input, mentions};
use super::pointer_resolves::leads_nowhere;
use crate::classify::{Classified, InvalidParameter, ParsedBody, ReportedField};
use crate::clauses::example::{BOTH_REFUSED, TOO_MANY_NIGHTS_NO_VESSEL};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::ParameterLocation;
use faithful_clerk_contract::PointerTarget as Placement;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, FieldRef, Got, Pointer, Severity};
use faithful_clerk_model::json::pointer::{join, resolve, tokens};
use faithful_clerk_model::json::{MemberLookup as _, scalar_text, strings};
use faithful_clerk_model::media::{essence, is_json};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{Mismatch, MismatchKind, PROBLEM_MEMBERS, Shape, TypeName};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.complete",
    statement: "Every invalid field of a request is reported at once.",
    basis: &[
        Basis::rfc(9457, "3"),
        Basis::Contract("shape"),
        Basis::Contract("body-members"),
        Basis::Contract("body"),
    ],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "If fields are reported one at a time, the caller fixes one, sends again, and gets the next: as many rounds as there are mistakes.",
    fix: "Let validation run to its end and collect all violations, instead of stopping at the first.",
    check,
    met: &[Example::met(
        "both invalid fields are reported",
        TOO_MANY_NIGHTS_NO_VESSEL,
        BOTH_REFUSED,
    )],
    broken: &[Example::broken(
        "one of two invalid fields is reported",
        TOO_MANY_NIGHTS_NO_VESSEL,
        "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/invalid-request\",\
                 \"title\":\"The request is not valid\",\"status\":422,\
                 \"errors\":[{\"pointer\":\"/vessel_id\",\"detail\":\"is missing\"}]}",
        &[("body /errors", "only /vessel_id, without /nights")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let invalid = invalid(classified);
    if invalid.is_empty() || !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    let body = match classified.body() {
        ParsedBody::Json(value) => value,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        ParsedBody::Text(text) => return in_prose(text.clone(), &invalid, classified, findings),
        ParsedBody::Html(text) => {
            return in_prose(without_tags(text), &invalid, classified, findings);
        }
        ParsedBody::Empty | ParsedBody::BrokenJson { .. } => return ClauseOutcome::NotApplicable,
    };
    let list = classified.expected_shape().and_then(list_of_entries);
    // Where the declared list is not there, that is the finding, and `shape.declared`'s.
    if list.is_some_and(|list| {
        body.member(list).is_none_or(|list| !list.is_array() && !list.is_object())
    }) {
        return ClauseOutcome::NotChecked;
    }
    let entries = classified.reported_fields();
    let words = without_echo(classified.body().words().unwrap_or_default(), classified);
    let (told, left): (Vec<&RequiredLocation<'_>>, Vec<_>) =
        invalid.iter().partition(|place| is_told(place, entries, &words, classified));
    // A pointer that leads nowhere is a finding of its own, and was meant for one of those that are left.
    let misdirected = entries.iter().filter(|entry| leads_nowhere(entry, classified) == Some(true));
    if left.len() <= misdirected.count() {
        return ClauseOutcome::Met;
    }
    let fields = |locations: &[&RequiredLocation<'_>]| {
        locations.iter().map(|location| location.field()).collect::<Vec<_>>()
    };
    let got = match told.as_slice() {
        [] => Got::NoFields,
        told => Got::SomeFields(fields(told), fields(&left)),
    };
    let all: Vec<&RequiredLocation<'_>> = invalid.iter().collect();
    let place = match entries.first().and_then(|entry| tokens(&entry.pointer)?.into_iter().next()) {
        Some(list) => Location::Pointer(join("", &list)),
        None => Location::Pointer(String::new()),
    };
    let found = findings.add(place, Expected::EveryInvalidField(fields(&all)), got);
    if list.is_some() || classified.style().envelope.fields.is_some() {
        found.severity(Severity::Breach).because(Because::DeclaredArray);
    }
    ClauseOutcome::Met
}

/// A fault that is told in prose is read for the fields that it names. One that names none is judged only where prose is
/// what the contract declares: anywhere else, that it is prose is the finding.
fn in_prose(
    text: String,
    invalid: &[RequiredLocation<'_>],
    classified: &Classified<'_>,
    findings: &mut Findings,
) -> ClauseOutcome {
    let words = without_echo(text, classified);
    let (told, left): (Vec<&RequiredLocation<'_>>, Vec<_>) =
        invalid.iter().partition(|place| is_told(place, &[], &words, classified));
    let is_prose = classified
        .expected_media()
        .is_some_and(|media| classified.has_expected_media() && !is_json(&essence(media)));
    if told.is_empty() && !is_prose {
        return ClauseOutcome::NotApplicable;
    }
    if !left.is_empty() {
        let fields = |locations: &[&RequiredLocation<'_>]| {
            locations.iter().map(|location| location.field()).collect::<Vec<_>>()
        };
        let got = match told.as_slice() {
            [] => Got::NoFields,
            told => Got::SomeFields(fields(told), fields(&left)),
        };
        let all: Vec<&RequiredLocation<'_>> = invalid.iter().collect();
        findings.add(Location::Body, Expected::EveryInvalidField(fields(&all)), got);
    }
    ClauseOutcome::Met
}

/// Markup without its tags.
fn without_tags(markup: &str) -> String {
    let mut parts = markup.split('<');
    let first = parts.next().unwrap_or_default();
    let behind = parts.map(|part| part.split_once('>').map_or("", |(_, text)| text));
    std::iter::once(first).chain(behind).collect::<Vec<_>>().join(" ")
}

/// The words of a response without sentences that the request sent: a field's name in one of those names nothing.
fn without_echo(mut words: String, classified: &Classified<'_>) -> String {
    let Some(body) = &classified.situations.body else { return words };
    let sent = strings(body);
    for text in sent.lines().filter(|text| text.contains(' ')) {
        if words.contains(text) {
            words = words.replace(text, "…");
        }
    }
    words
}

/// A place that has to be told.
pub(super) enum RequiredLocation<'p> {
    Field(&'p Mismatch),
    Parameter(&'p InvalidParameter),
}

impl RequiredLocation<'_> {
    /// The name of the field, where it is not the body as a whole.
    pub(super) fn name(&self) -> Option<String> {
        match self {
            Self::Field(mismatch) => tokens(&mismatch.pointer)?.pop(),
            Self::Parameter(parameter) => Some(parameter.name.clone()),
        }
    }

    pub(super) fn field(&self) -> FieldRef {
        match self {
            Self::Field(mismatch) => FieldRef::Body(Pointer::new(&mismatch.pointer)),
            Self::Parameter(parameter) => {
                let (kind, name) = (parameter.location.name(), &parameter.name);
                FieldRef::Parameter(kind.to_owned(), name.clone())
            }
        }
    }
}

/// What is wrong at the step that decides: the fields of the body, the parameters, or both.
pub(super) fn invalid<'p>(classified: &'p Classified<'_>) -> Vec<RequiredLocation<'p>> {
    let situations = &classified.situations;
    let fields = situations.decides(Situation::InvalidBody);
    let fields = situations.invalid.iter().filter(|_| fields).map(RequiredLocation::Field);
    let parameters = situations.parameters.iter().filter(|parameter| {
        parameter.situation == Situation::InvalidParameters
            && situations.decides(Situation::InvalidParameters)
    });
    let answered =
        |situation| classified.faults.iter().any(|fault| fault.when.contains(&situation));
    // A fault that is for one of the two need not tell of the other, unless they share a step.
    let both = situations.shares_level(Situation::InvalidBody, Situation::InvalidParameters);
    let open = classified.faults.is_empty() || both;
    let fields = fields.filter(|_| open || answered(Situation::InvalidBody));
    let parameters = parameters.filter(|_| open || answered(Situation::InvalidParameters));
    fields.chain(parameters.map(RequiredLocation::Parameter)).collect()
}

/// The member that holds the declared list of entries.
pub(super) fn list_of_entries(shape: &Shape) -> Option<&str> {
    shape.members.iter().find_map(|member| match &member.constrained.name {
        TypeName::Array(item) if matches!(item.name, TypeName::Shape(_)) => {
            Some(member.name.as_str())
        }
        _ => None,
    })
}

/// Does the response tell of this place? An entry names it; or it is named in prose, by an entry that
/// points at nothing known, or in a response without entries.
fn is_told(
    invalid: &RequiredLocation<'_>,
    entries: &[ReportedField],
    words: &str,
    classified: &Classified<'_>,
) -> bool {
    let mismatch = match invalid {
        RequiredLocation::Parameter(parameter) => {
            // Names of path parameters are not on the wire.
            let in_path = |entry: &ReportedField| {
                parameter.location == ParameterLocation::Path && entry.is_in_path()
            };
            return entries
                .iter()
                .any(|entry| entry.is_parameter(&parameter.name) || in_path(entry))
                || mentions(words, &parameter.name);
        }
        RequiredLocation::Field(mismatch) => mismatch,
    };
    let place = tokens(&mismatch.pointer).unwrap_or_default();
    let Some((field, parent)) = place.split_last() else {
        // The body as a whole: any response tells of it.
        return true;
    };
    if entries.is_empty() {
        // A member called like the field may hold its reason; a problem's own members do not.
        let is_own = || PROBLEM_MEMBERS.contains(&field.as_str());
        let member = classified.body().json().and_then(|body| body.member(field));
        return mentions(words, field) || member.is_some_and(|value| !value.is_null() && !is_own());
    }
    let rule = &classified.style().validation_errors;
    let by_parent = match mismatch.kind {
        MismatchKind::Missing => rule.missing == Placement::Parent,
        MismatchKind::Unknown => rule.unknown == Placement::Parent,
        _ => false,
    };
    entries.iter().any(|entry| {
        // What points at nothing known is `validation.pointer-resolves`'s, and its words count; and so
        // they do where it points at what holds the field. What points below a place, such as into one
        // of the forms that it may have, tells of the place.
        let by_words = entry.location.is_none()
            || !is_known(entry, classified)
            || parent.starts_with(&entry.steps);
        entry.is_at_or_below(&place)
            || (by_parent
                && entry.location.is_some()
                && entry.steps == parent
                && names_missing(entry, field, classified))
            || (by_words && mentions(&entry.words, field))
    })
}

/// Does an entry about the parent of a missing member have its name where the contract says? Where that says nothing,
/// any will do.
fn names_missing(entry: &ReportedField, field: &str, classified: &Classified<'_>) -> bool {
    let Some(at) = &classified.style().validation_errors.missing_member else { return true };
    missing_member(entry, at, classified).is_some_and(|name| name == field)
}

/// What an entry has where the name of a missing member belongs.
pub(super) fn missing_member(
    entry: &ReportedField,
    at: &[String],
    classified: &Classified<'_>,
) -> Option<String> {
    let own = resolve(classified.body().json()?, &tokens(&entry.entry)?)?;
    scalar_text(resolve(own, at)?)
}

/// Does the entry point at a field that the request has, or that the contract knows?
fn is_known(entry: &ReportedField, classified: &Classified<'_>) -> bool {
    let rules = classified.rules().body.as_ref();
    let body = classified.situations.body.as_ref();
    entry.steps.iter().any(|step| {
        rules.is_some_and(|rules| rules.knows(step))
            || body.is_some_and(|body| body.member(step).is_some())
    })
}
