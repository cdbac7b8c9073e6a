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
