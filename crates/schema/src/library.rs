//! The documents that a contract's schemas stand in, all of them loaded before anything is checked.

use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

use serde_json::Value;

use super::dialect::{drop_one_way_members, modernise};
use super::files::{FileLoader, join};
use super::references::{in_place, walk};
use super::rules::{CompiledSchema, FormatMode};
use super::source::SchemaSource;
use super::validator::{SchemaDialect, SchemaRegistry};
use super::yaml;
use faithful_clerk_model::json::pointer::{resolve, tokens};

/// A file beyond this is no description.
const LARGEST: usize = 64 << 20;

/// Files that refer to files end somewhere.
const MOST_DOCUMENTS: usize = 1000;

/// The position of a document in a [`SchemaLibrary`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct DocumentId(usize);

/// A document that was loaded.
#[derive(Debug)]
pub struct Document {
    /// Its path as seen from the contract's folder.
    pub path: String,
    pub value: Value,
    dialect: SchemaDialect,
}

/// The documents of a contract.
#[derive(Debug)]
pub struct SchemaLibrary<'f> {
    files: &'f dyn FileLoader,
    documents: Vec<Document>,
    by_path: BTreeMap<String, DocumentId>,
    /// Where the documents say that they are at home on the web.
    by_id: BTreeMap<String, (DocumentId, String)>,
    registry: Option<Arc<SchemaRegistry>>,
    /// Places whose references lead somewhere, and to no ring.
    followed: HashSet<(usize, String)>,
    pub formats: FormatMode,
}

impl<'f> SchemaLibrary<'f> {
    pub fn new(files: &'f dyn FileLoader) -> Self {
        Self {
            files,
            documents: Vec::new(),
            by_path: BTreeMap::new(),
            by_id: BTreeMap::new(),
            registry: None,
            followed: HashSet::new(),
            formats: FormatMode::default(),
        }
    }

    /// The text of a document, for the lines in it.
    pub fn text(&self, path: &str) -> Option<String> {
        String::from_utf8(self.files.read(path).ok()?).ok()
    }

    pub fn document(&self, id: DocumentId) -> Option<&Document> {
        self.documents.get(id.0)
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
        while let Some(document) = self.documents.get(next) {
            for path in others(&document.value, &document.path) {
                if self.documents.len() < MOST_DOCUMENTS {
                    let _ = self.open(&path);
                }
            }
            next += 1;
        }
        for at in first.0..self.documents.len() {
            self.settle(DocumentId(at));
        }
        self.registry = None;
        self.followed.clear();
        Ok(first)
    }

    fn open(&mut self, path: &str) -> Result<DocumentId, String> {
        let path = join("", path);
        if let Some(known) = self.by_path.get(&path) {
            return Ok(*known);
        }
        let bytes = self.files.read(&path).map_err(|reason| format!("{path}: {reason}"))?;
        if bytes.len() > LARGEST {
            return Err(format!("{path}: it is larger than {} MB", LARGEST >> 20));
        }
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
        let id = DocumentId(self.documents.len());
        // An id in a schema would be another base for its references than the file is.
        let mut ids = Vec::new();
        walk(&mut value, "", &mut |schema, location| {
            if let Some(Value::String(name)) = schema.remove("$id") {
                ids.push((name, location.to_owned()));
            }
        });
        for (name, location) in ids {
            self.by_id.entry(name).or_insert((id, location));
        }
        self.by_path.insert(path.clone(), id);
        self.documents.push(Document { path, value, dialect });
        Ok(id)
    }

    /// Writes every reference to another document as the registry knows it.
    fn settle(&mut self, id: DocumentId) {
        let Some(document) = self.documents.get_mut(id.0) else { return };
        let (mut value, path) = (std::mem::take(&mut document.value), document.path.clone());
        walk(&mut value, "", &mut |schema, _| {
            if let Some(Value::String(reference)) = schema.get_mut("$ref")
                && let Some((target, fragment)) = self.target(id, &path, reference)
                && target != id
            {
                *reference = format!("{}#{fragment}", uri(target));
            }
        });
        if let Some(document) = self.documents.get_mut(id.0) {
            document.value = value;
        }
    }

