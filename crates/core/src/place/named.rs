//! Which places an answer names as invalid.
//!
//! Where the agreed shape has a list whose items hold a `json pointer`, that is where they stand.
//! Otherwise the usual forms are looked for: a list of objects that name the field under one of the
//! usual names, an object keyed by field, a list of sentences.

use serde_json::Value;

use crate::json::{self, folded};
use crate::pointer::{join, join_index, tokens};
use crate::shape::{Kind, Shape, Shapes};

/// One entry of a validation error.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Named {
    /// The place as the entry writes it, where it writes one.
    pub location: Option<String>,
    /// The same in steps, read from a pointer, a list, or a dotted path.
    pub steps: Vec<String>,
    /// Where the location stands in the answer, as a JSON Pointer.
    pub at: String,
    /// Was it agreed that the location is a JSON Pointer?
    pub is_pointer: bool,
    /// All text of the entry.
    pub words: String,
}

/// The names under which services put the field of an entry, those with more to them first.
const LOCATIONS: [&str; 13] = [
    "pointer",
    "propertyPath",
    "path",
    "loc",
    "location",
    "field",
    "fieldName",
    "key",
    "param",
    "property",
    "attribute",
    "name",
    "source",
];

/// The names of members that hold the entries.
const LISTS: [&str; 12] = [
    "errors",
    "invalid",
    "invalid_params",
    "invalid-params",
    "violations",
    "extra",
    "details",
    "fields",
    "field_errors",
    "fieldErrors",
    "problems",
    "messages",
];

/// Every entry of the answer, in document order.
#[must_use]
pub fn named_places(body: &Value, shape: Option<&Shape>, shapes: &Shapes) -> Vec<Named> {
    let agreed = agreed_places(body, shape, shapes);
    if !agreed.is_empty() {
        return agreed;
    }
    if let Value::Array(items) = body {
        return entries(items, "");
    }
    let lists = LISTS.iter().filter_map(|name| Some((*name, body.get(name)?)));
    for (name, list) in lists {
        let at = join("", name);
        let found = match list {
            Value::Array(items) => entries(items, &at),
            Value::Object(fields) => keyed(fields, &at),
            _ => Vec::new(),
        };
        if !found.is_empty() {
            return found;
        }
    }
    Vec::new()
}

/// The entries that stand where the agreed shape has a list with a `json pointer` in its items.
#[must_use]
pub fn agreed_places(body: &Value, shape: Option<&Shape>, shapes: &Shapes) -> Vec<Named> {
    let mut found = Vec::new();
    for member in shape.map_or(&[][..], |shape| &shape.members) {
        let Kind::List(item) = &member.typed.kind else { continue };
        let Kind::Shape(id) = item.kind else { continue };
        let location = shapes
            .get(id)
            .and_then(|entry| entry.members.iter().find(|member| is_pointer(&member.typed.kind)));
        let (Some(location), Some(Value::Array(items))) = (location, body.get(&member.name)) else {
            continue;
        };
        let list = join("", &member.name);
        for (index, item) in items.iter().enumerate() {
            let at = join_index(&list, index);
            let mut entry = entry(item, item.get(&location.name), join(&at, &location.name));
            entry.is_pointer = entry.location.is_some();
            found.push(entry);
        }
    }
    found
}

/// Is this a `json pointer`, or a choice with one in it, such as `json pointer or null`?
fn is_pointer(kind: &Kind) -> bool {
    match kind {
        Kind::JsonPointer => true,
        Kind::Either(alternatives) => alternatives.iter().any(|one| is_pointer(&one.kind)),
        _ => false,
    }
}

fn entries(items: &[Value], at: &str) -> Vec<Named> {
    let mut found = Vec::new();
    for (index, item) in items.iter().enumerate() {
        let at = join_index(at, index);
        let location = LOCATIONS.iter().find_map(|name| Some((*name, item.get(name)?)));
        match (item, location) {
            (Value::Object(_), Some((name, Value::Object(source)))) => {
                let inner = source.get("pointer").or_else(|| source.get("parameter"));
                found.push(entry(item, inner, join(&at, name)));
            }
            (Value::Object(_), Some((name, location))) => {
                found.push(entry(item, Some(location), join(&at, name)));
            }
            (Value::Object(_) | Value::String(_), None) => found.push(entry(item, None, at)),
            _ => {}
        }
    }
    found
}

