//! `[endpoint."METHOD /path"]`.

use std::collections::BTreeMap;

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::model::{Endpoint, EndpointId, FaultId, FaultOrigin};
use crate::openapi::{Description, Operation, PathLines, documented_faults};
use crate::parse::keys;
use crate::parse::parser::{ContractParser, EndpointDeclaration};
use crate::parse::values::{Node, SpannedText};
use crate::router::Router;
use crate::rules::{BodyPresence, BodyRules};
use crate::rules::{ParameterLocation, Rules};
use faithful_clerk_model::headers::is_token;
use faithful_clerk_model::method::is_standard;
use faithful_clerk_schema::{CompiledSchema, Direction};
use faithful_clerk_shape::Shape;

impl<'t> ContractParser<'t> {
    pub(super) fn endpoint(&mut self, name: &SpannedText, node: &Node<'t>) {
        let owner = format!("[endpoint.\"{}\"]", name.text);
        let place = self.place(name);
        let Some(table) = self.diagnostics.table(node, &owner) else { return };
        let known = [keys::RULES, keys::ENDPOINT].concat();
        self.diagnostics.keys(table, &owner, &known);
        let mut rules = self.rules(table);
        rules.body = self.body(table, &name.text);
        let Some((method, path)) = place else { return };
        let before = self.diagnostics.text.get(..name.span.start).unwrap_or_default();
        let line = Some(before.matches('\n').count() + 1);
        self.contract.endpoints.push(Endpoint { method, path, rules, line, ..Endpoint::default() });
    }

    /// Splits the name into method and path, and puts the endpoint on the route.
    fn place(&mut self, name: &SpannedText) -> Option<(String, String)> {
        let shape = "write it as in [endpoint.\"GET /berths/{id}\"]";
        let Some((method, path)) = name.text.split_once(' ') else {
            let diagnostic =
                Diagnostic::new(name.span.clone(), "an endpoint is a method and a path");
            self.diagnostics.report(diagnostic.help(shape));
            return None;
        };
        if !is_token(method) {
            let span = self.diagnostics.within(name, 0..method.len());
            self.diagnostics.report(
                Diagnostic::new(span, format!("`{method}` is not an HTTP method")).help(shape),
            );
            return None;
        }
        let capitals = method.to_ascii_uppercase();
        if method != capitals && is_standard(&capitals) {
            let span = self.diagnostics.within(name, 0..method.len());
            self.diagnostics.report(
                Diagnostic::new(span, format!("the method is `{capitals}`, in capitals"))
                    .help("methods are case-sensitive (RFC 9110 section 9.1)"),
            );
            return None;
        }
        let path = path.trim();
        let segments = match Router::segments(path) {
            Ok(segments) => segments,
            Err(reason) => {
                let start = name.text.len() - path.len();
                let span = self.diagnostics.within(name, start..name.text.len());
                self.diagnostics.report(
                    Diagnostic::new(span, "this is not a path template").label(reason).help(shape),
                );
                return None;
            }
        };
        let key = (method.to_owned(), segments.clone());
        if let Some(twin) = self.endpoint_locations.get(&key) {
            let message = format!("this is the same endpoint as `{}`", twin.name);
            let help = "the names of parameters make no difference to a path";
            let diagnostic = Diagnostic::new(name.span.clone(), message).help(help);
            self.diagnostics.report(diagnostic.also(twin.span.clone(), "first declared here"));
            return None;
        }
        let id = EndpointId(self.contract.endpoints.len());
        let declared = EndpointDeclaration { name: name.text.clone(), span: name.span.clone(), id };
        self.endpoint_locations.insert(key, declared);
        self.contract.router.add(segments, Some(id));
        Some((method.to_owned(), path.to_owned()))
    }

