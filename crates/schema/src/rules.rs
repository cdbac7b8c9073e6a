//! A compiled schema, and the invalid locations that it finds.

use std::fmt;
use std::sync::{Arc, OnceLock};

use serde_json::Value;

use faithful_clerk_shape::Mismatch;

use super::source::SchemaSource;
use super::validator::SchemaValidator;

/// A JSON Schema, compiled at once or when it is first asked.
#[derive(Clone)]
pub struct CompiledSchema {
    validator: Arc<LazyValidator>,
}

/// A validator that need not be there yet.
struct LazyValidator {
    source: SchemaSource,
    /// None where it does not compile.
    compiled: OnceLock<Option<SchemaValidator>>,
    /// The same spelled out, for making values up.
    spelled: OnceLock<Value>,
}

impl LazyValidator {
    fn get(&self) -> Option<&SchemaValidator> {
        self.compiled.get_or_init(|| self.source.compile().ok()).as_ref()
    }
}

/// Are formats such as `date` rules, or only notes?
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum FormatMode {
    /// A value has to have its format.
    #[default]
    Assertion,
    /// Formats are passed over.
    Annotation,
}

impl fmt::Debug for CompiledSchema {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("Schema")
    }
}

impl CompiledSchema {
    /// Compiles it now.
    ///
    /// # Errors
    /// Why it does not compile.
    pub(super) fn now(source: SchemaSource) -> Result<Self, String> {
        let compiled = OnceLock::from(Some(source.compile()?));
        let validator = LazyValidator { source, compiled, spelled: OnceLock::new() };
        Ok(Self { validator: Arc::new(validator) })
    }

    /// Compiles it when it is first asked.
    pub(super) fn later(source: SchemaSource) -> Self {
        let (compiled, spelled) = Default::default();
        Self { validator: Arc::new(LazyValidator { source, compiled, spelled }) }
    }

    /// Can it be asked: does it compile?
    #[must_use]
    pub fn is_usable(&self) -> bool {
        self.validator.get().is_some()
    }

    /// The same, spelled out as far as it is small; it says less than the schema does.
    #[must_use]
    pub fn spelled(&self) -> &Value {
        self.validator.spelled.get_or_init(|| self.validator.source.spelled())
    }

    /// Does the value fit? Anything fits a schema that does not compile.
    #[must_use]
    pub fn admits(&self, value: &Value) -> bool {
        self.validator.get().is_none_or(|validator| validator.is_valid(value))
    }

    /// Every location at which the value breaks the schema, each once for each way of breaking it.
    #[must_use]
    pub fn mismatches(&self, value: &Value) -> Vec<Mismatch> {
        self.validator.get().map(|validator| validator.mismatches(value)).unwrap_or_default()
    }
}
