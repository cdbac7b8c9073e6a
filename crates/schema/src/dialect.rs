//! OpenAPI 3.0's own dialect of JSON Schema, put into words that a validator knows.
//!
//! 3.1 needs none of this: its schemas are JSON Schema 2020-12.

use serde_json::{Value, json};

/// Rewrites a description of 3.0 in place: `nullable`, and limits that are switches. A schema's `$ref`
/// stands alone there, as in draft 7, which is what the rest of it is read as.
pub(super) fn modernise(value: &mut Value) {
    match value {
        Value::Array(items) => items.iter_mut().for_each(modernise),
        Value::Object(members) => {
            for (limit, switch) in
                [("minimum", "exclusiveMinimum"), ("maximum", "exclusiveMaximum")]
            {
                match members.get(switch) {
                    Some(Value::Bool(true)) => {
                        if let Some(number) = members.remove(limit) {
                            members.insert(switch.to_owned(), number);
                        } else {
                            members.remove(switch);
                        }
                    }
                    Some(Value::Bool(false)) => {
                        members.remove(switch);
                    }
                    _ => {}
                }
            }
            if members.get("nullable") == Some(&Value::Bool(true)) {
                members.remove("nullable");
                if let Some(kind @ Value::String(_)) = members.get("type").cloned() {
                    members.insert("type".to_owned(), json!([kind, "null"]));
                }
                if let Some(Value::Array(values)) = members.get_mut("enum")
                    && !values.contains(&Value::Null)
                {
                    values.push(Value::Null);
                }
            }
            members.values_mut().for_each(modernise);
        }
        _ => {}
    }
}

/// A member that is only read, or only written, is required only that way (OpenAPI 3.0.3 section 4.7.24.2,
/// and 3.1 by JSON Schema's own annotations): as requests and responses share their schemas, nobody can
/// say that one lacks it.
pub(super) fn drop_one_way_members(value: &mut Value) {
    match value {
        Value::Array(items) => items.iter_mut().for_each(drop_one_way_members),
        Value::Object(members) => {
            let one_way = |property: &Value| {
                let is = |name: &str| property.get(name) == Some(&Value::Bool(true));
                is("readOnly") || is("writeOnly")
            };
            let properties = members.get("properties").and_then(Value::as_object);
            let names: Vec<String> = properties
                .into_iter()
                .flatten()
                .filter(|(_, property)| one_way(property))
                .map(|(name, _)| name.clone())
                .collect();
            if let Some(Value::Array(required)) = members.get_mut("required") {
                required.retain(|name| !names.iter().any(|known| name == known));
            }
            members.values_mut().for_each(drop_one_way_members);
        }
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn switches_become_limits_and_nullable_a_kind() {
        let mut schema = json!({"type": "integer", "minimum": 0, "exclusiveMinimum": true,
            "properties": {"nullable": {"type": "string", "nullable": true, "enum": ["a"]}}});
        modernise(&mut schema);
        assert_eq!(
            schema,
            json!({"type": "integer", "exclusiveMinimum": 0,
                "properties": {"nullable": {"type": ["string", "null"], "enum": ["a", null]}}})
        );
    }
}
