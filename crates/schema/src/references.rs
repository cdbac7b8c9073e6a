//! References between schemas: where they stand, and whether they end anywhere.

use serde_json::{Map, Value};

use faithful_clerk_model::json::pointer::{JsonPath, join, join_index};

/// Members whose values are data and not schemas.
const DATA: [&str; 6] = ["example", "examples", "enum", "const", "default", "x-example"];

/// Members that hold schemas by name: a member called `$ref` in one is a name.
const NAMED: [&str; 6] =
    ["properties", "patternProperties", "dependentSchemas", "$defs", "definitions", "schemas"];

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

/// Calls `visit` with every object that may be a schema.
pub(super) fn look<'v>(value: &'v Value, visit: &mut dyn FnMut(&'v Map<String, Value>)) {
    match value {
        Value::Array(items) => items.iter().for_each(|item| look(item, visit)),
        Value::Object(members) => {
            visit(members);
            for (name, member) in members.iter().filter(|(name, _)| !is_data(name)) {
                match member {
                    Value::Object(named) if NAMED.contains(&name.as_str()) => {
                        named.values().for_each(|member| look(member, visit));
                    }
                    member => look(member, visit),
                }
            }
        }
        _ => {}
    }
}

fn is_data(name: &str) -> bool {
    DATA.contains(&name)
}

/// The schemas that check the same value as this one, beside where its `$ref` leads.
pub(super) fn in_place<'v>(schema: &'v Value, location: &str) -> Vec<(&'v Value, String)> {
    let Value::Object(members) = schema else { return Vec::new() };
    let mut found = Vec::new();
    for (name, member) in members {
        let location = join(location, name);
        match (name.as_str(), member) {
            ("allOf" | "anyOf" | "oneOf", Value::Array(items)) => {
                let items = items.iter().enumerate();
                found.extend(items.map(|(index, item)| (item, join_index(&location, index))));
            }
            ("not" | "if" | "then" | "else", member) => found.push((member, location)),
            ("dependentSchemas", Value::Object(named)) => {
                found.extend(named.iter().map(|(name, member)| (member, join(&location, name))));
            }
            _ => {}
        }
    }
    found
}
