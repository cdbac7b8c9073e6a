//! A schema with what its references lead to in their places, as far as that is small: for making values up.
//!
//! It says less than the schema does, so what is made up from it has to be held against the schema itself.

use serde_json::{Map, Value};

use super::dialect::modernise;
use super::documents::{DocumentId, DocumentSet};
use super::one_way::Direction;
use super::schema_dialect::SchemaDialect;
use faithful_clerk_model::json::pointer::{join, join_index};

/// Schemas within schemas end somewhere.
const DEEPEST: usize = 6;

/// So many schemas are spelled out for one body.
const MOST: usize = 300;

/// What is kept of a schema as it is.
const WORDS: [&str; 20] = [
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
    "uniqueItems",
    "example",
    "examples",
    "default",
    "additionalProperties",
];

/// A schema that is being spelled out, for bodies that go one way.
struct Speller<'d> {
    documents: &'d DocumentSet,
    direction: Direction,
    /// How many schemas more.
    left: usize,
}

impl DocumentSet {
    /// The schema at a place, spelled out.
    pub(super) fn spelled(&self, id: DocumentId, location: &str, direction: Direction) -> Value {
        Speller { documents: self, direction, left: MOST }.spell(id, location, DEEPEST)
    }
}

impl Speller<'_> {
    fn spell(&mut self, id: DocumentId, location: &str, depth: usize) -> Value {
        let (Some(less), Some(fewer)) = (depth.checked_sub(1), self.left.checked_sub(1)) else {
            return Value::Bool(true);
        };
        self.left = fewer;
        let Ok((id, location, Value::Object(schema))) = self.documents.follow(id, location) else {
            return Value::Bool(true);
        };
        let dialect = self.documents.document(id).map(|document| document.dialect);
        let mut schema = schema.clone();
        if dialect == Some(SchemaDialect::OpenApi30) && !is_combined(&schema) {
            modernise(&mut schema);
        }
        if dialect.is_some_and(SchemaDialect::is_of_description) {
            self.direction.drop_other_way(self.documents, id, &mut schema);
        }
        let mut spelled = Map::new();
        for (word, value) in schema {
            let at = join(&location, &word);
            let value = match (word.as_str(), value) {
                ("properties", Value::Object(members)) => members
                    .into_iter()
                    .map(|(name, _)| {
                        let value = self.spell(id, &join(&at, &name), less);
                        (name, value)
                    })
                    .collect(),
                ("items" | "additionalProperties", Value::Object(_)) => self.spell(id, &at, less),
                ("allOf" | "anyOf" | "oneOf", Value::Array(items)) => (0..items.len())
                    .map(|index| self.spell(id, &join_index(&at, index), less))
                    .collect(),
                ("example" | "default" | "const", value) => value,
                (word, value) if WORDS.contains(&word) && !value.is_object() => value,
                _ => continue,
            };
            spelled.insert(word, value);
        }
        Value::Object(spelled)
    }
}

fn is_combined(schema: &Map<String, Value>) -> bool {
    ["allOf", "anyOf", "oneOf", "not"].iter().any(|word| schema.contains_key(*word))
}
