//! The documents that schemas stand in, as they were read: what a reference leads to.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde_json::{Map, Value};

use super::files::join;
use super::schema_dialect::SchemaDialect;
use faithful_clerk_model::json::pointer::{from_tokens, resolve, tokens};

/// The position of a document in a library.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct DocumentId(pub(super) usize);

/// A document that was loaded.
#[derive(Debug, Clone)]
pub struct Document {
    /// Its path as seen from the contract's folder.
    pub path: String,
    pub value: Arc<Value>,
    pub(super) dialect: SchemaDialect,
}

/// Documents, by path and by where they say that they are at home on the web.
#[derive(Debug, Clone, Default)]
pub struct DocumentSet {
    pub(super) documents: Vec<Document>,
    pub(super) by_path: BTreeMap<String, DocumentId>,
    pub(super) by_id: BTreeMap<String, (DocumentId, String)>,
    /// The places of schemas that are known by a name of their own (JSON Schema 2020-12 section 8.2.2).
    pub(super) anchors: BTreeMap<(DocumentId, String), String>,
}

/// References in a row end somewhere.
const MOST_IN_A_ROW: usize = 32;

/// Words that refer to a schema. The dynamic ones are taken for where they lead from where they stand.
pub(super) const REFERENCES: [&str; 3] = ["$ref", "$dynamicRef", "$recursiveRef"];

impl DocumentSet {
    /// A document.
    #[must_use]
    pub fn document(&self, id: DocumentId) -> Option<&Document> {
        self.documents.get(id.0)
    }

    /// What a document is called in messages.
    pub(super) fn path(&self, id: DocumentId) -> &str {
        self.document(id).map_or("", |document| document.path.as_str())
    }

    /// Where a reference in a document leads. What is there is another question.
    ///
    /// # Errors
    /// Why it can't be followed.
    pub(super) fn locate(
        &self,
        id: DocumentId,
        reference: &str,
    ) -> Result<(DocumentId, String), String> {
        let (file, fragment) = reference.split_once('#').unwrap_or((reference, ""));
        let by_path = || Some((*self.by_path.get(&join(self.path(id), file))?, String::new()));
        let (id, base) = match file {
            "" => (id, String::new()),
            file => match self.by_id.get(file).cloned().or_else(by_path) {
                Some(found) => found,
                None => return Err(unknown(reference)),
            },
        };
        if let Some(steps) = tokens(&format!("#{fragment}")) {
            return Ok((id, format!("{base}{}", from_tokens(&steps))));
        }
        let anchor = self.anchors.get(&(id, fragment.to_owned())).cloned();
        let message = || {
            format!("`$ref` to {reference}: the fragment is neither a JSON Pointer nor an anchor")
        };
        anchor.map(|location| (id, location)).ok_or_else(message)
    }

    /// Follows the references of an object, for reading descriptions: its value, and where it stands.
    ///
    /// # Errors
    /// Which reference resolves to nothing, or in a ring.
    pub fn follow(
        &self,
        id: DocumentId,
        location: &str,
    ) -> Result<(DocumentId, String, &Value), String> {
        let (mut id, mut location) = (id, location.to_owned());
        for _ in 0..MOST_IN_A_ROW {
            let value = self.at(id, &location)?;
            let Some(reference) = value.get("$ref").and_then(Value::as_str) else {
                return Ok((id, location, value));
            };
            (id, location) = self.locate(id, reference)?;
        }
        Err(self.ring(id, &location))
    }

    /// What a schema's own reference leads to, through however many; none where it has none, or it leads nowhere.
    pub(super) fn behind(&self, id: DocumentId, schema: &Value) -> Option<(DocumentId, &Value)> {
        let reference = schema.get("$ref")?.as_str()?;
        let (id, location) = self.locate(id, reference).ok()?;
        let (id, _, value) = self.follow(id, &location).ok()?;
        Some((id, value))
    }

    pub(super) fn at(&self, id: DocumentId, location: &str) -> Result<&Value, String> {
        let document = self.document(id).ok_or("no such document")?;
        let steps = tokens(location).unwrap_or_default();
        resolve(&document.value, &steps)
            .ok_or_else(|| format!("`$ref` to {}#{location} resolves to nothing", document.path))
    }

    /// What is said of a schema that refers back to itself for the same value.
    pub(super) fn ring(&self, id: DocumentId, location: &str) -> String {
        format!("`$ref` in {}#{location} refers back to itself", self.path(id))
    }
}

/// The references of one schema.
pub(super) fn references(
    schema: &Map<String, Value>,
) -> impl Iterator<Item = (&'static str, &str)> {
    REFERENCES.into_iter().filter_map(|word| Some((word, schema.get(word)?.as_str()?)))
}

/// Is a reference to JSON Schema itself, which a validator knows?
pub(super) fn is_of_json_schema(reference: &str) -> bool {
    reference.starts_with("http://json-schema.org/")
        || reference.starts_with("https://json-schema.org/")
}

fn unknown(reference: &str) -> String {
    let reason = match reference.split_once("://") {
        Some(_) => "nothing is fetched, name a file instead",
        None => "no such file can be read",
    };
    format!("`$ref` to {reference}: {reason}")
}
