//! The description as a whole.

use serde_json::Value;
use std::collections::{BTreeMap, HashSet};

use super::operation;
use super::parameters::fixed_parameter;
use super::servers::servers;
use crate::{CredentialScheme, Router, Rules, Server, TemplateSegment};
use faithful_clerk_model::json::pointer::{from_tokens, join};
use faithful_clerk_schema::{CompiledSchema, Direction, DocumentId, DocumentSet, SchemaLibrary};

/// What was read out of a description.
#[derive(Debug, Default)]
pub(crate) struct Description {
    /// Its base URLs.
    pub servers: Vec<Server>,
    /// Those of paths and of operations.
    pub own_servers: Vec<Server>,
    /// The request headers that carry credentials.
    pub credentials: Vec<String>,
    pub operations: Vec<Operation>,
    /// What was not understood, each kind of it once.
    pub notices: Vec<String>,
}

/// A method and a path, and what is documented for them.
#[derive(Debug)]
pub(crate) struct Operation {
    pub method: String,
    pub path: String,
    /// What the query has to hold, where the path is written with one.
    pub query: Vec<(String, String)>,
    /// What it is called: its `operationId`, else its method and path.
    pub name: String,
    pub rules: Rules,
}

/// The methods that a path can document (OpenAPI 3.2.0 section 4.8.9).
pub const METHODS: [&str; 9] =
    ["get", "put", "post", "delete", "options", "head", "patch", "trace", "query"];

/// Methods that have no member of their own there.
pub const OTHER_METHODS: &str = "additionalOperations";

/// A method, what the query has to hold, and the path.
type OperationKey = (String, Vec<(String, String)>, Vec<TemplateSegment>);

/// When a schema is compiled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum CompileTime {
    Now,
    Later,
}

/// A schema as it is asked for.
type SchemaKey = (CompileTime, Direction, DocumentId, String);

/// A description in the reading.
pub(super) struct DescriptionReader<'d> {
    pub(super) documents: &'d DocumentSet,
    library: &'d SchemaLibrary<'d>,
    pub(super) id: DocumentId,
    /// Schemas by place; none where one does not compile.
    schemas: BTreeMap<SchemaKey, Option<CompiledSchema>>,
    /// The methods and paths that were read.
    known: HashSet<OperationKey>,
    /// What was not understood, with the first place and how often.
    notices: BTreeMap<String, (String, u64)>,
}

impl Description {
    /// Reads the description that stands in a document.
    ///
    /// # Errors
    /// Why the document is no description.
    pub(crate) fn read(library: &SchemaLibrary<'_>, id: DocumentId) -> Result<Self, String> {
        let documents = &library.documents();
        let root = &*documents.document(id).ok_or("no such document")?.value;
        let version = root.get("openapi").and_then(Value::as_str).unwrap_or_default().to_owned();
        if let Some(version) = root.get("swagger").and_then(Value::as_str) {
            return Err(format!(
                "it is version {version} (Swagger), and 3.0, 3.1 or 3.2 is read; convert it to OpenAPI 3"
            ));
        }
        if !version.starts_with("3.") {
            return Err("it has no `openapi: 3.x`, so it is not an OpenAPI description".to_owned());
        }
        let (schemas, known, notices) = Default::default();
        let mut desk = DescriptionReader { documents, library, id, schemas, known, notices };
        if !["3.0", "3.1", "3.2"].iter().any(|known| version.starts_with(known)) {
            desk.warning(&format!("version {version} is read as 3.1"), "openapi");
        }
        let mut description = Self {
            servers: servers(&mut desk, root.get("servers")),
            credentials: desk.credentials(root),
            ..Self::default()
        };
        let paths = root.get("paths").and_then(Value::as_object);
        for (path, item) in paths.into_iter().flatten() {
            desk.path(path, item, root, &mut description);
        }
        description.notices = desk.told();
        Ok(description)
    }
}

/// Adds the servers of a path or of an operation.
fn add_servers(known: &mut Vec<Server>, own: Vec<Server>) {
    let is_new = |server: &Server| known.iter().all(|other| other.text != server.text);
    let new: Vec<Server> = own.into_iter().filter(is_new).collect();
    known.extend(new);
}

impl<'d> DescriptionReader<'d> {
    /// Something that is not understood, and where it stands.
    pub(super) fn warning(&mut self, what: &str, location: &str) {
        let first = || (location.to_owned(), 0);
        self.notices.entry(what.to_owned()).or_insert_with(first).1 += 1;
    }

    fn told(self) -> Vec<String> {
        let told = |(what, (first, count)): (String, (String, u64))| match count {
            1 => format!("{what} (at {first})"),
            count => format!("{what} ({count} times, first at {first})"),
        };
        self.notices.into_iter().map(told).collect()
    }

    /// The headers of the security schemes.
    fn credentials(&mut self, root: &Value) -> Vec<String> {
        let schemes = root.pointer("/components/securitySchemes").and_then(Value::as_object);
        let mut headers = Vec::new();
        for (name, _) in schemes.into_iter().flatten() {
            let location = join("/components/securitySchemes", name);
            let Some(scheme) = self.scheme_at(&location) else {
                self.warning("credentials of this kind are not checked", name);
                continue;
            };
            let header = scheme.header().map(str::to_owned);
            headers.extend(header.filter(|header| !headers.contains(header)));
        }
        headers
    }

