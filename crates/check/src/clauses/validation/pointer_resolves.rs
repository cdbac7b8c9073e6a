use serde_json::Value;

use crate::classify::{Classified, ParsedBody, ReportedField};
use crate::clauses::example::{BOTH_REFUSED, TOO_MANY_NIGHTS, TOO_MANY_NIGHTS_NO_VESSEL};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{BodyRules, PointerTarget};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::pointer::{resolve, tokens};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::{Shape, ShapeTable, TypeName};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.pointer-resolves",
    statement: "A pointer in a validation error resolves in the request.",
    basis: &[Basis::rfc(9457, "3"), Basis::rfc(6901, "4"), Basis::Contract("json pointer")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A form shows the message at the field that the pointer names. If there is no such \
             field, the message is lost.",
    fix: "Build pointers from the names in the request, not from those in the service's code, and escape `~` and `/`.",
    check,
    met: &[Example::met(
        "a pointer to a member, and one to where a member is missing",
        TOO_MANY_NIGHTS_NO_VESSEL,
        BOTH_REFUSED,
    )],
    broken: &[Example::broken(
        "a pointer by a name from the service's code",
        TOO_MANY_NIGHTS,
        "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/invalid-request\",\
                 \"title\":\"The request is not valid\",\"status\":422,\
                 \"errors\":[{\"pointer\":\"/nights\",\"detail\":\"at most 28\"},\
                 {\"pointer\":\"/berthNights\",\"detail\":\"at most 28\"}]}",
        &[("body /errors/1/pointer", "\"/berthNights\"")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields().iter().filter(|entry| entry.is_pointer) {
        if classified.situations.body.is_none() && !has_no_json(classified) {
            return ClauseOutcome::NotChecked;
        }
        let Some(leads_nowhere) = leads_nowhere(entry, classified) else { continue };
        outcome = ClauseOutcome::Met;
        if leads_nowhere {
            let location = Location::Pointer(entry.pointer.clone());
            let got = Got::quoted(entry.location.as_deref().unwrap_or_default());
            findings.add(location, Expected::ResolvingPointer, got);
        }
    }
    outcome
}

/// Does the pointer of an entry lead to nothing that the request has or could have? None where it is no pointer:
/// that is `validation.pointer-syntax`'s, and the name that the contract gives to the body as a whole need not be one.
pub(super) fn leads_nowhere(entry: &ReportedField, classified: &Classified<'_>) -> Option<bool> {
    let text = entry.location.as_ref().filter(|_| entry.is_pointer)?;
    if classified.style().validation_errors.root.as_ref() == Some(text) {
        return None;
    }
    let tokens = tokens(text)?;
    if has_no_json(classified) {
        return Some(!tokens.is_empty());
    }
    let request = classified.situations.body.as_ref()?;
    let rules = classified.rules().body.as_ref();
    let shapes = &classified.contract.shapes;
    let resolves = resolve(request, &tokens).is_some();
    // JSON:API 1.1, 'Error Objects': it has to point to a value that exists; a missing member is told at its parent.
    // Where the contract says that, too, it is `validation.location-style`'s.
    let says_parent = classified.style().validation_errors.missing == PointerTarget::Parent;
    let is_json_api = classified.expected_shape().is_some_and(|shape| shape.is_json_api);
    Some(
        !resolves
            && ((is_json_api && !says_parent) || !may_be_missing(request, &tokens, rules, shapes)),
    )
}

/// Is it known that the request has no JSON that a pointer could lead into: no body, or a malformed one?
fn has_no_json(classified: &Classified<'_>) -> bool {
    let body = &classified.exchange.request.body;
    matches!(body, RequestBody::Absent | RequestBody::Blank)
        || classified.situations.holds.contains(Situation::MalformedBody)
}

/// Can a member be missing there: is its parent an object that could have it?
fn may_be_missing(
    request: &Value,
    steps: &[String],
    rules: Option<&BodyRules>,
    shapes: &ShapeTable,
) -> bool {
    let Some((member, parent)) = steps.split_last() else { return true };
    if !resolve(request, parent).is_some_and(Value::is_object) {
        return false;
    }
    let Some(rules) = rules else { return true };
    let by_fields = rules.fields.as_ref().map(|fields| at(fields, parent, shapes));
    let by_fields = match by_fields {
        Some(ObjectRules::Members(shape)) => Some(shape.member(member).is_some()),
        Some(ObjectRules::NotSaid) => return true,
        None => None,
    };
    // A schema's members are known at the top only.
    let by_schema = match (&rules.schema, &rules.members) {
        (Some(_), Some(names)) if parent.is_empty() => Some(names.contains(member)),
        (Some(_), _) => return true,
        (None, _) => None,
    };
    match (by_fields, by_schema) {
        (None, None) => true,
        (one, other) => one == Some(true) || other == Some(true),
    }
}

/// What the rules say of the object at a place.
enum ObjectRules<'s> {
    Members(&'s Shape),
    NotSaid,
}

fn at<'s>(rules: &'s Shape, steps: &[String], shapes: &'s ShapeTable) -> ObjectRules<'s> {
    let mut shape = rules;
    let mut rest = steps.iter();
    while let Some(step) = rest.next() {
        let mut kind = shape.member(step).map(|member| &member.constrained.name);
        while let Some(TypeName::Array(item)) = kind {
            rest.next();
            kind = Some(&item.name);
        }
        let Some(TypeName::Shape(id)) = kind else { return ObjectRules::NotSaid };
        let Some(next) = shapes.get(*id) else { return ObjectRules::NotSaid };
        shape = next;
    }
    ObjectRules::Members(shape)
}
