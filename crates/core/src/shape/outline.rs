//! The outline of a value: members and kinds, in one line, by which two bodies can be compared.

use serde_json::Value;

use crate::pointer::{join, join_index};

/// Deeper than this nobody compares.
const MOST_NESTED: usize = 8;

/// The outline of a value. Objects at the places in `keyed` are keyed by data, so that other keys do not
/// make another outline.
#[must_use]
pub fn outline(value: &Value, keyed: &[String]) -> String {
    of(value, "", keyed, 0)
}

fn of(value: &Value, place: &str, keyed: &[String], depth: usize) -> String {
    match value {
        Value::Null => "null".to_owned(),
        Value::Bool(_) => "boolean".to_owned(),
        Value::Number(_) => "number".to_owned(),
        Value::String(_) => "text".to_owned(),
        _ if depth > MOST_NESTED => "…".to_owned(),
        Value::Array(items) => {
            let items = items.iter().enumerate();
            let items = items.map(|(at, item)| of(item, &join_index(place, at), keyed, depth + 1));
            format!("list of {}", either(items))
        }
        Value::Object(members) if keyed.iter().any(|known| known == place) => {
            let members = members.iter();
            let members = members.map(|(name, v)| of(v, &join(place, name), keyed, depth + 1));
            format!("map of {}", either(members))
        }
        Value::Object(members) => {
            let mut members: Vec<String> = members
                .iter()
                .map(|(name, v)| format!("{name}: {}", of(v, &join(place, name), keyed, depth + 1)))
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
        let keyed = ["/errors".to_owned()];
        assert_eq!(outline(&one, &keyed), outline(&other, &keyed));
        assert_eq!(
            outline(&one, &keyed),
            "{a: list of {x: text}, b: number, errors: map of list of text}"
        );
        assert_ne!(outline(&one, &[]), outline(&other, &[]));
    }
}
