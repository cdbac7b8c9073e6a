//! The response that an exchange should have got, drafted from the contract.

use serde_json::{Map, Value};

use super::envelope::{EnvelopeSample, fill_envelope, in_order, put};
use super::response_headers::response_headers;
use super::violations::{ViolationList, padded};
use crate::sample::{self, SOME_TEXT};
use faithful_clerk_check::classify::{Classified, StatusVerdict};
use faithful_clerk_contract::{ErrorContract, ErrorStyle, Fault, RegionId};
use faithful_clerk_model::media;
use faithful_clerk_model::status;
use faithful_clerk_schema::CompiledSchema;
use faithful_clerk_shape::{Shape, ShapeTable, TypeName};

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
    // A redirect is due, and no error.
    if classified.is_redirected {
        return (Vec::new(), None);
    }
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
    let media = fault.media.as_deref().or(style.error.media.as_deref());
    let headers = response_headers(contract, fault, style, classified);
    let is_json = media.is_none_or(|media| media::is_json(&media::essence(media)));
    let shape = fault.shape_in(region).or(style.error.shape);
    let shape = shape.and_then(|id| contract.shapes.get(id));
    let documented = documented_schema(fault, classified);
    let body = is_json.then(|| {
        if let Some(schema) = documented {
            return sample::schema::fitting(schema);
        }
        let mut body = body(contract, fault, style, shape, classified);
        if let Some(shape) = shape {
            let request = classified.map(|classified| &classified.exchange.request.headers);
            repeat_headers(&mut body, shape, &contract.shapes, &|name| {
                let own = headers.iter().find(|(known, _)| known.eq_ignore_ascii_case(name));
                let own = own.map(|(_, value)| value.clone());
                own.or_else(|| request?.get(name).map(str::to_owned))
            });
        }
        body
    });
    ExpectedResponse {
        fault: fault.name.clone(),
        status: fault.status,
        phrase: status::phrase(fault.status).unwrap_or_default(),
        headers,
        body,
    }
}

/// The schema that a description documents for a fault of its own, spelled out.
fn documented_schema<'a>(fault: &Fault, classified: Option<&Classified<'a>>) -> Option<&'a Value> {
    let endpoint = classified.filter(|_| fault.is_documented)?.endpoint()?;
    let response = endpoint.rules.documented.as_ref()?.exact(fault.status)?;
    let is_json = |(media, _): &&(String, _)| media::is_json(media);
    response.content.iter().find(is_json)?.1.as_ref().map(CompiledSchema::spelled)
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
    let language = classified.and_then(Classified::expected_language);
    if is_problem {
        body.extend(fault.type_uri.clone().map(|uri| ("type".to_owned(), Value::from(uri))));
        let title = fault.title_in(language);
        body.extend(title.map(|title| ("title".to_owned(), Value::from(title))));
        body.insert("status".to_owned(), Value::from(fault.status));
    }
    for member in shape.map_or(&[][..], |shape| &shape.members) {
        if body.contains_key(&member.name) || member.optional {
            continue;
        }
        let value = match &member.constrained.name {
            TypeName::Status => Value::from(fault.status),
            _ => sample::fitting(&member.constrained, shapes),
        };
        body.insert(member.name.clone(), value);
    }
    let mut body = match shape.and_then(|shape| shape.of.as_deref()) {
        Some(of) => sample::fitting(of, shapes),
        None => Value::Object(body),
    };
    if let Some(classified) = classified {
        let list = ViolationList::of(style, shape, shapes);
        let violations = list.map(|list| (list.items(classified), list));
        if let Some((items, list)) = violations.filter(|(items, _)| !items.is_empty()) {
            put(&mut body, &list.steps, &Value::Array(items));
        }
    }
    fill_envelope(&mut body, &EnvelopeSample { contract, fault, style, shape, language });
    // RFC 9110 section 15.5.7: what there is instead.
    let types = classified.and_then(|classified| classified.rules().produces.as_ref());
    if let Some(types) = types.filter(|_| fault.status == 406) {
        explain(&mut body, &format!("available: {}", types.join(", ")));
    }
    if let Some(shape) = shape {
        in_order(&mut body, shape);
    }
    body
}

/// Puts words in the place of the first text that nobody can make up.
fn explain(body: &mut Value, words: &str) -> bool {
    match body {
        Value::String(text) if !text.is_empty() && text.replace(SOME_TEXT, "").is_empty() => {
            let least = text.chars().count();
            *text = padded(words, least);
            true
        }
        Value::Array(items) => items.iter_mut().any(|item| explain(item, words)),
        Value::Object(members) => members.values_mut().any(|member| explain(member, words)),
        _ => false,
    }
}

/// Gives every member that is the same as a header the header's value, if that is known.
fn repeat_headers(
    value: &mut Value,
    shape: &Shape,
    shapes: &ShapeTable,
    header: &dyn Fn(&str) -> Option<String>,
) {
    let Value::Object(members) = value else { return };
    for member in &shape.members {
        let Some(value) = members.get_mut(&member.name) else { continue };
        match &member.constrained.name {
            TypeName::SameAsHeader(name) => {
                if let Some(text) = header(name) {
                    *value = Value::from(text);
                }
            }
            TypeName::Shape(id) => {
                if let Some(inner) = shapes.get(*id) {
                    repeat_headers(value, inner, shapes, header);
                }
            }
            _ => {}
        }
    }
}
