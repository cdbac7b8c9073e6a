//! The contract language as a JSON Schema, and what it says of each key.

use serde_json::Value;

/// The JSON Schema (2020-12) of a contract, for editors: every key with its description, values and default.
pub const CONTRACT_SCHEMA: &str = include_str!("../contract.schema.json");

/// What is said of a key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyDescription {
    /// Where it stands, such as `fault.NAME.when`.
    pub path: String,
    /// What it is.
    pub description: String,
    /// The values that it can have, where they are listed.
    pub values: Vec<String>,
    /// Its default, where it has one.
    pub default: Option<String>,
}

/// Every key of the contract language, in the order of the schema; one that stands in several tables comes several times.
#[must_use]
pub fn key_descriptions() -> Vec<KeyDescription> {
    let schema: Value = serde_json::from_str(CONTRACT_SCHEMA).unwrap_or_default();
    let mut keys = Vec::new();
    walk(&schema, &schema, "", &mut keys);
    keys
}

/// Tables stand no deeper.
const MOST_LEVELS: usize = 5;

fn walk(schema: &Value, at: &Value, path: &str, keys: &mut Vec<KeyDescription>) {
    if path.split('.').count() > MOST_LEVELS {
        return;
    }
    let resolved = |value: &Value| -> Value {
        match value.get("$ref").and_then(Value::as_str).and_then(|text| text.strip_prefix('#')) {
            Some(pointer) => schema.pointer(pointer).cloned().unwrap_or_default(),
            None => value.clone(),
        }
    };
    let below =
        |name: &str| if path.is_empty() { name.to_owned() } else { format!("{path}.{name}") };
    for (name, key) in at.get("properties").and_then(Value::as_object).into_iter().flatten() {
        let of = resolved(key);
        let values = of.get("enum").and_then(Value::as_array).into_iter().flatten();
        keys.push(KeyDescription {
            path: below(name),
            description: key
                .get("description")
                .and_then(Value::as_str)
                .unwrap_or_default()
                .to_owned(),
            values: values.map(shown).collect(),
            default: key.get("default").map(shown),
        });
        walk(schema, &of, &below(name), keys);
    }
    for one in at.get("oneOf").and_then(Value::as_array).into_iter().flatten() {
        // A definition that a name stands for is walked once; below that it would come again and again.
        let is_ring = one.get("$ref").is_some() && path.matches("NAME").count() != 1;
        if !is_ring {
            walk(schema, &resolved(one), path, keys);
        }
    }
    // What has a name of its own, and what stands in an array.
    for (key, name) in [("additionalProperties", "NAME"), ("items", "")] {
        let Some(inner) = at.get(key).filter(|inner| inner.is_object()) else { continue };
        let is_ring = inner.get("$ref").is_some() && path.contains("NAME");
        if !is_ring {
            let path = if name.is_empty() { path.to_owned() } else { below(name) };
            walk(schema, &resolved(inner), &path, keys);
        }
    }
}

fn shown(value: &Value) -> String {
    value.as_str().map_or_else(|| value.to_string(), |text| format!("\"{text}\""))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::contract_keys;

    #[test]
    fn every_key_has_a_description() {
        let keys = key_descriptions();
        for key in contract_keys() {
            let is_it = |described: &&KeyDescription| {
                described.path.rsplit('.').next() == Some(key) && !described.description.is_empty()
            };
            assert!(keys.iter().any(|described| is_it(&described)), "{key}");
        }
        let when = keys.iter().find(|key| key.path == "fault.NAME.when").unwrap();
        assert!(when.description.starts_with("The situations"), "{when:?}");
    }
}
