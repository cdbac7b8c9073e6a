//! The documents that a contract's schemas stand in, all of them loaded before anything is checked.

use std::sync::Arc;

use serde_json::Value;

use super::dialect::{drop_one_way_members, modernise};
use super::documents::{Document, DocumentId, DocumentSet, URI, uri};
use super::files::{FileLoader, join};
use super::references::{change, look};
use super::rules::{CompiledSchema, FormatMode};
use super::source::{LazyRegistry, SchemaSource};
use super::validator::SchemaDialect;
use super::yaml;
use faithful_clerk_model::json::pointer::JsonPath;

/// A file beyond this is no description.
const LARGEST: usize = 64 << 20;

/// In documents of more bytes than this, schemas are compiled when they are first asked.
const LARGE: usize = 1 << 20;

/// Files that refer to files end somewhere.
const MOST_DOCUMENTS: usize = 1000;

/// The documents of a contract.
#[derive(Debug)]
pub struct SchemaLibrary<'f> {
    files: &'f dyn FileLoader,
    set: Arc<DocumentSet>,
    /// What schemas are compiled from, made when the first is.
    registry: Option<Arc<LazyRegistry>>,
    /// Are the documents so large that schemas are only compiled when they are asked?
    is_large: bool,
    pub formats: FormatMode,
}

impl<'f> SchemaLibrary<'f> {
    pub fn new(files: &'f dyn FileLoader) -> Self {
        Self {
            files,
            set: Arc::default(),
            registry: None,
            is_large: false,
            formats: FormatMode::default(),
        }
    }

    /// The text of a document, for the lines in it.
    pub fn text(&self, path: &str) -> Option<String> {
        String::from_utf8(self.files.read(path).ok()?).ok()
    }

    pub fn document(&self, id: DocumentId) -> Option<&Document> {
        self.set.document(id)
    }

    /// Loads a document and everything that it refers to.
    ///
    /// References that lead nowhere are left as they are; what needs them does not compile, and says so.
    ///
    /// # Errors
    /// Why the document can't be read, with its path.
    pub fn load(&mut self, path: &str) -> Result<DocumentId, String> {
        let first = self.open(path)?;
        let mut next = first.0;
        while let Some(document) = self.set.documents.get(next) {
            for path in others(&document.value, &document.path) {
                if self.set.documents.len() < MOST_DOCUMENTS {
                    let _ = self.open(&path);
                }
            }
            next += 1;
        }
        for at in first.0..self.set.documents.len() {
            self.settle(DocumentId(at));
        }
        self.registry = None;
        Ok(first)
    }

    fn open(&mut self, path: &str) -> Result<DocumentId, String> {
        let path = join("", path);
        if let Some(known) = self.set.by_path.get(&path) {
            return Ok(*known);
        }
        let bytes = self.files.read(&path).map_err(|reason| format!("{path}: {reason}"))?;
        if bytes.len() > LARGEST {
            return Err(format!("{path}: it is larger than {} MB", LARGEST >> 20));
        }
        self.is_large |= bytes.len() > LARGE;
        let mut value = parse(&bytes).map_err(|reason| format!("{path}: {reason}"))?;
        let version = value.get("openapi").and_then(Value::as_str).map(str::to_owned);
        if version.is_some() {
            drop_one_way_members(&mut value);
        }
        let dialect = match version {
            Some(version) if version.starts_with("3.0") => {
                modernise(&mut value);
                SchemaDialect::Draft7
            }
            Some(_) => SchemaDialect::Draft202012,
            None => dialect_of(&value),
        };
        let set = Arc::make_mut(&mut self.set);
        let id = DocumentId(set.documents.len());
        // An id in a schema would be another base for its references than the file is.
        let mut ids = Vec::new();
        change(&mut value, &JsonPath::Top, &mut |schema, path| {
            if let Some(Value::String(name)) = schema.remove("$id") {
                ids.push((name, path.pointer()));
            }
        });
        for (name, location) in ids {
            set.by_id.entry(name).or_insert((id, location));
        }
        set.by_path.insert(path.clone(), id);
        set.documents.push(Document { path, value: Arc::new(value), dialect });
        Ok(id)
    }

