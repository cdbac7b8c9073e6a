//! The response that an exchange should have got, drafted from the contract.

use serde_json::{Map, Value};

use super::envelope::{EnvelopeSample, fill_envelope, put};
use crate::sample::{self, SOME_TEXT};
use faithful_clerk_check::classify::{Classified, ParameterProblem, StatusVerdict};
use faithful_clerk_contract::{
    ErrorContract, ErrorStyle, Fault, HeaderRequirement, HeaderRule, LocationSpelling,
    PointerTarget as MissingNamed, RegionId,
};
use faithful_clerk_model::json::folded;
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_model::status;
use faithful_clerk_shape::{Mismatch, MismatchKind, Shape, ShapeMember, TypeName};

/// A drafted response.
#[derive(Debug, Clone)]
pub struct ExpectedResponse {
    /// The fault that it is.
    pub fault: String,
    /// The status.
    pub status: u16,
    /// Its phrase, where it has one.
    pub phrase: &'static str,
    /// The headers.
    pub headers: Vec<(String, String)>,
    /// The body, where it is JSON.
    pub body: Option<Value>,
}

/// The faults that would have been right, and the response that the first of them makes. Nothing where no
/// error was due.
#[must_use]
pub fn expected_response(classified: &Classified<'_>) -> (Vec<String>, Option<ExpectedResponse>) {
    let faults: Vec<&Fault> = match &classified.verdict {
        StatusVerdict::WrongAccepted(due) | StatusVerdict::Misfits { due, .. } => due.clone(),
        StatusVerdict::OtherStatus(fault) => vec![fault],
        StatusVerdict::Served | StatusVerdict::OtherSuccess => Vec::new(),
        _ if !classified.faults.is_empty()
            && !matches!(classified.verdict, StatusVerdict::Failed) =>
        {
            classified.faults.clone()
        }
        _ => due_for(classified),
    };
    let names = faults.iter().map(|fault| fault.name.clone()).collect();
    let first = faults.first();
    let region = classified.region;
    (names, first.map(|fault| answer(classified.contract, fault, region, Some(classified))))
}

/// A response with a fault, as it could look in a region, or outside all of them.
#[must_use]
pub fn sample_response(
    contract: &ErrorContract,
    fault: &Fault,
    region: Option<RegionId>,
) -> ExpectedResponse {
    answer(contract, fault, region, None)
}

/// The faults for what the request shows, where the verdict names none.
fn due_for<'a>(classified: &Classified<'a>) -> Vec<&'a Fault> {
    let contract = classified.contract;
    let faults = classified.rules().faults.iter().filter_map(|id| contract.fault(*id));
    faults.filter(|fault| fault.when.iter().any(|s| classified.situations.decides(*s))).collect()
}

fn answer(
    contract: &ErrorContract,
    fault: &Fault,
    region: Option<RegionId>,
    classified: Option<&Classified<'_>>,
) -> ExpectedResponse {
    let style = contract.style(region);
    let mut headers = Vec::new();
    let expected = fault.media.as_deref().or(style.error.media.as_deref());
    if let Some(media) = expected {
        headers.push(("Content-Type".to_owned(), media.to_owned()));
    }
    match fault.status {
        401 => headers.push(("WWW-Authenticate".to_owned(), "Bearer".to_owned())),
        405 => {
            let offered = classified.map_or("GET, HEAD".to_owned(), |classified| {
                classified.allowed_methods().join(", ")
            });
            headers.push(("Allow".to_owned(), offered));
        }
        _ => {}
    }
    let rules = style.error.headers.iter().chain(&fault.headers);
    for HeaderRule { name, requirement: asks } in rules {
        if headers.iter().any(|(known, _)| known.eq_ignore_ascii_case(name)) {
            continue;
        }
        let value = match asks {
            HeaderRequirement::Type(phrased) if phrased.optional => continue,
            HeaderRequirement::Type(phrased) => {
                let value = sample::fitting(&phrased.constrained, &contract.shapes);
                value.as_str().map_or_else(|| value.to_string(), str::to_owned)
            }
            HeaderRequirement::Containing(members) => {
                let first = members.iter().filter_map(|one| one.split(" or ").next());
                first.collect::<Vec<_>>().join(", ")
            }
            HeaderRequirement::Challenge(scheme, parameters) => {
                let each = parameters.iter().map(|(name, value)| format!("{name}=\"{value}\""));
                format!("{scheme} {}", each.collect::<Vec<_>>().join(", ")).trim_end().to_owned()
            }
        };
        headers.push((name.clone(), value));
    }
    let is_json = expected.is_none_or(|media| media::is_json(&media::essence(media)));
    let shape = fault.shape_in(region).or(style.error.shape);
    let shape = shape.and_then(|id| contract.shapes.get(id));
    ExpectedResponse {
        fault: fault.name.clone(),
        status: fault.status,
        phrase: status::phrase(fault.status).unwrap_or_default(),
        headers,
        body: is_json.then(|| body(contract, fault, style, shape, classified)),
    }
}

