//! The components that a description needs for the contract's faults: schemas of shapes, and responses.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::{Map, Value, json};

use super::openapi_3_0::to_3_0;
use super::schema::{component_name, components, response};
use crate::draft::sample_response;
use faithful_clerk_contract::{ErrorContract, FaultId, RegionId};

/// A response by what it is for.
type ResponseKey = (u16, Vec<FaultId>, Option<RegionId>);

/// So many faults are named in a response's name.
const MOST_NAMED: usize = 3;

/// Components that are there, and those that are needed.
pub(super) struct ComponentLibrary<'c> {
    contract: &'c ErrorContract,
    is_3_0: bool,
    /// The schemas that are there already, by name.
    there: Map<String, Value>,
    /// The responses that are.
    there_responses: Map<String, Value>,
    /// The schemas of all shapes, under their names here.
    schemas: Map<String, Value>,
    /// The names of schemas here, by their names in the contract.
    names: BTreeMap<String, String>,
    responses: BTreeMap<ResponseKey, String>,
    new_responses: Map<String, Value>,
    /// What was written outside of components.
    inline: Vec<Value>,
}

const SCHEMAS: &str = "#/components/schemas/";
const RESPONSES: &str = "#/components/responses/";

impl<'c> ComponentLibrary<'c> {
    pub(super) fn of(contract: &'c ErrorContract, root: &Value) -> Self {
        let version = root.get("openapi").and_then(Value::as_str).unwrap_or_default();
        let of = |kind: &str| {
            let there = root.get("components").and_then(|all| all.get(kind)?.as_object());
            there.cloned().unwrap_or_default()
        };
        let mut library = Self {
            contract,
            is_3_0: version.starts_with("3.0"),
            there: of("schemas"),
            there_responses: of("responses"),
            schemas: Map::new(),
            names: BTreeMap::new(),
            responses: BTreeMap::new(),
            new_responses: Map::new(),
            inline: Vec::new(),
        };
        let generated = components(contract);
        let generated = generated.pointer("/components/schemas").and_then(Value::as_object);
        let all: Vec<(String, Value)> = generated
            .into_iter()
            .flatten()
            .map(|(name, schema)| (name.clone(), schema.clone()))
            .collect();
        library.name_schemas(&all);
        library
    }

    /// Names the schemas, and writes them with their names here. A name that is taken by another schema changes those that
    /// refer to it, whose names may then be taken, too.
    fn name_schemas(&mut self, all: &[(String, Value)]) {
        // Each round but the last gives another name to one at least, and none gets its first name back.
        for _ in 0..=all.len() + 1 {
            let before = self.names.clone();
            self.schemas.clear();
            for (name, schema) in all {
                let mut schema = schema.clone();
                self.adapt(&mut schema);
                self.rename(&mut schema);
                let is_taken =
                    |here: &str| self.there.get(here).is_some_and(|known| *known != schema);
                let here = free_name(name, is_taken);
                self.schemas.insert(here.clone(), schema);
                self.names.insert(name.clone(), here);
            }
            if self.names == before {
                return;
            }
        }
    }

    /// A reference to the response for a status, which is made if it is new.
    pub(super) fn response(
        &mut self,
        status: u16,
        ids: &[FaultId],
        region: Option<RegionId>,
    ) -> Value {
        let key = (status, ids.to_vec(), region);
        if let Some(name) = self.responses.get(&key) {
            return json!({ "$ref": format!("{RESPONSES}{name}") });
        }
        let response = self.whole(status, ids, region);
        let faults: Vec<&str> = ids
            .iter()
            .filter_map(|id| self.contract.fault(*id))
            .map(|fault| fault.name.as_str())
            .collect();
        let name = match faults.len() {
            0..=MOST_NAMED => faults.join("-or-"),
            _ => format!("errors-{status}"),
        };
        let name = component_name(&name);
        let name = free_name(&name, |here| {
            self.new_responses.contains_key(here)
                || self.there_responses.get(here).is_some_and(|known| *known != response)
        });
        if !self.there_responses.contains_key(&name) {
            self.new_responses.insert(name.clone(), response);
        }
        let reference = json!({ "$ref": format!("{RESPONSES}{name}") });
        self.responses.insert(key, name);
        reference
    }

    /// The bodies of the response for a status, by media type; none where the contract says nothing of them.
    pub(super) fn content(
        &self,
        status: u16,
        ids: &[FaultId],
        region: Option<RegionId>,
    ) -> Option<Value> {
        self.whole(status, ids, region).get("content").cloned()
    }

    /// Something of ours is written outside of components, whose schemas have to be there.
    pub(super) fn uses(&mut self, content: &Value) {
        self.inline.push(content.clone());
    }

