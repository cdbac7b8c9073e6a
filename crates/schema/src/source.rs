//! What a schema is compiled from.

use std::sync::Arc;

use serde_json::Value;

use super::bundle::Bundle;
use super::documents::{DocumentId, DocumentSet};
use super::one_way::Direction;
use super::rules::FormatMode;
use super::validator::SchemaValidator;

/// A schema by its place, for bodies that go one way.
pub(super) struct SchemaSource {
    pub(super) documents: Arc<DocumentSet>,
    pub(super) id: DocumentId,
    pub(super) location: String,
    pub(super) direction: Direction,
    pub(super) formats: FormatMode,
}

impl SchemaSource {
    /// # Errors
    /// Why it does not compile.
    pub(super) fn compile(&self) -> Result<SchemaValidator, String> {
        let Self { documents, id, location, direction, formats } = self;
        SchemaValidator::compile(Bundle::gather(documents, *id, location, *direction)?, *formats)
    }

    /// The same spelled out, for making values up.
    pub(super) fn spelled(&self) -> Value {
        self.documents.spelled(self.id, &self.location, self.direction)
    }
}
