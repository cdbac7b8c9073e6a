//! Schemas of ours in the dialect of OpenAPI 3.0, which is older than the JSON Schema that they are written in.

use serde_json::{Map, Value, json};

/// Rewrites a schema in place, as far as ours go: `const`, null as a type, and schemas that are true or false.
pub(super) fn to_3_0(schema: &mut Value) {
    match schema {
        Value::Bool(true) => *schema = json!({}),
        Value::Bool(false) => *schema = json!({ "not": {} }),
        Value::Object(members) => {
            if let Some(only) = members.remove("const") {
                members.insert("enum".to_owned(), json!([only]));
            }
            drop_null(members);
            for word in ["allOf", "anyOf", "oneOf"] {
                let items = members.get_mut(word).and_then(Value::as_array_mut);
                items.into_iter().flatten().for_each(to_3_0);
            }
            for word in ["items", "not", "additionalProperties"] {
                // `false` is one of the values that it may have there.
                if let Some(inner) = members.get_mut(word).filter(|inner| inner.is_object()) {
                    to_3_0(inner);
                }
            }
            if let Some(Value::Object(properties)) = members.get_mut("properties") {
                properties.values_mut().for_each(to_3_0);
            }
        }
        _ => {}
    }
}

/// Null is no type there; a schema is `nullable`.
fn drop_null(members: &mut Map<String, Value>) {
    let null = json!({ "type": "null" });
    if members.get("type") == Some(&json!("null")) {
        members.remove("type");
        members.insert("enum".to_owned(), json!([Value::Null]));
        members.insert("nullable".to_owned(), json!(true));
        return;
    }
    let Some(Value::Array(items)) = members.get_mut("anyOf") else { return };
    let before = items.len();
    items.retain(|item| *item != null);
    if items.len() == before {
        return;
    }
    // Beside a type, `nullable` means what it says.
    if items.len() == 1
        && let Some(Value::Object(only)) = items.pop()
    {
        members.remove("anyOf");
        if only.contains_key("type") {
            members.extend(only);
        } else {
            members.insert("allOf".to_owned(), json!([only]));
        }
    }
    members.insert("nullable".to_owned(), json!(true));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_3_0_does_not_know_is_said_in_its_words() {
        for (mut written, due) in [
            (json!({"const": 404}), json!({"enum": [404]})),
            (
                json!({"anyOf": [{"type": "string"}, {"type": "null"}]}),
                json!({"type": "string", "nullable": true}),
            ),
            (
                json!({"anyOf": [{"$ref": "#/x"}, {"type": "null"}]}),
                json!({"allOf": [{"$ref": "#/x"}], "nullable": true}),
            ),
            (
                json!({"properties": {"a": false, "b": true}, "additionalProperties": false}),
                json!({"properties": {"a": {"not": {}}, "b": {}}, "additionalProperties": false}),
            ),
        ] {
            to_3_0(&mut written);
            assert_eq!(written, due);
        }
    }
}
