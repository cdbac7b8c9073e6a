//! What a schema is compiled from.

use std::sync::Arc;

use serde_json::Value;

use super::rules::FormatMode;
use super::validator::{SchemaDialect, SchemaRegistry, SchemaValidator};

/// A schema by its place, in documents that are ready.
pub(super) struct SchemaSource {
    pub(super) registry: Arc<SchemaRegistry>,
    /// `$ref` to its place.
    pub(super) reference: Value,
    pub(super) dialect: SchemaDialect,
    pub(super) base: String,
    pub(super) formats: FormatMode,
}

impl SchemaSource {
    /// # Errors
    /// Why it does not compile.
    pub(super) fn compile(&self) -> Result<SchemaValidator, String> {
        let Self { registry, reference, dialect, base, formats } = self;
        registry.compile(reference, *dialect, base.clone(), *formats)
    }
}
