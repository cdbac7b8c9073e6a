//! What a schema is compiled from.

use std::sync::{Arc, OnceLock};

use serde_json::{Value, json};

use super::documents::{DocumentId, DocumentSet, uri};
use super::rules::FormatMode;
use super::validator::{SchemaRegistry, SchemaValidator};

/// Documents, made ready for schemas when the first is compiled.
#[derive(Debug)]
pub(super) struct LazyRegistry {
    documents: Arc<DocumentSet>,
    ready: OnceLock<Result<SchemaRegistry, String>>,
}

impl LazyRegistry {
    pub(super) fn of(documents: Arc<DocumentSet>) -> Self {
        Self { documents, ready: OnceLock::new() }
    }

    fn get(&self) -> Result<&SchemaRegistry, String> {
        let prepare = || {
            let documents = self.documents.documents.iter().enumerate().map(|(at, document)| {
                let (path, value) = (document.path.as_str(), &*document.value);
                (uri(DocumentId(at)), path, value, document.dialect)
            });
            SchemaRegistry::prepare(documents)
        };
        self.ready.get_or_init(prepare).as_ref().map_err(String::clone)
    }
}

/// A schema by its place.
pub(super) struct SchemaSource {
    pub(super) registry: Arc<LazyRegistry>,
    pub(super) id: DocumentId,
    pub(super) location: String,
    pub(super) formats: FormatMode,
}

impl SchemaSource {
    /// # Errors
    /// Why it does not compile.
    pub(super) fn compile(&self) -> Result<SchemaValidator, String> {
        let Self { registry, id, location, formats } = self;
        registry.documents.check_references(*id, location)?;
        let document = registry.documents.document(*id).ok_or("no such document")?;
        let fragment: String = url::form_urlencoded::byte_serialize(location.as_bytes()).collect();
        let fragment = fragment.replace('+', "%20").replace("%2F", "/");
        let reference = json!({ "$ref": format!("{}#{fragment}", uri(*id)) });
        let base = format!("{}-root", uri(*id));
        registry.get()?.compile(&reference, document.dialect, base, *formats)
    }

    /// The same spelled out, for making values up.
    pub(super) fn spelled(&self) -> Value {
        self.registry.documents.spelled(self.id, &self.location)
    }
}
