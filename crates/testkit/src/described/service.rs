//! The service, and its description.

use serde_json::{Map, Value, json};

use super::exchanges::DescribedExchange;
use super::members::{self, MadeMember};
use crate::chance::Chance;

/// A made-up description.
#[derive(Debug, Clone, Copy)]
pub struct DescribedService {
    /// So many operations, in steps of five.
    pub operations: usize,
    /// What makes it another one.
    pub seed: u64,
    /// In which version of OpenAPI it is written.
    pub version: DescribedVersion,
    /// How many members each thing has beside a few, and
    pub members: usize,
    /// how many words stand beside each member, for descriptions of some size.
    pub description_words: usize,
}

/// A version of OpenAPI.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DescribedVersion {
    /// 3.0.3, with its own dialect of JSON Schema.
    V30,
    /// 3.1.0.
    V31,
}

/// A kind of thing that the service has.
pub(super) struct Resource {
    pub(super) number: usize,
    pub(super) members: Vec<(String, MadeMember)>,
    /// Is it one of two variants, which a member tells apart? Then these are the members of the second.
    pub(super) other: Option<Vec<(String, MadeMember)>>,
    /// The errors that its operations document.
    pub(super) errors: DocumentedErrors,
}

/// What an operation documents of errors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct DocumentedErrors {
    pub(super) statuses: Vec<u16>,
    pub(super) range: bool,
    pub(super) default: bool,
}

pub(super) const STATUSES: [u16; 5] = [400, 401, 404, 409, 422];
pub(super) const HOST: &str = "https://quays.example/v3";
pub(super) const JSON: &str = "application/json";
pub(super) const PROBLEM: &str = "application/problem+json";
pub(super) const KINDS: [&str; 2] = ["near", "far"];
const SCHEMAS: &str = "#/components/schemas/";

impl DescribedService {
    /// One of 1,200 operations, whose description has 13 MB in lines.
    #[must_use]
    pub fn large() -> Self {
        let version = DescribedVersion::V31;
        Self { operations: 1200, seed: 13, version, members: 155, description_words: 24 }
    }

    fn resources(&self) -> Vec<Resource> {
        let mut chance = Chance::new(self.seed);
        (0..self.operations.div_ceil(5))
            .map(|number| Resource::new(number, self.members, &mut chance))
            .collect()
    }

    /// The description as a value; the same for the same seed.
    #[must_use]
    pub fn description(&self) -> Value {
        let is_new = self.version == DescribedVersion::V31;
        let (mut paths, mut schemas) = (Map::new(), Map::new());
        for resource in self.resources() {
            resource.describe(is_new, self.description_words, &mut paths, &mut schemas);
        }
        for number in 0..members::PARTS {
            schemas.insert(format!("Part{number}"), members::part_schema(number, is_new));
        }
        let texts = json!({"title": {"type": "string"}, "status": {"type": "integer"}});
        let problem =
            json!({"type": "object", "required": ["title", "status"], "properties": texts});
        schemas.insert("Problem".to_owned(), problem);
        let content = json!({PROBLEM: {"schema": {"$ref": format!("{SCHEMAS}Problem")}}});
        json!({
            "openapi": if is_new { "3.1.0" } else { "3.0.3" },
            "info": {"title": "Quays", "version": "3"},
            "servers": [{"url": HOST}],
            "paths": paths,
            "components": {
                "schemas": schemas,
                "responses": {"Refused": {"description": "refused", "content": content}},
            },
        })
    }

    /// Exchanges with every operation, each with what is true of it by the description.
    #[must_use]
    pub fn exchanges(&self) -> Vec<DescribedExchange> {
        let mut chance = Chance::new(!self.seed);
        self.resources().iter().flat_map(|resource| resource.exchanges(&mut chance)).collect()
    }
}

