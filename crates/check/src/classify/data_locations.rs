//! Where a validation error has data in the place of structure: names of fields, and values of the request.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use super::{Classified, LocationForm, ReportedField, location_steps};
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::Json;
use faithful_clerk_model::json::folded;
use faithful_clerk_model::json::pointer::{from_tokens, join, join_index, resolve, tokens};
use faithful_clerk_shape::DataLocations;

/// Names of members that give back what was sent, in lower case without marks of style.
const ECHOES: [&str; 8] = [
    "input",
    "value",
    "rejected",
    "rejectedvalue",
    "invalidvalue",
    "attemptedvalue",
    "givenvalue",
    "actualvalue",
];

/// What a violation says of itself stands no deeper.
const MOST_NESTED: usize = 4;

/// The places in the body of a response.
pub(super) fn of(classified: &Classified<'_>, body: &Value) -> DataLocations {
    let entries = classified.reported_fields();
    let mut found = DataLocations::default();
    if entries.is_empty() {
        return found;
    }
    let steps = entries.iter().filter(|entry| entry.form == LocationForm::TokenArray);
    found.places = steps.map(|entry| entry.pointer.clone()).collect();
    found.by_field = by_field(entries);
    let sent = sent(classified);
    for entry in entries.iter().filter(|entry| entry.location.is_some()) {
        let Some(item) = tokens(&entry.entry).and_then(|steps| resolve(body, &steps)) else {
            continue;
        };
        let values = sent.as_ref().map(|sent| values_at(sent, &entry.steps)).unwrap_or_default();
        echoes(item, &entry.entry, &entry.pointer, &values, 0, &mut found.echoes);
    }
    found
}

/// The objects that are keyed by field, each with the values that stand for fields.
fn by_field(entries: &[ReportedField]) -> BTreeMap<String, BTreeSet<String>> {
    let mut found: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    // An entry under its field's name is where its location is.
    for entry in entries.iter().filter(|entry| entry.pointer == entry.entry) {
        let (Some(location), Some(mut at)) = (&entry.location, tokens(&entry.pointer)) else {
            continue;
        };
        // Several reasons for a field are told one after the other.
        while at.len() > 1
            && at.last() != Some(location)
            && at.last().is_some_and(|last| last.bytes().all(|byte| byte.is_ascii_digit()))
        {
            at.pop();
        }
        // A name for the whole of an object is no step.
        let is_whole = at.last().is_some_and(|last| location_steps(last).is_empty());
        let steps = at.len() - usize::from(is_whole);
        let own = at.get(..steps).unwrap_or_default();
        let above = match own.ends_with(&entry.steps) {
            true => steps - entry.steps.len(),
            false => at.len().saturating_sub(1),
        };
        let container = from_tokens(at.get(..above).unwrap_or_default());
        found.entry(container).or_default().insert(from_tokens(&at));
    }
    // Of one within another, the outer holds all.
    let containers: Vec<String> = found.keys().cloned().collect();
    for inner in &containers {
        let is_around = |outer: &&String| {
            *outer != inner
                && inner.strip_prefix(outer.as_str()).is_some_and(|rest| rest.starts_with('/'))
        };
        if let Some(outer) = containers.iter().find(is_around)
            && let Some(fields) = found.remove(inner)
        {
            found.entry(outer.clone()).or_default().extend(fields);
        }
    }
    found
}

/// The request's body, where it is JSON.
fn sent(classified: &Classified<'_>) -> Option<Value> {
    if let Some(body) = &classified.situations.body {
        return Some(body.clone());
    }
    let RequestBody::Present(content) = &classified.exchange.request.body else { return None };
    match Json::read(&content.decode().ok()?) {
        Json::Value(value) => Some(value),
        Json::Malformed(_) | Json::Beyond(_) => None,
    }
}

/// What the request has at a location, and what holds that.
fn values_at<'v>(sent: &'v Value, steps: &[String]) -> Vec<&'v Value> {
    let above = steps.len().saturating_sub(1);
    let own = resolve(sent, steps);
    let parent = steps.get(..above).and_then(|above| resolve(sent, above));
    own.into_iter().chain(parent).collect()
}

/// Adds the members of an entry that give back what was sent, by their names or by what they have.
fn echoes(
    value: &Value,
    at: &str,
    location: &str,
    sent: &[&Value],
    depth: usize,
    found: &mut BTreeSet<String>,
) {
    if depth > MOST_NESTED {
        return;
    }
    match value {
        Value::Object(members) => {
            for (name, member) in members {
                let at = join(at, name);
                // What says where, and a text that says why, is none.
                let is_same = !matches!(member, Value::Null | Value::Bool(_))
                    && sent.contains(&member)
                    && !location.starts_with(&at);
                if ECHOES.contains(&folded(name).as_str()) || is_same {
                    found.insert(at);
                } else {
                    echoes(member, &at, location, sent, depth + 1, found);
                }
            }
        }
        Value::Array(items) => {
            for (index, item) in items.iter().enumerate() {
                echoes(item, &join_index(at, index), location, sent, depth + 1, found);
            }
        }
        _ => {}
    }
}
