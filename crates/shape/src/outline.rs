//! The outline of a value: members and kinds, in one line, by which two bodies can be compared.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_model::json::pointer::{JsonPath, tokens};

/// Deeper than this nobody compares.
const MOST_NESTED: usize = 8;

/// Places in a body at which data stands where others have structure; each is a JSON Pointer.
#[derive(Debug, Clone, Default)]
pub struct DataLocations {
    /// Objects that are keyed by data, so that other keys do not make another outline.
    pub keyed: BTreeSet<String>,
    /// Objects that are keyed by field, perhaps nested as the request is, each with the values that stand for fields.
    pub by_field: BTreeMap<String, BTreeSet<String>>,
    /// Values that give back what the request had there, of whatever type.
    pub echoes: BTreeSet<String>,
    /// Values that name a place of the request, such as a array of reference tokens.
    pub places: BTreeSet<String>,
}

impl DataLocations {
    /// Does a value give back what the request had?
    pub(super) fn is_echo(&self, path: &JsonPath<'_>) -> bool {
        !self.echoes.is_empty() && self.echoes.contains(&path.pointer())
    }

    /// The steps to the values that stand for fields, from the object that is keyed by them, if it is one.
    pub(super) fn fields_below(&self, path: &JsonPath<'_>) -> Option<Vec<Vec<String>>> {
        if self.by_field.is_empty() {
            return None;
        }
        let above = path.pointer();
        let below = |pointer: &String| tokens(pointer.strip_prefix(above.as_str())?);
        Some(self.by_field.get(&above)?.iter().filter_map(below).collect())
    }
}

/// Goes to a value below another, and gives it with its path.
pub(super) fn at_steps(
    value: &Value,
    path: &JsonPath<'_>,
    steps: &[String],
    then: &mut dyn FnMut(&Value, &JsonPath<'_>),
) {
    let Some((first, rest)) = steps.split_first() else { return then(value, path) };
    match value {
        Value::Object(members) => {
            if let Some(inner) = members.member(first) {
                at_steps(inner, &JsonPath::Member(path, first), rest, then);
            }
        }
        Value::Array(items) => {
            let index = first.parse::<usize>().ok();
            if let Some((index, inner)) = index.and_then(|at| Some((at, items.get(at)?))) {
                at_steps(inner, &JsonPath::Item(path, index), rest, then);
            }
        }
        _ => {}
    }
}

/// The outline of a value.
#[must_use]
pub fn outline(value: &Value, varying: &DataLocations) -> String {
    of(value, &JsonPath::Top, varying, 0)
}

/// Does every place of the value show its kind? An empty list agrees with any list, and null may stand for
/// anything, so the outline of a value with such a place can't be compared.
#[must_use]
pub fn is_told_wholly(value: &Value) -> bool {
    match value {
        Value::Null => false,
        Value::Array(items) => !items.is_empty() && items.iter().all(is_told_wholly),
        Value::Object(members) => members.values().all(is_told_wholly),
        _ => true,
    }
}

fn of(value: &Value, path: &JsonPath<'_>, varying: &DataLocations, depth: usize) -> String {
    let is = |places: &BTreeSet<String>| !places.is_empty() && places.contains(&path.pointer());
    if varying.is_echo(path) {
        return "anything".to_owned();
    }
    if let Some(fields) = varying.fields_below(path).filter(|_| depth <= MOST_NESTED) {
        let mut outlines = Vec::new();
        for steps in fields {
            at_steps(value, path, &steps, &mut |value, path| {
                outlines.push(of(value, path, varying, depth + 1));
            });
        }
        return format!("map of {}", either(outlines.into_iter()));
    }
    match value {
        Value::Array(_) if is(&varying.places) => "array of reference tokens".to_owned(),
        Value::Null => "null".to_owned(),
        Value::Bool(_) => "boolean".to_owned(),
        Value::Number(_) => "number".to_owned(),
        Value::String(_) => "string".to_owned(),
        _ if depth > MOST_NESTED => "…".to_owned(),
        Value::Array(items) => {
            let items = items.iter().enumerate();
            let items =
                items.map(|(at, item)| of(item, &JsonPath::Item(path, at), varying, depth + 1));
            format!("array of {}", either(items))
        }
        Value::Object(members) if is(&varying.keyed) => {
            let members = members.iter();
            let members =
                members.map(|(name, v)| of(v, &JsonPath::Member(path, name), varying, depth + 1));
            format!("map of {}", either(members))
        }
        Value::Object(members) => {
            let mut members: Vec<String> = members
                .iter()
                .map(|(name, v)| {
                    format!("{name}: {}", of(v, &JsonPath::Member(path, name), varying, depth + 1))
                })
                .collect();
            members.sort_unstable();
            format!("{{{}}}", members.join(", "))
        }
    }
}

/// The different ones, in order.
fn either(outlines: impl Iterator<Item = String>) -> String {
    let mut outlines: Vec<String> = outlines.collect();
    outlines.sort_unstable();
    outlines.dedup();
    match outlines.len() {
        0 => "nothing".to_owned(),
        _ => outlines.join(" or "),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn order_length_and_keys_of_maps_make_no_difference() {
        let one = json!({"b": 1, "a": [{"x": "s"}, {"x": "t"}], "errors": {"nights": ["no"]}});
        let other = json!({"a": [{"x": "u"}], "errors": {"vessel": ["no", "no"]}, "b": 2.5});
        let varying =
            DataLocations { keyed: ["/errors".to_owned()].into(), ..DataLocations::default() };
        assert_eq!(outline(&one, &varying), outline(&other, &varying));
        assert_eq!(
            outline(&one, &varying),
            "{a: array of {x: string}, b: number, errors: map of array of string}"
        );
        let none = DataLocations::default();
        assert_ne!(outline(&one, &none), outline(&other, &none));
    }
}
