//! Members that are only read or only written (OpenAPI 3.0.3 section 4.7.24.2; in 3.1 JSON Schema's own annotations).

use serde_json::{Map, Value, json};

use super::documents::{DocumentId, DocumentSet};

/// Which way a body goes that a schema is held against.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Direction {
    /// It is sent to the service.
    Request,
    /// It comes from the service.
    Response,
}

/// `allOf` in `allOf` ends somewhere.
const DEEPEST: usize = 4;

impl Direction {
    /// What marks a member that does not go this way.
    fn mark(self) -> &'static str {
        match self {
            Self::Request => "readOnly",
            Self::Response => "writeOnly",
        }
    }

    /// Takes what does not go this way out of what a schema requires. In a response, it must not be there either; a
    /// request that has it is only told nothing by it.
    pub(super) fn narrow(
        self,
        documents: &DocumentSet,
        id: DocumentId,
        schema: &mut Map<String, Value>,
    ) {
        let names = self.not_required(documents, id, schema);
        if self == Self::Response
            && let Some(Value::Object(properties)) = schema.get_mut("properties")
        {
            let marked = properties.iter_mut().filter(|(name, _)| names.contains(name));
            marked.for_each(|(_, property)| *property = json!({ "not": write_only() }));
        }
    }

    /// The same for making values up, which leave such members out.
    pub(super) fn drop_other_way(
        self,
        documents: &DocumentSet,
        id: DocumentId,
        schema: &mut Map<String, Value>,
    ) {
        let names = self.not_required(documents, id, schema);
        if let Some(Value::Object(properties)) = schema.get_mut("properties") {
            properties.retain(|name, _| !names.contains(name));
        }
    }

    /// The members that do not go this way, which are no longer required.
    fn not_required(
        self,
        documents: &DocumentSet,
        id: DocumentId,
        schema: &mut Map<String, Value>,
    ) -> Vec<String> {
        let names = self.other_way(documents, id, schema, DEEPEST);
        if names.is_empty() {
            return names;
        }
        let is_due =
            |name: &Value| name.as_str().is_none_or(|name| !names.iter().any(|n| n == name));
        if let Some(Value::Array(required)) = schema.get_mut("required") {
            required.retain(is_due);
        }
        let items = schema.get_mut("allOf").and_then(Value::as_array_mut);
        for item in items.into_iter().flatten() {
            if let Some(Value::Array(required)) = item.get_mut("required") {
                required.retain(is_due);
            }
        }
        names
    }

    /// The members that do not go this way, those of `allOf` among them.
    fn other_way(
        self,
        documents: &DocumentSet,
        id: DocumentId,
        schema: &Map<String, Value>,
        depth: usize,
    ) -> Vec<String> {
        let is_marked = |property: &Value| property.get(self.mark()) == Some(&Value::Bool(true));
        let mut names = Vec::new();
        for (name, property) in
            schema.get("properties").and_then(Value::as_object).into_iter().flatten()
        {
            let target = || documents.behind(id, property).map(|(_, value)| is_marked(value));
            if is_marked(property) || target() == Some(true) {
                names.push(name.clone());
            }
        }
        let Some(less) = depth.checked_sub(1) else { return names };
        for item in schema.get("allOf").and_then(Value::as_array).into_iter().flatten() {
            let (id, item) = documents.behind(id, item).unwrap_or((id, item));
            if let Value::Object(item) = item {
                names.extend(self.other_way(documents, id, item, less));
            }
        }
        names
    }
}

/// What a member that is only written fails to be in a response.
pub(super) fn write_only() -> Value {
    json!({ "writeOnly": true })
}