    /// Writes every reference to another document as the registry knows it.
    fn settle(&mut self, id: DocumentId) {
        let Some(document) = self.set.document(id) else { return };
        let leads_elsewhere = |reference: &str| {
            let target = self.set.target(id, &document.path, reference);
            target.filter(|(target, _)| *target != id)
        };
        let mut is_alone = true;
        look(&document.value, &mut |schema| {
            let reference = schema.get("$ref").and_then(Value::as_str);
            is_alone &= reference.is_none_or(|reference| leads_elsewhere(reference).is_none());
        });
        if is_alone {
            return;
        }
        let mut value = Value::clone(&document.value);
        change(&mut value, &JsonPath::Top, &mut |schema, _| {
            if let Some(Value::String(reference)) = schema.get_mut("$ref")
                && let Some((target, fragment)) = leads_elsewhere(reference)
            {
                *reference = format!("{}#{fragment}", uri(target));
            }
        });
        if let Some(document) = Arc::make_mut(&mut self.set).documents.get_mut(id.0) {
            document.value = Arc::new(value);
        }
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
        self.set.follow(id, location)
    }

    /// The schema at a place: compiled at once, or in large documents when it is first asked.
    ///
    /// # Errors
    /// Why it does not compile.
    pub fn schema(&mut self, id: DocumentId, location: &str) -> Result<CompiledSchema, String> {
        match self.is_large {
            true => self.schema_for_later(id, location),
            false => CompiledSchema::now(self.source(id, location)).map_err(|error| plain(&error)),
        }
    }

    /// The schema at a place, compiled when it is first asked.
    ///
    /// # Errors
    /// Why there is none.
    pub fn schema_for_later(
        &mut self,
        id: DocumentId,
        location: &str,
    ) -> Result<CompiledSchema, String> {
        self.set.at(id, location)?;
        Ok(CompiledSchema::later(self.source(id, location)))
    }

    fn source(&mut self, id: DocumentId, location: &str) -> SchemaSource {
        let documents = Arc::clone(&self.set);
        let registry = self.registry.get_or_insert_with(|| Arc::new(LazyRegistry::of(documents)));
        let (registry, location) = (Arc::clone(registry), location.to_owned());
        SchemaSource { registry, id, location, formats: self.formats }
    }
}

/// The files that a document refers to, by path.
fn others(value: &Value, path: &str) -> Vec<String> {
    let mut found = Vec::new();
    look(value, &mut |schema| {
        if let Some(Value::String(reference)) = schema.get("$ref") {
            let file = reference.split('#').next().unwrap_or_default();
            if !file.is_empty() && !file.contains(':') {
                found.push(join(path, file));
            }
        }
    });
    found.sort();
    found.dedup();
    found
}

/// JSON where it is JSON, else YAML.
fn parse(bytes: &[u8]) -> Result<Value, String> {
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let text = std::str::from_utf8(bytes)
        .map_err(|error| format!("it is not UTF-8 at byte {}", error.valid_up_to()))?;
    if text.trim_start().starts_with(['{', '[']) {
        match serde_json::from_str(text) {
            Ok(value) => return Ok(value),
            // YAML's own flow style looks like JSON, and is none.
            Err(error) => return yaml::read(text).map_err(|_| error.to_string()),
        }
    }
    yaml::read(text)
}

/// The dialect that a schema says it is written in; the newest where it does not say.
fn dialect_of(value: &Value) -> SchemaDialect {
    let said = value.get("$schema").and_then(Value::as_str).unwrap_or_default();
    match said.trim_end_matches('#') {
        "http://json-schema.org/draft-04/schema" => SchemaDialect::Draft4,
        "http://json-schema.org/draft-06/schema" => SchemaDialect::Draft6,
        "http://json-schema.org/draft-07/schema" => SchemaDialect::Draft7,
        "https://json-schema.org/draft/2019-09/schema" => SchemaDialect::Draft201909,
        _ => SchemaDialect::Draft202012,
    }
}

/// The validator's words, without the addresses that are ours.
fn plain(message: &str) -> String {
    let short: String = message.replace(URI, "").chars().take(200).collect();
    short
}
