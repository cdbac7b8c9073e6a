//! References between schemas: where they stand, and whether they end anywhere.

use serde_json::{Map, Value};

use faithful_clerk_model::json::pointer::{join, join_index};

/// Members whose values are data and not schemas.
const DATA: [&str; 6] = ["example", "examples", "enum", "const", "default", "x-example"];

/// Members that hold schemas by name: a member called `$ref` in one is a name.
const NAMED: [&str; 6] =
    ["properties", "patternProperties", "dependentSchemas", "$defs", "definitions", "schemas"];

/// Calls `visit` with every object that may be a schema, and its place.
pub(super) fn walk(
    value: &mut Value,
    location: &str,
    visit: &mut dyn FnMut(&mut Map<String, Value>, &str),
) {
    match value {
        Value::Array(items) => {
            for (index, item) in items.iter_mut().enumerate() {
                walk(item, &join_index(location, index), visit);
            }
        }
        Value::Object(members) => {
            visit(members, location);
            for (name, member) in members.iter_mut().filter(|(name, _)| !is_data(name)) {
                let location = join(location, name);
                match member {
                    Value::Object(named) if NAMED.contains(&name.as_str()) => {
                        for (name, member) in named {
                            walk(member, &join(&location, name), visit);
                        }
                    }
                    member => walk(member, &location, visit),
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