    /// A security scheme.
    pub(super) fn scheme_at(&self, location: &str) -> Option<CredentialScheme> {
        let (_, _, scheme) = self.documents.follow(self.id, location).ok()?;
        let text = |name: &str| scheme.get(name).and_then(Value::as_str);
        let name = || text("name").map(str::to_owned);
        Some(match (text("type")?, text("in")) {
            ("http", _) => {
                CredentialScheme::Authorization(text("scheme").map(str::to_ascii_lowercase))
            }
            // Their tokens are bearer tokens nearly everywhere, and the description does not say.
            ("oauth2" | "openIdConnect", _) => CredentialScheme::Authorization(None),
            ("apiKey", Some("header")) => CredentialScheme::Header(name()?),
            ("apiKey", Some("query")) => CredentialScheme::Query(name()?),
            ("apiKey", Some("cookie")) => CredentialScheme::Cookie(name()?),
            _ => return None,
        })
    }

    fn path(
        &mut self,
        path: &str,
        item: &'d Value,
        root: &'d Value,
        description: &mut Description,
    ) {
        if path.starts_with("x-") {
            return;
        }
        // A path has no query (OpenAPI 3.1.1 section 4.8.8), and some write one to tell operations apart.
        let (template, query) = path.split_once('?').unwrap_or((path, ""));
        let query: Vec<(String, String)> =
            url::form_urlencoded::parse(query.as_bytes()).into_owned().collect();
        let segments = match Router::segments(template) {
            Ok(segments) => segments,
            Err(reason) => {
                self.warning(&format!("a path that is not a template: {reason}"), path);
                return;
            }
        };
        let location = from_tokens(&["paths", path]);
        let (id, location, item) = match item.get("$ref") {
            None => (self.id, location, item),
            Some(_) => match self.documents.follow(self.id, &location) {
                Ok(found) => found,
                Err(reason) => return self.warning(&reason, path),
            },
        };
        let own = servers(self, item.get("servers"));
        add_servers(&mut description.own_servers, own);
        let others = item.get(OTHER_METHODS).and_then(Value::as_object).into_iter().flatten();
        let others = others.map(|(method, operation)| {
            (method.clone(), join(&join(&location, OTHER_METHODS), method), operation)
        });
        let known = METHODS.into_iter().filter_map(|method| {
            Some((method.to_uppercase(), join(&location, method), item.get(method)?))
        });
        for (method, at, operation) in known.chain(others) {
            let name = format!("{method} {path}");
            let own = servers(self, operation.get("servers"));
            add_servers(&mut description.own_servers, own);
            if !self.known.insert((method.clone(), query.clone(), segments.clone())) {
                self.warning("a path that differs from another only in a parameter's name", &name);
                continue;
            }
            let source = operation::OperationSource {
                id,
                location: at,
                above: location.clone(),
                item,
                operation,
                root,
                name: &name,
            };
            let mut rules = operation::rules(self, &source);
            rules.parameters.get_or_insert_default().extend(query.iter().map(fixed_parameter));
            let called = operation.get("operationId").and_then(Value::as_str).unwrap_or(&name);
            let called = called.to_owned();
            let (path, query) = (template.to_owned(), query.clone());
            description.operations.push(Operation { method, path, query, name: called, rules });
        }
    }

    /// The schema at a place for bodies that go one way, compiled once; none where it can't be, which is a notice.
    pub(super) fn schema(
        &mut self,
        place: (DocumentId, &str),
        direction: Direction,
        name: &str,
    ) -> Option<CompiledSchema> {
        self.schema_when(CompileTime::Now, place, direction, name)
    }

    /// The same, compiled when it is first asked.
    pub(super) fn schema_for_later(
        &mut self,
        place: (DocumentId, &str),
        direction: Direction,
        name: &str,
    ) -> Option<CompiledSchema> {
        self.schema_when(CompileTime::Later, place, direction, name)
    }

    fn schema_when(
        &mut self,
        time: CompileTime,
        (id, location): (DocumentId, &str),
        direction: Direction,
        name: &str,
    ) -> Option<CompiledSchema> {
        let (id, location) = match self.documents.follow(id, location) {
            Ok((id, location, _)) => (id, location),
            Err(reason) => {
                self.warning(&reason, name);
                return None;
            }
        };
        let key = (time, direction, id, location);
        if let Some(known) = self.schemas.get(&key) {
            return known.clone();
        }
        let schema = match time {
            CompileTime::Now => self.library.schema(id, &key.3, direction),
            CompileTime::Later => self.library.schema_for_later(id, &key.3, direction),
        };
        let schema = match schema {
            Ok(schema) => Some(schema),
            Err(reason) => {
                self.warning(&format!("a schema that does not compile: {reason}"), name);
                None
            }
        };
        self.schemas.insert(key, schema.clone());
        schema
    }
}