    /// `body` names a JSON Schema, `body-members` describes members; both may be there.
    fn body(&mut self, table: &DeTable<'t>, name: &str) -> Option<BodyRules> {
        let fields = table.get("body-members").and_then(|node| self.body_members(node, name));
        let schema = table.get("body").map(|node| self.body_schema(node));
        let said =
            table.get("body-required").and_then(|n| self.diagnostics.boolean(n, "`body-required`"));
        let members = table.get("body-members").and_then(|node| node.get_ref().as_table());
        let is_partial = members.and_then(|members| members.get("partial")?.get_ref().as_bool());
        let member_rules =
            table.get("body-rules").map(|node| self.member_rules(node)).unwrap_or_default();
        if fields.is_none() && schema.is_none() && said.is_none() && member_rules.is_empty() {
            return None;
        }
        let by_fields = fields.as_ref().is_some_and(|fields: &Shape| {
            fields.of.is_some() || fields.members.iter().any(|m| !m.optional)
        });
        let required = match said {
            Some(required) => required,
            None => schema.is_some() || by_fields,
        };
        let (schema, members) = schema.flatten().map_or((None, None), |(s, m)| (Some(s), m));
        Some(BodyRules {
            fields,
            schema,
            required: if required { BodyPresence::Yes } else { BodyPresence::No },
            members,
            member_rules,
            is_partial: is_partial.unwrap_or(false),
            example: None,
        })
    }

    /// The members of a body, perhaps closed; or the type of one that is no object.
    fn body_members(&mut self, node: &Node<'t>, name: &str) -> Option<Shape> {
        if node.get_ref().is_str() {
            let text = self.diagnostics.text(node, "`body-members`")?;
            let of = self.phrased(&text)?.constrained;
            return Some(Shape { of: Some(Box::new(of)), ..Shape::default() });
        }
        let table = self.diagnostics.table(node, "`body-members`")?;
        // A member that is called `closed` or `partial` has a type expression, which is a string.
        let flag = |name: &str| table.get(name).and_then(|node| node.get_ref().as_bool());
        let closed = flag("closed");
        let flags = ["closed", "partial"];
        let without: Vec<&str> = flags.into_iter().filter(|name| flag(name).is_some()).collect();
        let members = self.members(table, name, 0, &without);
        self.note_not_before(&members, table);
        Some(Shape { members, closed: closed.unwrap_or(false), ..Shape::default() })
    }

    /// A JSON Schema file, perhaps with a fragment: `"schemas/all.json#/$defs/reservation"`.
    fn body_schema(&mut self, node: &Node<'t>) -> Option<(CompiledSchema, Option<Vec<String>>)> {
        let text = self.diagnostics.text(node, "`body`")?;
        let (path, fragment) = text.text.split_once('#').unwrap_or((&text.text, ""));
        let compiled = self.library.load(path).and_then(|id| {
            let documents = self.library.documents();
            let (_, _, schema) = documents.follow(id, fragment)?;
            let members = schema.get("properties").and_then(serde_json::Value::as_object);
            let members = members.map(|members| members.keys().cloned().collect());
            Ok((self.library.schema(id, fragment, Direction::Request)?, members))
        });
        match compiled {
            Ok(compiled) => Some(compiled),
            Err(reason) => {
                let diagnostic = Diagnostic::new(text.span, "this JSON Schema can't be used");
                self.diagnostics.report(diagnostic.label(reason));
                None
            }
        }
    }

    /// Reads the description: what it says of each endpoint, by the endpoint's place.
    pub(super) fn description(
        &mut self,
        node: &Node<'t>,
        top: &DeTable<'t>,
    ) -> BTreeMap<EndpointId, Rules> {
        let mut found = BTreeMap::new();
        let Some(text) = self.diagnostics.text(node, "`openapi`") else { return found };
        let lines = self.library.text(&text.text).map(|text| PathLines::of(&text));
        let read = self.library.load(&text.text);
        let read = read.and_then(|id| Description::read(&self.library, id));
        let mut description = match read {
            Ok(description) => description,
            Err(reason) => {
                let diagnostic = Diagnostic::new(text.span, "this description can't be used");
                self.diagnostics.report(diagnostic.label(reason));
                return found;
            }
        };
        for warning in description.notices {
            let message = format!("not understood in the OpenAPI description: {warning}");
            self.diagnostics.report(Diagnostic::warning(text.span.clone(), message));
        }
        // Where the contract has no faults, those are the service's that the description documents.
        if self.contract.faults.is_empty() {
            self.contract.faults = documented_faults(&mut description.operations);
        }
        if !top.contains_key("servers") {
            self.contract.servers = description.servers;
            self.contract.endpoint_servers = description.own_servers;
        }
        if !top.contains_key("credentials") && !description.credentials.is_empty() {
            self.contract.credentials = description.credentials;
        }
        self.contract.description = Some(text.text.clone());
        for Operation { method, path, query, mut rules, .. } in description.operations {
            let line = lines.as_ref().and_then(|lines| lines.operation(&method, &path));
            // The contract's own headers win.
            if top.contains_key("credentials") {
                rules.security = None;
            }
            let Ok(segments) = Router::segments(&path) else { continue };
            let asked: Vec<String> =
                query.iter().map(|(name, value)| format!("{name}={value}")).collect();
            let mark = if asked.is_empty() { "" } else { "?" };
            let key = (format!("{method}{mark}{}", asked.join("&")), segments.clone());
            let id = match self.endpoint_locations.get(&key) {
                Some(declared) => {
                    let own = self.contract.endpoint(declared.id).map(|own| own.path.as_str());
                    rename_parameters(&mut rules, &path, own.unwrap_or(&path));
                    declared.id
                }
                None => {
                    let id = EndpointId(self.contract.endpoints.len());
                    let (name, span) = (format!("{method} {path}"), text.span.clone());
                    self.endpoint_locations.insert(key, EndpointDeclaration { name, span, id });
                    self.contract.router.add(segments, Some(id));
                    let rules = Rules::default();
                    let endpoint = Endpoint { method, path, query, rules, ..Endpoint::default() };
                    self.contract.endpoints.push(endpoint);
                    id
                }
            };
            if let Some(endpoint) = self.contract.endpoints.get_mut(id.0) {
                endpoint.described = line;
            }
            found.insert(id, rules);
        }
        found
    }

