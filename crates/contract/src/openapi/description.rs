//! The description as a whole.

use std::collections::BTreeMap;

use serde_json::Value;

use super::operation;
use crate::{CredentialScheme, Router, Rules, Server};
use faithful_clerk_model::json::pointer::{from_tokens, join};
use faithful_clerk_schema::{CompiledSchema, DocumentId, SchemaLibrary};

/// What was read out of a description.
#[derive(Debug, Default)]
pub(crate) struct Description {
    /// Its base URLs.
    pub servers: Vec<Server>,
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
    pub rules: Rules,
}

/// The methods that a path can document (OpenAPI 3.1.1 section 4.8.9).
const METHODS: [&str; 8] = ["get", "put", "post", "delete", "options", "head", "patch", "trace"];

/// A description in the reading.
pub(super) struct DescriptionReader<'l, 'f> {
    pub(super) library: &'l mut SchemaLibrary<'f>,
    pub(super) id: DocumentId,
    /// Compiled schemas by place; none where one does not compile.
    schemas: BTreeMap<(DocumentId, String), Option<CompiledSchema>>,
    /// What was not understood, with the first place and how often.
    notices: BTreeMap<String, (String, u64)>,
}

impl Description {
    /// Reads the description that stands in a document.
    ///
    /// # Errors
    /// Why the document is no description.
    pub(crate) fn read(library: &mut SchemaLibrary<'_>, id: DocumentId) -> Result<Self, String> {
        let root = library.document(id).map(|document| document.value.clone());
        let root = root.ok_or("no such document")?;
        let version = root.get("openapi").and_then(Value::as_str).unwrap_or_default().to_owned();
        if !version.starts_with("3.") {
            return Err("it has no `openapi: 3.x`, so it is not an OpenAPI description".to_owned());
        }
        let (schemas, notices) = Default::default();
        let mut desk = DescriptionReader { library, id, schemas, notices };
        if !version.starts_with("3.0") && !version.starts_with("3.1") {
            desk.warning(&format!("version {version} is read as 3.1"), "openapi");
        }
        let mut description = Self {
            servers: desk.servers(root.get("servers")),
            credentials: desk.credentials(&root),
            ..Self::default()
        };
        let paths = root.get("paths").and_then(Value::as_object);
        for (path, item) in paths.into_iter().flatten() {
            desk.path(path, item, &root, &mut description.operations);
        }
        description.notices = desk.told();
        Ok(description)
    }
}

impl DescriptionReader<'_, '_> {
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

    fn servers(&mut self, servers: Option<&Value>) -> Vec<Server> {
        let mut found = Vec::new();
        for server in servers.and_then(Value::as_array).into_iter().flatten() {
            let Some(url) = server.get("url").and_then(Value::as_str) else { continue };
            match Server::read(url) {
                Ok(server) => found.push(server),
                // One that is relative to where the description was got, which nobody knows.
                Err(_) => self.warning("a server URL that can't be used as a base", url),
            }
        }
        found
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
        let (_, _, scheme) = self.library.follow(self.id, location).ok()?;
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

    fn path(&mut self, path: &str, item: &Value, root: &Value, operations: &mut Vec<Operation>) {
        if path.starts_with("x-") {
            return;
        }
        let segments = match Router::segments(path) {
            Ok(segments) => segments,
            Err(reason) => {
                self.warning(&format!("a path that is not a template: {reason}"), path);
                return;
            }
        };
        let location = from_tokens(&["paths", path]);
        let (id, location, item) = match item.get("$ref") {
            None => (self.id, location, item.clone()),
            Some(_) => match self.library.follow(self.id, &location) {
                Ok((id, location, item)) => (id, location, item.clone()),
                Err(reason) => return self.warning(&reason, path),
            },
        };
        if item.get("servers").is_some() {
            self.warning("servers of a single path are not looked at", path);
        }
        for method in METHODS {
            let Some(operation) = item.get(method) else { continue };
            let name = format!("{} {path}", method.to_uppercase());
            if operation.get("servers").is_some() {
                self.warning("servers of a single path are not looked at", &name);
            }
            let twin = operations.iter().find(|known| {
                known.method.eq_ignore_ascii_case(method)
                    && Router::segments(&known.path).as_ref() == Ok(&segments)
            });
            if twin.is_some() {
                self.warning("a path that differs from another only in a parameter's name", &name);
                continue;
            }
            let source = operation::OperationSource {
                id,
                location: join(&location, method),
                above: location.clone(),
                item: &item,
                operation,
                root,
                name: &name,
            };
            let rules = operation::rules(self, &source);
            let method = method.to_uppercase();
            operations.push(Operation { method, path: path.to_owned(), rules });
        }
    }

    /// The schema at a place, compiled once; none where it does not compile, which is a notice.
    pub(super) fn schema(
        &mut self,
        id: DocumentId,
        location: &str,
        name: &str,
    ) -> Option<CompiledSchema> {
        let (id, location) = match self.library.follow(id, location) {
            Ok((id, location, _)) => (id, location),
            Err(reason) => {
                self.warning(&reason, name);
                return None;
            }
        };
        if let Some(known) = self.schemas.get(&(id, location.clone())) {
            return known.clone();
        }
        let schema = match self.library.schema(id, &location) {
            Ok(schema) => Some(schema),
            Err(reason) => {
                self.warning(&format!("a schema that does not compile: {reason}"), name);
                None
            }
        };
        self.schemas.insert((id, location), schema.clone());
        schema
    }
}
