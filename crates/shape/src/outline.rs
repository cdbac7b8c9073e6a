//! The outline of a value: members and kinds, in one line, by which two bodies can be compared.

use std::collections::BTreeSet;

use serde_json::Value;

use faithful_clerk_model::json::pointer::JsonPath;

/// Deeper than this nobody compares.
const MOST_NESTED: usize = 8;

/// Places in a body at which data stands where others have structure; each is a JSON Pointer.
#[derive(Debug, Clone, Default)]
pub struct DataLocations {
    /// Objects that are keyed by data, so that other keys do not make another outline.
    pub keyed: BTreeSet<String>,
    /// Values that name a place of the request, such as a array of reference tokens.
    pub places: BTreeSet<String>,
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
