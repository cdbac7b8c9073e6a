//! Stands in for the validator where JSON Schema is not built in: no schema compiles, and that is said.

use serde_json::Value;

use faithful_clerk_shape::Mismatch;

pub(super) use self::{AbsentRegistry as SchemaRegistry, AbsentValidator as SchemaValidator};
use super::rules::FormatMode;
pub(super) use super::schema_dialect::SchemaDialect;

#[derive(Debug)]
pub(super) struct AbsentRegistry;

impl AbsentRegistry {
    pub(super) fn prepare<'d>(
        _: impl Iterator<Item = (String, &'d str, &'d Value, SchemaDialect)>,
    ) -> Result<Self, String> {
        Ok(Self)
    }

    pub(super) fn compile(
        &self,
        _: &Value,
        _: SchemaDialect,
        _: String,
        _: FormatMode,
    ) -> Result<AbsentValidator, String> {
        Err("this program was built without JSON Schema".to_owned())
    }
}

/// No schema compiles, so there is none.
pub(super) enum AbsentValidator {}

impl AbsentValidator {
    pub(super) fn is_valid(&self, _: &Value) -> bool {
        match *self {}
    }

    pub(super) fn mismatches(&self, _: &Value) -> Vec<Mismatch> {
        match *self {}
    }
}