    /// The document and the fragment that a reference means.
    fn target(&self, id: DocumentId, path: &str, reference: &str) -> Option<(DocumentId, String)> {
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
    pub fn follow(
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

    fn at(&self, id: DocumentId, location: &str) -> Result<&Value, String> {
        let document = self.document(id).ok_or("no such document")?;
        let steps = tokens(location).unwrap_or_default();
        resolve(&document.value, &steps)
            .ok_or_else(|| format!("`$ref` to {}#{location} resolves to nothing", document.path))
    }

    /// Compiles the schema at a place.
    ///
    /// # Errors
    /// Why it does not compile.
    pub fn schema(&mut self, id: DocumentId, location: &str) -> Result<CompiledSchema, String> {
        let source = self.source(id, location)?;
        CompiledSchema::now(source, self.spelled(id, location)).map_err(|error| plain(&error))
    }

    /// The schema at a place, compiled when it is first asked; of no use for making values up.
    ///
    /// # Errors
    /// Which of its references can't be followed.
    pub fn schema_for_later(
        &mut self,
        id: DocumentId,
        location: &str,
    ) -> Result<CompiledSchema, String> {
        self.source(id, location).map(CompiledSchema::later)
    }

    fn source(&mut self, id: DocumentId, location: &str) -> Result<SchemaSource, String> {
        self.check_references(id, location)?;
        let registry = self.registry()?;
        let document = self.document(id).ok_or("no such document")?;
        let fragment: String = url::form_urlencoded::byte_serialize(location.as_bytes()).collect();
        let fragment = fragment.replace('+', "%20").replace("%2F", "/");
        let reference = serde_json::json!({ "$ref": format!("{}#{fragment}", uri(id)) });
        let (dialect, base) = (document.dialect, format!("{}-root", uri(id)));
        Ok(SchemaSource { registry, reference, dialect, base, formats: self.formats })
    }

    fn registry(&mut self) -> Result<Arc<SchemaRegistry>, String> {
        if let Some(registry) = &self.registry {
            return Ok(Arc::clone(registry));
        }
        let documents = self.documents.iter().enumerate().map(|(at, document)| {
            (uri(DocumentId(at)), document.path.as_str(), &document.value, document.dialect)
        });
        let registry = Arc::new(SchemaRegistry::prepare(documents)?);
        self.registry = Some(Arc::clone(&registry));
        Ok(registry)
    }

    /// Goes over every reference that the schema can lead to: each has to lead somewhere, and none may
    /// come back to itself for the same value, as checking would then never end.
    fn check_references(&mut self, id: DocumentId, location: &str) -> Result<(), String> {
        // What was found right for another schema need not be looked at again.
        let mut seen = std::mem::take(&mut self.followed);
        let checked = self.check_references_beside(id, location, &mut seen);
        if checked.is_ok() {
            self.followed = seen;
        }
        checked
    }

    fn check_references_beside(
        &self,
        id: DocumentId,
        location: &str,
        seen: &mut HashSet<(usize, String)>,
    ) -> Result<(), String> {
        let mut rings = HashSet::new();
        let mut open = vec![(id, location.to_owned())];
        while let Some((id, location)) = open.pop() {
            if !seen.insert((id.0, location.clone())) {
                continue;
            }
            self.check_ring(id, &location, &mut Vec::new(), &mut rings)?;
            let mut value = self.at(id, &location)?.clone();
            let path = self.document(id).map_or("", |document| document.path.as_str());
            let mut wrong = None;
            walk(&mut value, "", &mut |schema, _| {
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

const URI: &str = "document:///";

fn uri(id: DocumentId) -> String {
    format!("{URI}{}", id.0)
}

fn unknown(reference: &str) -> String {
    let reason = match reference.split_once("://") {
        Some(_) => "nothing is fetched, name a file instead",
        None => "no such file can be read",
    };
    format!("`$ref` to {reference}: {reason}")
}

/// The files that a document refers to, by path.
fn others(value: &Value, path: &str) -> Vec<String> {
    let mut found = Vec::new();
    walk(&mut value.clone(), "", &mut |schema, _| {
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
