//! The documents that a contract's schemas stand in, all of them loaded before anything is checked.

use std::sync::Arc;

use serde_json::Value;

use super::bundle::plain;
use super::documents::{Document, DocumentId, DocumentSet, REFERENCES};
use super::files::{FileLoader, join};
use super::one_way::Direction;
use super::references::look;
use super::rules::{CompiledSchema, FormatMode};
use super::schema_dialect::SchemaDialect;
use super::source::SchemaSource;
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
    /// Are the documents so large that schemas are only compiled when they are asked?
    is_large: bool,
    pub formats: FormatMode,
}

impl<'f> SchemaLibrary<'f> {
    pub fn new(files: &'f dyn FileLoader) -> Self {
        Self { files, set: Arc::default(), is_large: false, formats: FormatMode::default() }
    }

    /// The text of a document, for the lines in it.
    pub fn text(&self, path: &str) -> Option<String> {
        String::from_utf8(self.files.read(path).ok()?).ok()
    }

    /// The documents as far as they are loaded.
    pub fn documents(&self) -> Arc<DocumentSet> {
        Arc::clone(&self.set)
    }

    /// Loads a document and everything that it refers to.
    ///
    /// References that lead nowhere are left as they are; what needs them does not compile, and says so.
    ///
    /// # Errors
    /// Why the document can't be read, with its path.
    pub fn load(&mut self, path: &str) -> Result<DocumentId, String> {
        let (first, files) = self.open(path, None)?;
        let mut open = vec![(first, files)];
        while let Some((from, files)) = open.pop() {
            let dialect = self.set.document(from).map(|document| document.dialect);
            for path in files {
                if self.set.documents.len() < MOST_DOCUMENTS {
                    open.extend(self.open(&path, dialect));
                }
            }
        }
        Ok(first)
    }

    /// Loads one document: its id, and the files that it refers to. A file that a description refers to is written in the
    /// description's dialect, unless it says another.
    fn open(
        &mut self,
        path: &str,
        from: Option<SchemaDialect>,
    ) -> Result<(DocumentId, Vec<String>), String> {
        let path = join("", path);
        if let Some(known) = self.set.by_path.get(&path) {
            return Ok((*known, Vec::new()));
        }
        let bytes = self.files.read(&path).map_err(|reason| format!("{path}: {reason}"))?;
        if bytes.len() > LARGEST {
            return Err(format!("{path}: it is larger than {} MB", LARGEST >> 20));
        }
        self.is_large |= bytes.len() > LARGE;
        let value = parse_document(&bytes).map_err(|reason| format!("{path}: {reason}"))?;
        let dialect = match value.get("openapi").and_then(Value::as_str) {
            Some(version) if version.starts_with("3.0") => SchemaDialect::OpenApi30,
            Some(_) => SchemaDialect::OpenApi31,
            None => match from.filter(|from| from.is_of_description()) {
                Some(from) if value.get("$schema").is_none() => from,
                _ => dialect_of(&value),
            },
        };
        let set = Arc::make_mut(&mut self.set);
        let id = DocumentId(set.documents.len());
        let mut others = Vec::new();
        look(&value, &JsonPath::Top, &mut |schema, path_of| {
            for (word, value) in schema.iter().filter(|(word, _)| word.starts_with('$')) {
                let Some(text) = value.as_str() else { continue };
                match word.as_str() {
                    "$id" => {
                        let name = text.trim_end_matches('#').to_owned();
                        set.by_id.entry(name).or_insert_with(|| (id, path_of.pointer()));
                    }
                    "$anchor" | "$dynamicAnchor" => {
                        let name = (id, text.to_owned());
                        set.anchors.entry(name).or_insert_with(|| path_of.pointer());
                    }
                    word if REFERENCES.contains(&word) => others.extend(file(text, &path)),
                    _ => {}
                }
            }
        });
        others.sort();
        others.dedup();
        set.by_path.insert(path.clone(), id);
        set.documents.push(Document { path, value: Arc::new(value), dialect });
        Ok((id, others))
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
    pub fn schema(
        &self,
        id: DocumentId,
        location: &str,
        direction: Direction,
    ) -> Result<CompiledSchema, String> {
        match self.is_large {
            true => self.schema_for_later(id, location, direction),
            false => CompiledSchema::now(self.source(id, location, direction))
                .map_err(|error| plain(&error)),
        }
    }

    /// The schema at a place, compiled when it is first asked.
    ///
    /// # Errors
    /// Why there is none.
    pub fn schema_for_later(
        &self,
        id: DocumentId,
        location: &str,
        direction: Direction,
    ) -> Result<CompiledSchema, String> {
        self.set.at(id, location)?;
        Ok(CompiledSchema::later(self.source(id, location, direction)))
    }

    fn source(&self, id: DocumentId, location: &str, direction: Direction) -> SchemaSource {
        let (documents, location) = (self.documents(), location.to_owned());
        SchemaSource { documents, id, location, direction, formats: self.formats }
    }
}

/// The file that a reference in another file means, if it means one.
fn file(reference: &str, from: &str) -> Option<String> {
    let file = reference.split('#').next().filter(|file| !file.is_empty() && !file.contains(':'));
    file.map(|file| join(from, file))
}

/// Reads a document: JSON where it is JSON, else YAML.
///
/// # Errors
/// What is wrong with it, and where.
pub fn parse_document(bytes: &[u8]) -> Result<Value, String> {
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