    /// What is to be added to `components`.
    pub(super) fn into_new_components(self) -> Map<String, Value> {
        let mut found = BTreeSet::new();
        for value in self.new_responses.values().chain(&self.inline) {
            self.reach(value, &mut found);
        }
        let is_new = |name: &String| !self.there.contains_key(name);
        let schemas: Map<String, Value> = found
            .into_iter()
            .filter(is_new)
            .filter_map(|name| Some((name.clone(), self.schemas.get(&name)?.clone())))
            .collect();
        let mut components = Map::new();
        for (kind, new) in [("responses", self.new_responses), ("schemas", schemas)] {
            if !new.is_empty() {
                components.insert(kind.to_owned(), Value::Object(new));
            }
        }
        components
    }

    /// The schemas that a value refers to, and those that they do.
    fn reach(&self, value: &Value, found: &mut BTreeSet<String>) {
        match value {
            Value::Array(items) => items.iter().for_each(|item| self.reach(item, found)),
            Value::Object(members) => {
                let reference = members.get("$ref").and_then(Value::as_str);
                if let Some(name) = reference.and_then(|text| text.strip_prefix(SCHEMAS))
                    && found.insert(name.to_owned())
                    && let Some(schema) = self.schemas.get(name)
                {
                    self.reach(schema, found);
                }
                members.values().for_each(|member| self.reach(member, found));
            }
            _ => {}
        }
    }

    fn whole(&self, status: u16, ids: &[FaultId], region: Option<RegionId>) -> Value {
        let mut descriptions: Vec<String> = Vec::new();
        let mut headers = Map::new();
        let mut content: BTreeMap<String, (Vec<Value>, Map<String, Value>)> = BTreeMap::new();
        for fault in ids.iter().filter_map(|id| self.contract.fault(*id)) {
            let one = response(self.contract, fault, status, region, SCHEMAS);
            let description = one.get("description").and_then(Value::as_str).unwrap_or_default();
            descriptions.push(description.to_owned());
            headers
                .extend(one.get("headers").and_then(Value::as_object).cloned().unwrap_or_default());
            for (media, body) in one.get("content").and_then(Value::as_object).into_iter().flatten()
            {
                let (schemas, examples) = content.entry(media.clone()).or_default();
                let schema = body.get("schema").cloned().unwrap_or_else(|| json!({}));
                if !schemas.contains(&schema) {
                    schemas.push(schema);
                }
                // An example is of the fault's first status.
                let example = sample_response(self.contract, fault, region).body;
                if let Some(example) = example.filter(|_| fault.status == status) {
                    examples.insert(component_name(&fault.name), json!({ "value": example }));
                }
            }
        }
        descriptions.dedup();
        let mut whole = json!({ "description": descriptions.join("; or ") });
        if !headers.is_empty() {
            whole["headers"] = Value::Object(headers);
        }
        let mut bodies = Map::new();
        for (media, (mut schemas, examples)) in content {
            let mut schema = match schemas.len() {
                1 => schemas.remove(0),
                _ => json!({ "anyOf": schemas }),
            };
            self.adapt(&mut schema);
            self.rename(&mut schema);
            let mut body = json!({ "schema": schema });
            if !examples.is_empty() {
                body["examples"] = Value::Object(examples);
            }
            bodies.insert(media, body);
        }
        if !bodies.is_empty() {
            whole["content"] = Value::Object(bodies);
        }
        whole
    }

    /// Puts a schema into the dialect of the description.
    fn adapt(&self, schema: &mut Value) {
        if self.is_3_0 {
            to_3_0(schema);
        }
    }

    /// Writes the references of a schema with the names that are here.
    fn rename(&self, value: &mut Value) {
        match value {
            Value::Array(items) => items.iter_mut().for_each(|item| self.rename(item)),
            Value::Object(members) => {
                if let Some(Value::String(reference)) = members.get_mut("$ref")
                    && let Some(here) =
                        reference.strip_prefix(SCHEMAS).and_then(|name| self.names.get(name))
                {
                    *reference = format!("{SCHEMAS}{here}");
                }
                members.values_mut().for_each(|member| self.rename(member));
            }
            _ => {}
        }
    }
}

/// A name for a component: its own where that is not taken by another, else one like it.
fn free_name(name: &str, is_taken: impl Fn(&str) -> bool) -> String {
    let more = (1..).map(|number| match number {
        1 => format!("{name}-agreed"),
        number => format!("{name}-agreed-{number}"),
    });
    let mut names = std::iter::once(name.to_owned()).chain(more);
    names.find(|name| !is_taken(name)).unwrap_or_default()
}
