//! The rules for a request's body.

use serde_json::Value;

use faithful_clerk_schema::CompiledSchema;
use faithful_clerk_shape::{Mismatch, Shape, ShapeTable, compare};

/// The rules for a request's body: the contract's own, a schema's, or both.
#[derive(Debug, Clone, Default)]
pub struct BodyRules {
    /// The contract's own members.
    pub fields: Option<Shape>,
    /// A JSON Schema.
    pub schema: Option<CompiledSchema>,
    /// Has a body to be there?
    pub required: BodyPresence,
    /// The members of the whole, as far as they are known; none: nobody knows them all.
    pub members: Option<Vec<String>>,
}

/// Has a body to be there?
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum BodyPresence {
    /// It may be missing.
    #[default]
    No,
    /// It has to be there.
    Yes,
}

impl BodyRules {
    /// Every place at which a body breaks the rules, each once.
    #[must_use]
    pub fn mismatches(&self, body: &Value, shapes: &ShapeTable) -> Vec<Mismatch> {
        let own = self.fields.as_ref().map(|fields| compare(body, fields, shapes));
        let mut found = own.unwrap_or_default();
        for mismatch in self.schema.iter().flat_map(|schema| schema.mismatches(body)) {
            if !found.iter().any(|known| known.pointer == mismatch.pointer) {
                found.push(mismatch);
            }
        }
        found
    }

    /// Is there a rule for a member of that name?
    #[must_use]
    pub fn knows(&self, name: &str) -> bool {
        self.fields.as_ref().is_some_and(|fields| fields.member(name).is_some())
            || self.members.as_ref().is_some_and(|names| names.iter().any(|known| known == name))
    }
}
