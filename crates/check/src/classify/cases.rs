//! The contract's cases: what cannot be seen from a request, but is declared.

use std::borrow::Cow;

use serde_json::Value;

use super::RouteMatch;
use super::parameters::ParameterValues;
use super::request::{RequestSituations, RoutedRequest};
use faithful_clerk_contract::{Case, Condition, Expectation, ParameterLocation};
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::Json;
use faithful_clerk_model::json::pointer::{resolve, tokens};
use faithful_clerk_shape::{ShapeTable, text_fits, value_fits};

/// Adds what the cases tell that match the request.
pub(super) fn apply(asked: &RoutedRequest<'_, '_>, situations: &mut RequestSituations<'_>) {
    if asked.contract.cases.is_empty() {
        return;
    }
    let segments = asked.contract.segments(asked.target);
    for (at, case) in asked.contract.cases.iter().enumerate() {
        if !matches(asked, segments, case, situations.body.as_ref()) {
            continue;
        }
        situations.cases.push(at);
        if is_about_entries(asked, case) {
            situations.entry_cases.push(at);
            continue;
        }
        match case.expect {
            Expectation::Success => situations.served_by = Some(case.name.clone()),
            Expectation::Fault(id) => {
                if let Some(situation) = case.situation {
                    situations.holds.insert(situation);
                    situations.expected.push((id, situation));
                }
            }
            Expectation::Open => situations.holds.extend(case.situation),
        }
    }
}

/// Is the case about entries of a batch, each of which may fail alone?
fn is_about_entries(asked: &RoutedRequest<'_, '_>, case: &Case) -> bool {
    let RouteMatch::Endpoint(_, endpoint) = asked.route else { return false };
    let (Some(partial), Expectation::Fault(id)) = (&endpoint.rules.partial, case.expect) else {
        return false;
    };
    let Some(requested) = &partial.requested else { return false };
    let is_in_entry = |one: &Condition| steps_in_entry(&one.name, requested).is_some();
    partial.faults.contains(&id) && !case.body.is_empty() && case.body.iter().all(is_in_entry)
}

/// The steps of a pointer behind those of an array and its `*`.
fn steps_in_entry(pointer: &str, array: &str) -> Option<Vec<String>> {
    let steps = tokens(pointer)?;
    let behind = steps.strip_prefix(tokens(array)?.as_slice())?;
    let (first, rest) = behind.split_first()?;
    (first == "*").then(|| rest.to_vec())
}

/// Is an entry of a batch one that the case is about? `array` is where the entries are in the request.
#[must_use]
pub fn entry_fits(case: &Case, array: &str, entry: &Value, shapes: &ShapeTable) -> bool {
    case.body.iter().all(|condition| {
        let Some(steps) = steps_in_entry(&condition.name, array) else { return false };
        let found = all_at(entry, &steps);
        let fits = |value: &&Value| value_fits(value, &condition.rule.constrained, shapes);
        if found.is_empty() { condition.rule.optional } else { found.iter().any(fits) }
    })
}

fn matches(
    asked: &RoutedRequest<'_, '_>,
    segments: &[Cow<'_, str>],
    case: &Case,
    body: Option<&Value>,
) -> bool {
    let request = &asked.exchange.request;
    // Without the values that it was sent with, nobody can tell which requests it is about.
    if !case.uses.is_empty() {
        return false;
    }
    // HEAD is GET without the content (RFC 9110 section 9.3.2).
    let is_same = |method: &String| {
        *method == request.method || (method == "GET" && request.method == "HEAD")
    };
    if !case.method.as_ref().is_none_or(is_same) {
        return false;
    }
    if let Some(endpoints) = &case.endpoints {
        let RouteMatch::Endpoint(id, _) = asked.route else { return false };
        if !endpoints.contains(id) {
            return false;
        }
    }
    if let Some(path) = &case.path {
        let letters = asked.contract.paths.case_sensitivity;
        let same = path.len() == segments.len()
            && path.iter().zip(segments).all(|(pattern, segment)| pattern.admits(segment, letters));
        if !same {
            return false;
        }
    }
    // Names of path parameters are those of the case's own template, else of the endpoint's.
    let template = match asked.route {
        _ if case.path.is_some() => case.template.as_str(),
        RouteMatch::Endpoint(_, endpoint) => endpoint.path.as_str(),
        RouteMatch::UnknownRoute | RouteMatch::MethodNotAllowed(_) => "",
    };
    let values = ParameterValues::of(asked, template);
    let shapes = &asked.contract.shapes;
    let named = |location: ParameterLocation, condition: &Condition| {
        let found = values.named(location, &condition.name);
        match found.as_slice() {
            [] => condition.rule.optional,
            found => text_fits(&found.join(","), &condition.rule.constrained, shapes),
        }
    };
    case.values.iter().all(|condition| named(ParameterLocation::Path, condition))
        && case.query.iter().all(|condition| named(ParameterLocation::Query, condition))
        && case.headers.iter().all(|condition| named(ParameterLocation::Header, condition))
        && (case.body.is_empty() || matches_body(asked, &case.body, body, shapes))
}

fn matches_body(
    asked: &RoutedRequest<'_, '_>,
    conditions: &[Condition],
    body: Option<&Value>,
    shapes: &ShapeTable,
) -> bool {
    let read = || match &asked.exchange.request.body {
        RequestBody::Present(content) => match Json::read(&content.decode().ok()?) {
            Json::Value(value) => Some(value),
            Json::Beyond(_) | Json::Malformed(_) => None,
        },
        _ => None,
    };
    let read = if body.is_some() { None } else { read() };
    let Some(body) = body.or(read.as_ref()) else { return false };
    conditions.iter().all(|condition| {
        let steps = tokens(&condition.name).unwrap_or_default();
        let found = all_at(body, &steps);
        // `/items/*/id`: one of the items is enough.
        let fits = |value: &&Value| value_fits(value, &condition.rule.constrained, shapes);
        if found.is_empty() { condition.rule.optional } else { found.iter().any(fits) }
    })
}

/// The values at a place in which `*` stands for every item of an array.
fn all_at<'v>(value: &'v Value, steps: &[String]) -> Vec<&'v Value> {
    let Some(star) = steps.iter().position(|step| step == "*") else {
        return resolve(value, steps).into_iter().collect();
    };
    let (above, below) = (steps.get(..star), steps.get(star + 1..));
    let array = above.and_then(|above| resolve(value, above)).and_then(Value::as_array);
    let items = array.into_iter().flatten();
    items.flat_map(|item| all_at(item, below.unwrap_or_default())).collect()
}