fn body(
    contract: &ErrorContract,
    fault: &Fault,
    style: &ErrorStyle,
    shape: Option<&Shape>,
    classified: Option<&Classified<'_>>,
) -> Value {
    let shapes = &contract.shapes;
    let mut body = Map::new();
    let is_problem = shape.is_none_or(|shape| shape.is_problem);
    if is_problem {
        body.extend(fault.type_uri.clone().map(|uri| ("type".to_owned(), Value::from(uri))));
        let due = classified.and_then(Classified::expected_language);
        let title = fault.title_in(due);
        body.extend(title.map(|title| ("title".to_owned(), Value::from(title))));
        body.insert("status".to_owned(), Value::from(fault.status));
    }
    for member in shape.map_or(&[][..], |shape| &shape.members) {
        if body.contains_key(&member.name) || (member.optional && !is_list_of_entries(member)) {
            continue;
        }
        let entries = classified.map(|classified| entries(classified, member)).unwrap_or_default();
        let value = match (&member.constrained.name, entries) {
            (TypeName::Array(_), entries) if !entries.is_empty() => Value::Array(entries),
            _ if member.optional => continue,
            (TypeName::Status, _) => Value::from(fault.status),
            _ => sample::fitting(&member.constrained, shapes),
        };
        body.insert(member.name.clone(), value);
    }
    let mut body = Value::Object(body);
    let due = classified.and_then(Classified::expected_language);
    fill_envelope(&mut body, &EnvelopeSample { contract, fault, style, shape, language: due });
    body
}

fn is_list_of_entries(member: &ShapeMember) -> bool {
    matches!(&member.constrained.name, TypeName::Array(item) if matches!(item.name, TypeName::Shape(_)))
}

/// One entry for each invalid place of the request.
fn entries(classified: &Classified<'_>, member: &ShapeMember) -> Vec<Value> {
    let shapes = &classified.contract.shapes;
    let TypeName::Array(item) = &member.constrained.name else { return Vec::new() };
    let TypeName::Shape(id) = item.name else { return Vec::new() };
    let Some(shape) = shapes.get(id) else { return Vec::new() };
    let situations = &classified.situations;
    let rule = &classified.style().validation_errors;
    let spelling = rule.spelling.unwrap_or(LocationSpelling::Dotted);
    let mut found = Vec::new();
    if situations.decides(Situation::InvalidBody) {
        found.extend(situations.invalid.iter().map(|mismatch| {
            let location = named(classified, mismatch);
            let words = format!("has to be {}", mismatch.expected);
            let mut value = entry(
                sample::of_shape(shape, shapes),
                shape,
                &location,
                ViolationSubject::Body(spelling),
                mismatch.kind,
                &words,
            );
            let member = mismatch.pointer.rsplit_once('/').map(|(_, member)| member);
            if let (Some(at), MismatchKind::Missing) = (&rule.missing_member, mismatch.kind) {
                put(&mut value, at, &Value::from(member));
            }
            value
        }));
    }
    if situations.decides(Situation::InvalidParameters) {
        found.extend(situations.parameters.iter().map(|parameter| {
            let sort = match parameter.problem {
                ParameterProblem::Missing => MismatchKind::Missing,
                ParameterProblem::Unknown => MismatchKind::Unknown,
                ParameterProblem::Invalid | ParameterProblem::Repeated => MismatchKind::Rule,
            };
            let value = sample::of_shape(shape, shapes);
            let agreed = rule.parameter_location(parameter.location, &parameter.name);
            let location = agreed.unwrap_or_else(|| parameter.name.clone());
            entry(value, shape, &location, ViolationSubject::Parameter, sort, SOME_TEXT)
        }));
    }
    found
}

/// What an entry is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum ViolationSubject {
    /// A location in the body, spelled like this where it is no pointer.
    Body(LocationSpelling),
    Parameter,
}

fn entry(
    value: Value,
    shape: &Shape,
    location: &str,
    at: ViolationSubject,
    kind: MismatchKind,
    words: &str,
) -> Value {
    let Value::Object(mut members) = value else { return value };
    for member in &shape.members {
        let name = folded(&member.name);
        let is_pointer = matches!(member.constrained.name, TypeName::JsonPointer);
        let is_place = match at {
            ViolationSubject::Body(_) => {
                is_pointer
                    || matches!(name.as_str(), "field" | "path" | "property" | "key" | "location")
            }
            ViolationSubject::Parameter => {
                matches!(name.as_str(), "parameter" | "param" | "name" | "field" | "location")
            }
        };
        let is_reason = matches!(name.as_str(), "detail" | "message" | "reason" | "description");
        if is_place {
            let written = match (at, tokens(location)) {
                (ViolationSubject::Body(spelling), Some(steps)) if !is_pointer => {
                    spelling.of(&steps)
                }
                _ => location.to_owned(),
            };
            members.insert(member.name.clone(), Value::from(written));
        } else if is_reason && matches!(member.constrained.name, TypeName::String) {
            members.insert(member.name.clone(), Value::from(words));
        } else if let TypeName::OneOf(values) = &member.constrained.name {
            let wish = folded(&kind.words().replace(' ', "_"));
            let fits = |value: &&Value| {
                value
                    .as_str()
                    .map(folded)
                    .is_some_and(|v| v == wish || wish.ends_with(&v) || v.ends_with(&wish))
            };
            if let Some(value) = values.iter().find(fits).or(values.first()) {
                members.insert(member.name.clone(), value.clone());
            }
        }
    }
    // In the order in which the contract has them.
    let order = |name: &String| shape.members.iter().position(|member| member.name == *name);
    let mut members: Vec<(String, Value)> = members.into_iter().collect();
    members.sort_by_key(|(name, _)| order(name));
    Value::Object(members.into_iter().collect())
}

/// The place as the contract wants it written: a missing member itself, or its parent.
fn named(classified: &Classified<'_>, mismatch: &Mismatch) -> String {
    // A pointer of JSON:API has to lead to something.
    let of_api = classified.expected_shape().is_some_and(|shape| shape.is_json_api);
    let is_parent = mismatch.kind == MismatchKind::Missing
        && (of_api || classified.style().validation_errors.missing == MissingNamed::Parent);
    match mismatch.pointer.rsplit_once('/') {
        Some((parent, _)) if is_parent => parent.to_owned(),
        _ => mismatch.pointer.clone(),
    }
}
