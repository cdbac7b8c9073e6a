//! The schemas in a schema.

use serde_json::{Map, Value};

use faithful_clerk_model::json::pointer::JsonPath;

/// Members whose values are data and not schemas.
const DATA: [&str; 7] =
    ["example", "examples", "enum", "const", "default", "dependentRequired", "x-example"];

/// Members that hold schemas by name: a member called `$ref` in one is a name.
const NAMED: [&str; 7] = [
    "properties",
    "patternProperties",
    "dependentSchemas",
    "dependencies",
    "$defs",
    "definitions",
    "schemas",
];

/// Calls `visit` with every object that may be a schema, and its place, so that it can be changed.
pub(super) fn change(
    value: &mut Value,
    path: &JsonPath<'_>,
    visit: &mut dyn FnMut(&mut Map<String, Value>, &JsonPath<'_>),
) {
    match value {
        Value::Array(items) => {
            for (index, item) in items.iter_mut().enumerate() {
                change(item, &JsonPath::Item(path, index), visit);
            }
        }
        Value::Object(members) => {
            visit(members, path);
            for (name, member) in members.iter_mut().filter(|(name, _)| !is_data(name)) {
                let path = JsonPath::Member(path, name);
                match member {
                    Value::Object(named) if NAMED.contains(&name.as_str()) => {
                        for (name, member) in named {
                            change(member, &JsonPath::Member(&path, name), visit);
                        }
                    }
                    member => change(member, &path, visit),
                }
            }
        }
        _ => {}
    }
}

/// Calls `visit` with every object that may be a schema, and its place.
pub(super) fn look<'v>(
    value: &'v Value,
    path: &JsonPath<'_>,
    visit: &mut dyn FnMut(&'v Map<String, Value>, &JsonPath<'_>),
) {
    match value {
        Value::Array(items) => {
            for (index, item) in items.iter().enumerate() {
                look(item, &JsonPath::Item(path, index), visit);
            }
        }
        Value::Object(members) => {
            visit(members, path);
            for (name, member) in members.iter().filter(|(name, _)| !is_data(name)) {
                let path = JsonPath::Member(path, name);
                match member {
                    Value::Object(named) if NAMED.contains(&name.as_str()) => {
                        for (name, member) in named {
                            look(member, &JsonPath::Member(&path, name), visit);
                        }
                    }
                    member => look(member, &path, visit),
                }
            }
        }
        _ => {}
    }
}

fn is_data(name: &str) -> bool {
    DATA.contains(&name)
}

/// The schemas that check the same value as this one, beside where its references lead.
pub(super) fn in_place(schema: &Map<String, Value>) -> Vec<&Map<String, Value>> {
    let mut found = Vec::new();
    for (name, member) in schema {
        match (name.as_str(), member) {
            ("allOf" | "anyOf" | "oneOf", Value::Array(items)) => {
                found.extend(items.iter().filter_map(Value::as_object));
            }
            ("not" | "if" | "then" | "else", Value::Object(member)) => found.push(member),
            ("dependentSchemas", Value::Object(named)) => {
                found.extend(named.values().filter_map(Value::as_object));
            }
            _ => {}
        }
    }
    found
}
