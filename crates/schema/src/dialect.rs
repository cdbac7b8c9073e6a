//! OpenAPI 3.0's own dialect of JSON Schema, put into words that a validator knows.
//!
//! 3.1 needs none of this: its schemas are JSON Schema 2020-12.

use serde_json::{Map, Value, json};

/// Words beside `type` that look at the value as a whole.
const WHOLE: [&str; 5] = ["allOf", "anyOf", "oneOf", "not", "$ref"];

/// Rewrites one schema of 3.0: limits that are switches, and `nullable`. A `$ref` stands alone there, as in draft 7,
/// which is what the rest of it is read as.
pub(super) fn modernise(schema: &mut Map<String, Value>) {
    for (limit, switch) in [("minimum", "exclusiveMinimum"), ("maximum", "exclusiveMaximum")] {
        match schema.get(switch) {
            Some(Value::Bool(true)) => match schema.remove(limit) {
                Some(number) => _ = schema.insert(switch.to_owned(), number),
                None => _ = schema.remove(switch),
            },
            Some(Value::Bool(false)) => _ = schema.remove(switch),
            _ => {}
        }
    }
    if schema.remove("nullable") == Some(Value::Bool(true)) {
        admit_null(schema);
    }
}

/// Makes null a value that fits. By the letter `nullable` widens a `type` beside it and nothing else (OpenAPI 3.0.3 section
/// 4.7.24.1); those who write it beside `allOf` or `$ref` mean null all the same.
fn admit_null(schema: &mut Map<String, Value>) {
    if WHOLE.iter().any(|word| schema.contains_key(*word)) {
        let rest = Value::Object(std::mem::take(schema));
        schema.insert("if".to_owned(), json!({ "type": "null" }));
        schema.insert("else".to_owned(), rest);
        return;
    }
    if let Some(kind @ Value::String(_)) = schema.get("type").cloned() {
        schema.insert("type".to_owned(), json!([kind, "null"]));
    }
    if let Some(Value::Array(values)) = schema.get_mut("enum")
        && !values.contains(&Value::Null)
    {
        values.push(Value::Null);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn switches_become_limits_and_nullable_a_type() {
        for (written, due) in [
            (
                json!({"type": "integer", "minimum": 0, "exclusiveMinimum": true}),
                json!({"type": "integer", "exclusiveMinimum": 0}),
            ),
            (
                json!({"type": "string", "nullable": true, "enum": ["a"]}),
                json!({"type": ["string", "null"], "enum": ["a", null]}),
            ),
            (
                json!({"nullable": true, "allOf": [{"type": "object"}]}),
                json!({"if": {"type": "null"}, "else": {"allOf": [{"type": "object"}]}}),
            ),
            (json!({"type": "string", "nullable": false}), json!({"type": "string"})),
        ] {
            let mut schema = written.as_object().cloned().unwrap();
            modernise(&mut schema);
            assert_eq!(Value::Object(schema), due, "{written}");
        }
    }
}
