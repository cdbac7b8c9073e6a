//! A compiled schema, and the invalid locations that it finds.

use std::fmt;
use std::sync::Arc;

use serde_json::Value;

use faithful_clerk_shape::Mismatch;

use super::validator::SchemaValidator;

/// A compiled JSON Schema.
#[derive(Clone)]
pub struct CompiledSchema {
    validator: Arc<SchemaValidator>,
    /// The same spelled out, for making values up.
    spelled: Arc<Value>,
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
    pub(super) fn new(validator: SchemaValidator, spelled: Value) -> Self {
        Self { validator: Arc::new(validator), spelled: Arc::new(spelled) }
    }

    /// The same, spelled out as far as it is small; it says less than the schema does.
    #[must_use]
    pub fn spelled(&self) -> &Value {
        &self.spelled
    }

    /// Does the value fit?
    #[must_use]
    pub fn admits(&self, value: &Value) -> bool {
        self.validator.is_valid(value)
    }

    /// Every location at which the value breaks the schema, each once for each way of breaking it.
    #[must_use]
    pub fn mismatches(&self, value: &Value) -> Vec<Mismatch> {
        self.validator.mismatches(value)
    }
}
