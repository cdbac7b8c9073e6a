//! The documents that schemas stand in, once they are loaded: what a reference leads to.

use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

use serde_json::Value;

use super::files::join;
use super::references::{in_place, look};
use super::validator::SchemaDialect;
use faithful_clerk_model::json::pointer::{resolve, tokens};

/// The position of a document in a library.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
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
pub(super) struct DocumentSet {
    pub(super) documents: Vec<Document>,
    pub(super) by_path: BTreeMap<String, DocumentId>,
    pub(super) by_id: BTreeMap<String, (DocumentId, String)>,
}

impl DocumentSet {
    pub(super) fn document(&self, id: DocumentId) -> Option<&Document> {
        self.documents.get(id.0)
    }

    /// The document and the fragment that a reference means.
    pub(super) fn target(
        &self,
        id: DocumentId,
        path: &str,
        reference: &str,
    ) -> Option<(DocumentId, String)> {
        let (file, fragment) = reference.split_once('#').unwrap_or((reference, ""));
        if file.is_empty() {
            return Some((id, fragment.to_owned()));
        }
        if let Some(known) = file.strip_prefix(URI) {
            return Some((DocumentId(known.parse().ok()?), fragment.to_owned()));
        }
        if let Some((document, location)) = self.by_id.get(file) {
            return Some((*document, format!("{location}{fragment}")));
        }
        self.by_path.get(&join(path, file)).map(|document| (*document, fragment.to_owned()))
    }

    /// Follows the references of an object, for reading descriptions: its value, and where it stands.
    ///
    /// # Errors
    /// Which reference resolves to nothing, or in a ring.
    pub(super) fn follow(
        &self,
        id: DocumentId,
        location: &str,
    ) -> Result<(DocumentId, String, &Value), String> {
        let (mut id, mut location) = (id, location.to_owned());
        for _ in 0..32 {
            let value = self.at(id, &location)?;
            let Some(reference) = value.get("$ref").and_then(Value::as_str) else {
                return Ok((id, location, value));
            };
            let path = self.document(id).map_or("", |document| document.path.as_str());
            let (next, fragment) =
                self.target(id, path, reference).ok_or_else(|| unknown(reference))?;
            let steps = tokens(&format!("#{fragment}")).ok_or_else(|| {
                format!("`$ref` to {reference}: the fragment is not a JSON Pointer")
            })?;
            (id, location) = (next, faithful_clerk_model::json::pointer::from_tokens(&steps));
        }
        let path = self.document(id).map_or("", |document| document.path.as_str());
        Err(format!("`$ref` in {path}#{location} refers back to itself"))
    }

    pub(super) fn at(&self, id: DocumentId, location: &str) -> Result<&Value, String> {
        let document = self.document(id).ok_or("no such document")?;
        let steps = tokens(location).unwrap_or_default();
        resolve(&document.value, &steps)
            .ok_or_else(|| format!("`$ref` to {}#{location} resolves to nothing", document.path))
    }

    /// Goes over every reference that the schema can lead to: each has to lead somewhere, and none may
    /// come back to itself for the same value, as checking would then never end.
    pub(super) fn check_references(&self, id: DocumentId, location: &str) -> Result<(), String> {
        let mut seen = HashSet::new();
        let mut rings = HashSet::new();
        let mut open = vec![(id, location.to_owned())];
        while let Some((id, location)) = open.pop() {
            if !seen.insert((id.0, location.clone())) {
                continue;
            }
            self.check_ring(id, &location, &mut Vec::new(), &mut rings)?;
            let value = self.at(id, &location)?;
            let path = self.document(id).map_or("", |document| document.path.as_str());
            let mut wrong = None;
            look(value, &mut |schema| {
                let Some(Value::String(reference)) = schema.get("$ref") else { return };
                match self.place_of(id, path, reference) {
                    Ok(Some(target)) => open.push(target),
                    Ok(None) => {}
                    Err(reason) => wrong = wrong.take().or(Some(reason)),
                }
            });
            if let Some(reason) = wrong {
                return Err(reason);
            }
        }
        Ok(())
    }

    /// Where a reference leads; nothing where it is by an anchor, which the validator looks up.
    fn place_of(
        &self,
        id: DocumentId,
        path: &str,
        reference: &str,
    ) -> Result<Option<(DocumentId, String)>, String> {
        if reference.starts_with("http://") || reference.starts_with("https://") {
            if reference.starts_with("http://json-schema.org/")
                || reference.starts_with("https://json-schema.org/")
            {
                return Ok(None);
            }
            return Err(unknown(reference));
        }
        let (target, fragment) =
            self.target(id, path, reference).ok_or_else(|| unknown(reference))?;
        let Some(steps) = tokens(&format!("#{fragment}")) else { return Ok(None) };
        let location = faithful_clerk_model::json::pointer::from_tokens(&steps);
        self.at(target, &location)?;
        Ok(Some((target, location)))
    }

    fn check_ring(
        &self,
        id: DocumentId,
        location: &str,
        way: &mut Vec<(DocumentId, String)>,
        checked: &mut HashSet<(usize, String)>,
    ) -> Result<(), String> {
        let here = (id, location.to_owned());
        if way.contains(&here) {
            let path = self.document(id).map_or("", |document| document.path.as_str());
            return Err(format!("`$ref` in {path}#{location} refers back to itself"));
        }
        if way.len() > 200 || !checked.insert((id.0, location.to_owned())) {
            return Ok(());
        }
        way.push(here);
        let value = self.at(id, location)?;
        let path = self.document(id).map_or("", |document| document.path.as_str());
        if let Some(reference) = value.get("$ref").and_then(Value::as_str)
            && let Some((next, location)) = self.place_of(id, path, reference)?
        {
            // Only what is on the way now makes a ring, so it must not count as checked.
            checked.remove(&(next.0, location.clone()));
            self.check_ring(next, &location, way, checked)?;
        }
        for (_, location) in in_place(value, location) {
            self.check_ring(id, &location, way, checked)?;
        }
        way.pop();
        Ok(())
    }
}

pub(super) const URI: &str = "document:///";

pub(super) fn uri(id: DocumentId) -> String {
    format!("{URI}{}", id.0)
}

fn unknown(reference: &str) -> String {
    let reason = match reference.split_once("://") {
        Some(_) => "nothing is fetched, name a file instead",
        None => "no such file can be read",
    };
    format!("`$ref` to {reference}: {reason}")
}
