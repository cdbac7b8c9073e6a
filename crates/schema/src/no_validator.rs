//! Stands in for the validator where JSON Schema is not built in: no schema compiles, and that is said.

use serde_json::Value;

use faithful_clerk_shape::Mismatch;

pub(super) use self::AbsentValidator as SchemaValidator;
use super::bundle::Bundle;
use super::rules::FormatMode;

/// No schema compiles, so there is none.
pub(super) enum AbsentValidator {}

impl AbsentValidator {
    pub(super) fn compile(_: Bundle, _: FormatMode) -> Result<Self, String> {
        Err("this program was built without JSON Schema".to_owned())
    }

    pub(super) fn is_valid(&self, _: &Value) -> bool {
        match *self {}
    }

    pub(super) fn mismatches(&self, _: &Value) -> Vec<Mismatch> {
        match *self {}
    }
}