impl Resource {
    fn new(number: usize, more: usize, chance: &mut Chance) -> Self {
        let members = MadeMember::some(more, chance);
        let other = (number % 4 == 1).then(|| MadeMember::some(more, chance));
        let statuses = STATUSES.into_iter().filter(|_| chance.below(2) == 0).collect();
        let (range, default) = (chance.below(4) == 0, chance.below(4) == 0);
        let mut errors = DocumentedErrors { statuses, range, default };
        if number % 7 == 3 {
            errors = DocumentedErrors { statuses: Vec::new(), range: false, default: false };
        }
        Self { number, members, other, errors }
    }

    fn name(&self) -> String {
        format!("Thing{}", self.number)
    }

    /// The path of all of them.
    pub(super) fn path(&self) -> String {
        format!("/things{}", self.number)
    }

    fn describe(
        &self,
        is_new: bool,
        description_words: usize,
        paths: &mut Map<String, Value>,
        schemas: &mut Map<String, Value>,
    ) {
        let name = self.name();
        let schema = |members: &[(String, MadeMember)], kind: Option<&str>| {
            members::object_schema(members, kind, is_new, description_words)
        };
        match &self.other {
            None => _ = schemas.insert(name.clone(), schema(&self.members, None)),
            Some(other) => {
                let variants = [&self.members, other].into_iter().zip(KINDS);
                let mut mapping = Map::new();
                for (members, kind) in variants {
                    let variant = format!("{name}-{kind}");
                    mapping.insert(kind.to_owned(), json!(format!("{SCHEMAS}{variant}")));
                    schemas.insert(variant, schema(members, Some(kind)));
                }
                let each: Vec<Value> = mapping.values().map(|at| json!({"$ref": at})).collect();
                let discriminator = json!({"propertyName": "kind", "mapping": mapping});
                let choice = json!({"oneOf": each, "discriminator": discriminator});
                schemas.insert(name.clone(), choice);
            }
        }
        let one = json!({"$ref": format!("{SCHEMAS}{name}")});
        let all = json!({"type": "array", "items": one});
        let ok =
            |schema: &Value| json!({"description": "ok", "content": {JSON: {"schema": schema}}});
        let body = json!({"required": true, "content": {JSON: {"schema": one}}});
        let operation = |verb: &str, status: &str, response: Value, body: Option<&Value>| {
            let mut responses = Map::from_iter([(status.to_owned(), response)]);
            self.errors.describe(&mut responses);
            let id = format!("{verb}{name}");
            let mut operation = json!({"operationId": id, "responses": responses});
            if let Some(body) = body {
                operation["requestBody"] = body.clone();
            }
            operation
        };
        let id =
            json!({"name": "id", "in": "path", "required": true, "schema": {"type": "integer"}});
        paths.insert(
            self.path(),
            json!({
                "get": operation("list", "200", ok(&all), None),
                "post": operation("add", "201", ok(&one), Some(&body)),
            }),
        );
        paths.insert(
            format!("{}/{{id}}", self.path()),
            json!({
                "parameters": [id],
                "get": operation("get", "200", ok(&one), None),
                "put": operation("put", "200", ok(&one), Some(&body)),
                "delete": operation("drop", "204", json!({"description": "gone"}), None),
            }),
        );
    }
}

impl DocumentedErrors {
    fn describe(&self, responses: &mut Map<String, Value>) {
        let refused = || json!({"$ref": "#/components/responses/Refused"});
        responses.extend(self.statuses.iter().map(|status| (status.to_string(), refused())));
        if self.range {
            responses.insert("4XX".to_owned(), refused());
        }
        if self.default {
            responses.insert("default".to_owned(), json!({"description": "anything"}));
        }
    }

    /// Is no error documented at all?
    pub(super) fn are_silent(&self) -> bool {
        self.statuses.is_empty() && !self.range && !self.default
    }

    /// Is a body documented for this status?
    pub(super) fn have_body(&self, status: u16) -> bool {
        self.statuses.contains(&status) || self.range
    }
}