/// An object keyed by field: text, or a list of texts, under each.
fn keyed(fields: &serde_json::Map<String, Value>, at: &str) -> Vec<Named> {
    let fits = |value: &Value| match value {
        Value::String(_) | Value::Object(_) => true,
        Value::Array(items) => !items.is_empty(),
        _ => false,
    };
    fields
        .iter()
        .filter(|(_, value)| fits(value))
        .map(|(field, value)| Named {
            location: Some(field.clone()),
            steps: steps(field),
            at: join(at, field),
            is_pointer: false,
            words: json::strings(value),
        })
        .collect()
}

fn entry(item: &Value, location: Option<&Value>, at: String) -> Named {
    let words = json::strings(item);
    let (location, steps) = match location {
        Some(Value::String(text)) => (Some(text.clone()), steps(text)),
        Some(Value::Array(items)) => {
            let step = |item: &Value| item.as_str().map_or_else(|| item.to_string(), str::to_owned);
            let steps: Vec<String> = items.iter().map(step).collect();
            (Some(steps.join(".")), steps)
        }
        _ => (None, Vec::new()),
    };
    Named { location, steps, at, is_pointer: false, words }
}

/// The steps of a location: of a pointer, or of a path with dots and brackets.
fn steps(location: &str) -> Vec<String> {
    if location.starts_with(['/', '#']) || location.is_empty() {
        return tokens(location).unwrap_or_default();
    }
    let parts = location.split(['.', '[', ']']).filter(|part| !part.is_empty());
    parts.map(|part| part.trim_matches(['"', '\'']).to_owned()).collect()
}

impl Named {
    /// Does this entry name that place, or one below it?
    ///
    /// A pointer has to lead there. A path may have a step before it that only says 'the body', and
    /// write a name in another style (`vesselId` for `vessel_id`).
    #[must_use]
    pub fn is_at_or_below(&self, place: &[String]) -> bool {
        let Some(location) = &self.location else { return false };
        let is_path = !self.is_pointer && !location.starts_with(['/', '#']);
        let leads = |steps: &[String]| {
            steps.len() >= place.len()
                && steps
                    .iter()
                    .zip(place)
                    .all(|(one, other)| one == other || (is_path && folded(one) == folded(other)))
        };
        let behind_the_first = self.steps.get(1..).unwrap_or_default();
        leads(&self.steps) || (is_path && !behind_the_first.is_empty() && leads(behind_the_first))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    /// One and the same two invalid places, in the forms that services use.
    #[test]
    fn two_places_are_read_out_of_every_usual_form() {
        let places =
            [vec!["crew".to_owned(), "0".into(), "name".into()], vec!["nights".to_owned()]];
        for body in [
            json!({"errors": [{"pointer": "/crew/0/name"}, {"pointer": "#/nights"}]}),
            json!({"errors": [{"field": "crew[0].name", "message": "x"}, {"field": "nights"}]}),
            json!({"violations": [{"propertyPath": "crew.0.name"}, {"propertyPath": "nights"}]}),
            json!({"detail": "x", "extra": [{"key": "body.crew[0].name"}, {"key": "nights"}]}),
            json!({"details": [{"loc": ["body", "crew", 0, "name"]}, {"loc": ["body", "nights"]}]}),
            json!({"errors": {"crew[0].name": "too short", "nights": ["too many"]}}),
            json!({"errors": [{"source": {"pointer": "/crew/0/name"}}, {"source": {"pointer": "/nights"}}]}),
            json!([{"path": "crew.0.name"}, {"path": "nights"}]),
        ] {
            let found = named_places(&body, None, &Shapes::default());
            assert_eq!(found.len(), 2, "{body}");
            for (entry, place) in found.iter().zip(&places) {
                assert!(entry.is_at_or_below(place), "{body}: {entry:?}");
                assert!(!entry.is_at_or_below(&["berth".to_owned()]));
            }
        }
    }

    #[test]
    fn another_naming_style_names_the_same_field_and_a_wrong_pointer_does_not() {
        let body = json!({"errors": [{"field": "vesselId"}, {"pointer": "/vesselId"}]});
        let found = named_places(&body, None, &Shapes::default());
        let place = ["vessel_id".to_owned()];
        assert!(found[0].is_at_or_below(&place) && !found[1].is_at_or_below(&place));
    }

    #[test]
    fn sentences_are_entries_without_a_location() {
        let found = named_places(&json!({"errors": ["nights is wrong"]}), None, &Shapes::default());
        assert_eq!((found.len(), found[0].location.as_deref()), (1, None));
        assert_eq!(named_places(&json!({"detail": "no"}), None, &Shapes::default()), []);
    }
}
