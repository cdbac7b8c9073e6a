//! A schema with what its references lead to in their places, as far as that is small: for making values up.
//!
//! It says less than the schema does, so what is made up from it has to be held against the schema itself.

use serde_json::{Map, Value};

use super::documents::{DocumentId, DocumentSet};
use faithful_clerk_model::json::pointer::{join, join_index};

/// Schemas within schemas end somewhere.
const DEEPEST: usize = 6;

/// So many schemas are spelled out for one body.
const MOST: usize = 300;

/// What is kept of a schema as it is.
const WORDS: [&str; 18] = [
    "type",
    "enum",
    "const",
    "required",
    "minLength",
    "maxLength",
    "pattern",
    "format",
    "minimum",
    "maximum",
    "exclusiveMinimum",
    "exclusiveMaximum",
    "multipleOf",
    "minItems",
    "maxItems",
    "example",
    "default",
    "additionalProperties",
];

impl DocumentSet {
    /// The schema at a place, spelled out.
    pub(super) fn spelled(&self, id: DocumentId, location: &str) -> Value {
        self.spell(id, location, DEEPEST, &mut { MOST })
    }

    fn spell(&self, id: DocumentId, location: &str, depth: usize, left: &mut usize) -> Value {
        let (Some(less), Some(fewer)) = (depth.checked_sub(1), left.checked_sub(1)) else {
            return Value::Bool(true);
        };
        *left = fewer;
        let Ok((id, location, Value::Object(schema))) = self.follow(id, location) else {
            return Value::Bool(true);
        };
        let mut spelled = Map::new();
        for (word, value) in schema {
            let at = join(&location, word);
            let value = match (word.as_str(), value) {
                ("properties", Value::Object(members)) => members
                    .keys()
                    .map(|name| (name.clone(), self.spell(id, &join(&at, name), less, left)))
                    .collect(),
                ("items", Value::Object(_)) => self.spell(id, &at, less, left),
                ("allOf" | "anyOf" | "oneOf", Value::Array(items)) => (0..items.len())
                    .map(|index| self.spell(id, &join_index(&at, index), less, left))
                    .collect(),
                (word, value) if WORDS.contains(&word) && !value.is_object() => value.clone(),
                _ => continue,
            };
            spelled.insert(word.clone(), value);
        }
        Value::Object(spelled)
    }
}