    /// Gives every endpoint what holds there: its own rules, then those of its groups, of the
    /// description, and of everywhere.
    pub(super) fn settle_endpoints(&mut self, described: &BTreeMap<EndpointId, Rules>) {
        let mut endpoints = std::mem::take(&mut self.contract.endpoints);
        for (at, endpoint) in endpoints.iter_mut().enumerate() {
            let faults = &self.contract.faults;
            let mut rules = std::mem::take(&mut endpoint.rules);
            let documented = described.get(&EndpointId(at));
            let own = rules.clone();
            let known: Vec<&Rules> = std::iter::once(&own).chain(documented).collect();
            let mut origins = Vec::new();
            name_origins(&mut origins, &rules.faults, &FaultOrigin::Endpoint);
            for group in self.groups_of(&endpoint.method, &endpoint.path, &known) {
                rules = rules.or(&group.rules, faults);
                let origin = FaultOrigin::Group(group.name.clone());
                name_origins(&mut origins, &rules.faults, &origin);
            }
            rules.names_faults = !rules.faults.is_empty();
            if let Some(less_specific) = documented {
                rules = rules.or(less_specific, faults);
            }
            let region = self.contract.region_of_endpoint(endpoint);
            endpoint.rules = rules.or(self.contract.rules_at(None, region), faults);
            for region in self.contract.regions_around(endpoint) {
                let kept = |id: &&FaultId| endpoint.rules.faults.contains(id);
                let named: Vec<FaultId> = region.own_faults.iter().filter(kept).copied().collect();
                name_origins(&mut origins, &named, &FaultOrigin::Region(region.name.clone()));
            }
            name_origins(&mut origins, &endpoint.rules.faults, &FaultOrigin::Everywhere);
            endpoint.fault_origins = origins;
        }
        self.contract.endpoints = endpoints;
    }

    /// Every endpoint by name.
    pub(super) fn endpoint_names(&self) -> Vec<(String, EndpointId)> {
        let endpoints = self.contract.endpoints.iter().enumerate();
        endpoints.map(|(at, endpoint)| (endpoint.name(), EndpointId(at))).collect()
    }
}

/// Keeps where the faults come from that are not known yet.
fn name_origins(known: &mut Vec<(FaultId, FaultOrigin)>, named: &[FaultId], origin: &FaultOrigin) {
    for id in named {
        if known.iter().all(|(other, _)| other != id) {
            known.push((*id, origin.clone()));
        }
    }
}

/// Gives the parameters of a described path the names that the contract has for them.
fn rename_parameters(rules: &mut Rules, described: &str, own: &str) {
    let pairs = described.split('/').zip(own.split('/'));
    for parameter in
        rules.parameters.iter_mut().flatten().filter(|p| p.location == ParameterLocation::Path)
    {
        let braced = format!("{{{}}}", parameter.name);
        let mut steps = pairs.clone().filter(|(described, _)| described.contains(&braced));
        let name = steps.next().and_then(|(_, own)| own.split_once('{')?.1.split_once('}'));
        if let Some((name, _)) = name {
            parameter.name = name.to_owned();
        }
    }
}
