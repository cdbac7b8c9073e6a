//! Which requests there are.

use std::collections::{BTreeMap, BTreeSet};

use super::bodies::{all_wrong, whole};
use super::body_node::{SchemaNode, ShapeNode};
use super::breakages::{PlannedBodies, PlannedBody};
use super::headers::{json_of, with_content_type};
use super::plan_bounds::{BEYOND, NotPlanned, PlanBounds};
use super::request::{PlannedRequest, ProbeCredentials};
use super::values::{known_id, parameters_of, right_text, text_of, unknown_id, wrong_texts};
use crate::sample;
use faithful_clerk_contract::{
    Authentication, BodyPresence, BodyRules, Case, Condition, Endpoint, ErrorContract, Expectation,
    Parameter, ParameterLocation,
};
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;

/// A body that is made larger than the limit is made no larger than this.
const LARGEST: u64 = 16 << 20;

/// All requests, in the order in which they are sent.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ProbePlan {
    /// The requests.
    pub requests: Vec<PlannedRequest>,
    /// What could not be planned, and why.
    pub left_out: Vec<NotPlanned>,
}

impl ProbePlan {
    /// The plan for a contract. `values` are values of path parameters and of members of bodies, by name: things
    /// that exist.
    #[must_use]
    pub fn of(
        contract: &ErrorContract,
        values: &BTreeMap<String, String>,
        bounds: PlanBounds,
    ) -> Self {
        let (plan, on_limits) = Default::default();
        let mut planning = ProbePlanner { contract, values, bounds, plan, on_limits };
        for endpoint in &contract.endpoints {
            planning.endpoint(endpoint);
        }
        planning.methods();
        planning.route();
        let others = std::mem::take(&mut planning.plan.requests);
        // What is let in by mistake may be in the way of what comes later.
        planning.sequences();
        planning.plan.requests.extend(others);
        for case in &contract.cases {
            planning.case(case);
        }
        for (endpoint, request) in std::mem::take(&mut planning.on_limits) {
            planning.on_limit(endpoint, request);
        }
        planning.undo();
        planning.number_keys();
        planning.plan.shorten(bounds.most);
        planning.plan
    }
}

pub(super) struct ProbePlanner<'c> {
    pub(super) contract: &'c ErrorContract,
    values: &'c BTreeMap<String, String>,
    bounds: PlanBounds,
    pub(super) plan: ProbePlan,
    /// Requests that are to be served: they come last, as what they make may be in the way of others.
    pub(super) on_limits: Vec<(&'c Endpoint, PlannedRequest)>,
}

impl<'c> ProbePlanner<'c> {
    /// Adds a request, if it is in its situation.
    pub(super) fn add(&mut self, planned: PlannedRequest) {
        if planned.is_as_planned(self.contract) {
            self.plan.requests.push(planned);
        } else {
            let situation = planned.situation.map_or("a success", Situation::name);
            self.leave_out(&planned.name, &format!("by the contract it would not be {situation}"));
        }
    }

    pub(super) fn leave_out(&mut self, what: &str, why: &str) {
        let (name, why) = (what.to_owned(), why.to_owned());
        self.plan.left_out.push(NotPlanned { name, why, requests: 1 });
    }

    fn endpoint(&mut self, endpoint: &'c Endpoint) {
        let rules = &endpoint.rules;
        let name = endpoint.name();
        let json = json_of(endpoint);
        let body = rules.body.as_ref().map(|body| whole(self.contract, body, self.values));
        let base = self.base(endpoint);
        let with = |what: &str, situation: Situation| PlannedRequest {
            name: format!("{name}: {what}"),
            situation: Some(situation),
            ..base.clone()
        };
        if endpoint.method == "GET" && self.is_known(endpoint) {
            let name = format!("{name}: a valid request");
            self.add(PlannedRequest { name, ..base.clone() });
        }
        if rules.auth == Some(Authentication::Required) {
            let missing = with("no credentials", Situation::MissingCredentials);
            self.add(PlannedRequest { credentials: ProbeCredentials::None, ..missing });
            let wrong = with("wrong credentials", Situation::InvalidCredentials);
            self.add(PlannedRequest { credentials: ProbeCredentials::Invalid, ..wrong });
        }
        if let (Some(of), Some(good)) = (&rules.body, &body) {
            self.bodies(endpoint, of, good, &with);
        }
        // What changes something may be done all the same, by a service that does not look at `Accept`.
        if rules.produces.is_some() && !base.can_write() {
            let mut refused = with("an Accept that cannot be met", Situation::NotAcceptable);
            refused.headers.push(("Accept".to_owned(), "application/x-no-such-type".to_owned()));
            self.add(refused);
        }
        if let Some(limit) = rules.max_request_body {
            let large = with("a body over the limit", Situation::ContentTooLarge);
            match usize::try_from(limit) {
                Ok(size) if limit < LARGEST => {
                    let body = Some(format!("{{\"padding\": \"{}\"}}", "x".repeat(size)));
                    let headers = with_content_type(&large, Some(json));
                    self.add(PlannedRequest { body, headers, ..large });
                }
                _ => self.leave_out(&large.name, "the limit is too large to be sent"),
            }
        }
        self.parameters(endpoint, &with);
        self.without_required_headers(endpoint, &with);
        // A PUT to what is not there makes it, more often than not (RFC 9110 section 9.3.4).
        let is_refused = self.refuses_what_is_not_there(endpoint);
        if endpoint.path.contains('{') && is_refused && endpoint.method != "PUT" {
            // The last parameter is the thing itself.
            let last = parameters_of(&endpoint.path).pop().unwrap_or_default();
            let unknown = with("an unknown id", Situation::ResourceNotFound);
            let parameter = self.path_parameter(&endpoint.path, &last);
            let id = unknown_id(parameter, &self.contract.shapes);
            let target = self.path(&endpoint.path, &[(&last, &id)]);
            let query = query(self.contract, rules.parameters(), None);
            self.add(PlannedRequest { target: format!("{target}{query}"), ..unknown });
        }
    }

    /// A request that is in order, as far as one can be made up.
    pub(super) fn base(&self, endpoint: &Endpoint) -> PlannedRequest {
        let rules = &endpoint.rules;
        let body = rules.body.as_ref().map(|body| whole(self.contract, body, self.values));
        let media =
            body.is_some().then(|| ("Content-Type".to_owned(), json_of(endpoint).to_owned()));
        PlannedRequest {
            name: endpoint.name(),
            situation: None,
            method: endpoint.method.clone(),
            target: self.target(endpoint, &self.path(&endpoint.path, &[])),
            headers: media.into_iter().chain(self.required_headers(rules)).collect(),
            body: body.as_ref().map(ToString::to_string),
            credentials: ProbeCredentials::Valid,
            saves: Vec::new(),
            uses: Vec::new(),
            differ: None,
            undo: None,
            repeats: false,
            level: 0,
        }
    }

    /// Is it known what a path without anything made up names?
    fn is_known(&self, endpoint: &Endpoint) -> bool {
        parameters_of(&endpoint.path).iter().all(|name| {
            let parameter = self.path_parameter(&endpoint.path, name);
            self.values.contains_key(name) || parameter.is_some_and(|one| one.example.is_some())
        })
    }

    fn target(&self, endpoint: &Endpoint, path: &str) -> String {
        format!("{path}{}", query(self.contract, endpoint.rules.parameters(), None))
    }

    /// The target of an endpoint, with what was kept under that name for a parameter.
    pub(super) fn target_of(&self, endpoint: &Endpoint, parameter: &str, kept: &str) -> String {
        let hole = format!("{{{kept}}}");
        let template = endpoint.path.replace(&format!("{{{parameter}}}"), &hole);
        self.target(endpoint, &self.path_but(&template, &[], &[kept.to_owned()]))
    }

    /// Does an endpoint say that what is not there is refused?
    pub(super) fn refuses_what_is_not_there(&self, endpoint: &Endpoint) -> bool {
        self.refuses(endpoint, Situation::ResourceNotFound, &[404, 410])
    }

    /// Does an endpoint have a fault for a situation, or one for whatever has one of these statuses?
    pub(super) fn refuses(
        &self,
        endpoint: &Endpoint,
        situation: Situation,
        statuses: &[u16],
    ) -> bool {
        endpoint.rules.faults.iter().filter_map(|id| self.contract.fault(*id)).any(|fault| {
            fault.when.contains(&situation)
                || fault.when.is_empty() && statuses.contains(&fault.status)
        })
    }

    fn bodies(
        &mut self,
        endpoint: &'c Endpoint,
        of: &BodyRules,
        good: &serde_json::Value,
        with: &dyn Fn(&str, Situation) -> PlannedRequest,
    ) {
        let text = good.to_string();
        let half = text.chars().take((text.chars().count() / 2).max(1)).collect();
        self.add(PlannedRequest {
            body: Some(half),
            ..with("malformed JSON", Situation::MalformedBody)
        });
        if of.required == BodyPresence::Yes {
            let empty = with("an empty body", Situation::MissingBody);
            let headers = with_content_type(&empty, None);
            self.add(PlannedRequest { body: None, headers, ..empty });
        }
        if endpoint.rules.accepts.is_some() {
            let other = with("a body of another media type", Situation::UnsupportedMediaType);
            let headers = with_content_type(&other, Some("text/plain"));
            self.add(PlannedRequest { body: Some("no JSON".to_owned()), headers, ..other });
        }
        let invalid = |what: &str, body: String| PlannedRequest {
            body: Some(body),
            ..with(what, Situation::InvalidBody)
        };
        if of.fields.as_ref().is_none_or(|fields| fields.members.iter().any(|one| !one.optional)) {
            self.add_if_so(invalid("`{}`", "{}".to_owned()));
        }
        self.each_rule(endpoint, of, good, with);
        for (what, body) in sample::each_broken(of, good, &self.contract.shapes) {
            self.add(invalid(&what, body.to_string()));
        }
        let all = match (&of.fields, &of.schema) {
            (Some(fields), _) => all_wrong(self.contract, fields),
            (None, Some(schema)) => sample::schema::all_wrong(schema.spelled()),
            (None, None) => return,
        };
        self.add_if_so(invalid("all fields wrong at once", all.to_string()));
    }

    /// Each rule of a body broken alone, at every depth, and each limit reached. What is made up breaks its rule or does not;
    /// the rules themselves decide.
    fn each_rule(
        &mut self,
        endpoint: &'c Endpoint,
        of: &BodyRules,
        good: &serde_json::Value,
        with: &dyn Fn(&str, Situation) -> PlannedRequest,
    ) {
        let (shapes, most) = (&self.contract.shapes, self.share());
        let planned = match (&of.fields, &of.schema) {
            (Some(fields), _) => PlannedBodies::of(
                ShapeNode::of_shape(fields, shapes),
                good,
                self.bounds.depth,
                most,
            ),
            (None, Some(schema)) if schema.admits(good) => {
                PlannedBodies::of(SchemaNode(schema.spelled()), good, self.bounds.depth, most)
            }
            (None, Some(_)) => {
                let why = "no body could be made up that keeps all rules of its schema";
                return self.leave_out(&format!("{}: each rule alone", endpoint.name()), why);
            }
            (None, None) => return,
        };
        if planned.deeper > 0 {
            let why = format!(
                "places below level {}, which `--depth` allows: {}",
                self.bounds.depth, planned.deeper
            );
            self.leave_out(&endpoint.name(), &why);
        }
        if planned.beyond > 0 {
            let (name, why, requests) = (endpoint.name(), BEYOND.to_owned(), planned.beyond);
            self.plan.left_out.push(NotPlanned { name, why, requests });
        }
        for PlannedBody { says, body, is_right, level } in planned.bodies {
            let mut request = with(&says, Situation::InvalidBody);
            request.body = Some(body.to_string());
            request.level = level;
            if is_right {
                request.situation = None;
                self.on_limits.push((endpoint, request));
            } else {
                self.add_if_so(request);
            }
        }
    }

    /// So many bodies each endpoint may have of all that may be planned.
    fn share(&self) -> usize {
        const LEAST: usize = 10;
        let with_body = |endpoint: &&Endpoint| endpoint.rules.body.is_some();
        let endpoints = self.contract.endpoints.iter().filter(with_body).count();
        (self.bounds.most / endpoints.max(1)).max(LEAST)
    }

    /// Adds a request that was only guessed to be in its situation, if it is.
    fn add_if_so(&mut self, planned: PlannedRequest) {
        if planned.is_as_planned(self.contract) {
            self.plan.requests.push(planned);
        }
    }

    /// Each parameter wrong, alone.
    fn parameters(
        &mut self,
        endpoint: &Endpoint,
        with: &dyn Fn(&str, Situation) -> PlannedRequest,
    ) {
        let rules = endpoint.rules.parameters();
        for parameter in rules {
            let wrong = |says: &str, wrong: &str| {
                let mut planned =
                    with(&format!("`{}` {says}", parameter.name), parameter.if_invalid);
                match parameter.location {
                    ParameterLocation::Query => {
                        let query =
                            query(self.contract, rules, Some((&parameter.name, Some(wrong))));
                        planned.target = format!("{}{query}", self.path(&endpoint.path, &[]));
                    }
                    ParameterLocation::Path => {
                        let path = self.path(&endpoint.path, &[(&parameter.name, wrong)]);
                        planned.target = format!("{path}{}", query(self.contract, rules, None));
                    }
                    ParameterLocation::Header => {
                        planned.headers.retain(|(name, _)| !parameter.has_name(name));
                        planned.headers.push((parameter.name.clone(), wrong.to_owned()));
                    }
                }
                planned
            };
            // Any text fits some rules. Each way not to fit is tried once, and any other text only where there is none.
            let mut tried: BTreeSet<&str> = BTreeSet::new();
            let mut due = Vec::new();
            for (says, text) in wrong_texts(&parameter.rule, &self.contract.shapes) {
                let is_due = match says {
                    // The space around a header field's value is none of it (RFC 9110 section 5.5).
                    "blank" if parameter.location == ParameterLocation::Header => false,
                    "wrong" => tried.is_empty(),
                    says => !tried.contains(says),
                };
                let planned = wrong(says, &text);
                if is_due && planned.is_as_planned(self.contract) {
                    tried.insert(says);
                    due.push(planned);
                }
            }
            self.plan.requests.extend(due);
            if parameter.location == ParameterLocation::Query && !parameter.optional {
                let mut planned =
                    with(&format!("without `{}`", parameter.name), parameter.if_invalid);
                let query = query(self.contract, rules, Some((&parameter.name, None)));
                planned.target = format!("{}{query}", self.path(&endpoint.path, &[]));
                self.add(planned);
            }
        }
    }

    /// A method that is not offered, once for each path.
    fn methods(&mut self) {
        let paths: BTreeSet<&str> =
            self.contract.endpoints.iter().map(|endpoint| endpoint.path.as_str()).collect();
        for path in paths {
            let offers = |method: &str| {
                let endpoints = &self.contract.endpoints;
                endpoints.iter().any(|other| other.path == path && other.method == method)
            };
            let method =
                ["PATCH", "PUT", "DELETE", "POST"].into_iter().find(|method| !offers(method));
            let Some(method) = method else { continue };
            self.add(PlannedRequest {
                name: format!("{method} {path}: a method that is not offered"),
                situation: Some(Situation::MethodNotAllowed),
                method: method.to_owned(),
                target: self.path(path, &[]),
                headers: Vec::new(),
                body: None,
                credentials: ProbeCredentials::Valid,
                saves: Vec::new(),
                uses: Vec::new(),
                differ: None,
                undo: None,
                repeats: false,
                level: 0,
            });
        }
    }

    fn route(&mut self) {
        self.add(PlannedRequest {
            name: "an unknown route".to_owned(),
            situation: Some(Situation::UnknownRoute),
            method: "GET".to_owned(),
            target: "/no-such-path".to_owned(),
            headers: Vec::new(),
            body: None,
            credentials: ProbeCredentials::Valid,
            saves: Vec::new(),
            uses: Vec::new(),
            differ: None,
            undo: None,
            repeats: false,
            level: 0,
        });
    }

    /// What the contract says how to provoke.
    fn case(&mut self, case: &Case) {
        let method = case.method.clone().unwrap_or_else(|| "GET".to_owned());
        let shapes = &self.contract.shapes;
        let value =
            |condition: &Condition| text_of(&sample::fitting(&condition.rule.constrained, shapes));
        let needed = |condition: &&Condition| !condition.rule.optional;
        let values: Vec<(String, String)> = case
            .values
            .iter()
            .map(|condition| (condition.name.clone(), value(condition)))
            .collect();
        let values: Vec<(&str, &str)> =
            values.iter().map(|(name, value)| (name.as_str(), value.as_str())).collect();
        let mut pairs = url::form_urlencoded::Serializer::new(String::new());
        for condition in case.query.iter().filter(needed) {
            pairs.append_pair(&condition.name, &value(condition));
        }
        let query = Some(pairs.finish()).filter(|query| !query.is_empty());
        let query = query.map(|query| format!("?{query}")).unwrap_or_default();
        let mut headers: Vec<(String, String)> = case
            .headers
            .iter()
            .filter(needed)
            .map(|condition| (condition.name.clone(), value(condition)))
            .collect();
        let body = self.case_body(case, &method);
        if let Some((media, _)) = &body {
            headers.push(("Content-Type".to_owned(), media.clone()));
        }
        let situation = if case.expect == Expectation::Success { None } else { case.situation };
        // What is still to be known stays a hole.
        let holes: Vec<String> = case.uses.iter().map(|name| format!("{{{name}}}")).collect();
        let mut path = self.path_but(&case.template, &values, &case.uses);
        for hole in &holes {
            path = path.replace(&faithful_clerk_model::percent::encode_segment(hole), hole);
        }
        self.add(PlannedRequest {
            name: format!("case {}", case.name),
            situation,
            method,
            target: format!("{path}{query}"),
            headers,
            body: body.map(|(_, body)| body),
            credentials: ProbeCredentials::Valid,
            saves: case.save.clone(),
            uses: case.uses.clone(),
            differ: None,
            undo: None,
            repeats: false,
            level: 0,
        });
    }

    /// The body of a case, and its media type: one that keeps the rules of the endpoint, with what the case says of it.
    fn case_body(&self, case: &Case, method: &str) -> Option<(String, String)> {
        let endpoints = self.contract.endpoints.iter();
        let mut found = endpoints.filter(|endpoint| endpoint.method == method);
        let rules = found.find(|endpoint| leads_to(&case.template, &endpoint.path))?.rules.clone();
        let mut body = match &rules.body {
            Some(body) => whole(self.contract, body, self.values),
            None if case.body.is_empty() => return None,
            None => serde_json::json!({}),
        };
        for condition in case.body.iter().filter(|condition| !condition.rule.optional) {
            let value = sample::fitting(&condition.rule.constrained, &self.contract.shapes);
            put(&mut body, &tokens(&condition.name).unwrap_or_default(), value);
        }
        let json = rules.accepts.iter().flatten().find(|range| media::is_json(range));
        Some((json.map_or("application/json", String::as_str).to_owned(), body.to_string()))
    }

    /// A path with values for its parameters: those that are given, else those that the caller knows, else one that
    /// fits the rule.
    fn path(&self, template: &str, given: &[(&str, &str)]) -> String {
        self.path_but(template, given, &[])
    }

    /// The same, but for parameters that have no value yet.
    fn path_but(&self, template: &str, given: &[(&str, &str)], holes: &[String]) -> String {
        let mut path = template.to_owned();
        for name in parameters_of(template).into_iter().filter(|name| !holes.contains(name)) {
            let given = given
                .iter()
                .find(|(known, _)| *known == name)
                .map(|(_, value)| (*value).to_owned());
            let known = || known_id(self.path_parameter(template, &name), &self.contract.shapes);
            let value = given.or_else(|| self.values.get(&name).cloned()).unwrap_or_else(known);
            let value = faithful_clerk_model::percent::encode_segment(&value);
            path = path.replace(&format!("{{{name}}}"), &value);
        }
        path
    }

    /// The rule of a path's parameter, as far as an endpoint there has one.
    fn path_parameter(&self, template: &str, name: &str) -> Option<&Parameter> {
        let endpoints = self.contract.endpoints.iter();
        let mut at = endpoints.filter(|endpoint| leads_to(template, &endpoint.path));
        at.find_map(|endpoint| {
            let mut parameters = endpoint.rules.parameters().iter();
            parameters.find(|of| of.location == ParameterLocation::Path && of.name == name)
        })
    }
}

/// Does a path lead to what a template stands for, segment by segment?
fn leads_to(path: &str, template: &str) -> bool {
    let (mut path, mut template) = (path.split('/'), template.split('/'));
    loop {
        match (path.next(), template.next()) {
            (None, None) => return true,
            (Some(segment), Some(pattern)) if pattern.contains('{') || segment == pattern => {}
            _ => return false,
        }
    }
}

/// Puts a value where a pointer leads; objects on the way are made if they are missing.
fn put(into: &mut serde_json::Value, steps: &[String], value: serde_json::Value) {
    let Some((step, rest)) = steps.split_first() else {
        *into = value;
        return;
    };
    if let serde_json::Value::Array(items) = into {
        let item = step.parse().ok().and_then(|at: usize| items.get_mut(at));
        return item.map(|item| put(item, rest, value)).unwrap_or_default();
    }
    if !into.is_object() {
        *into = serde_json::json!({});
    }
    if let serde_json::Value::Object(members) = into {
        put(members.entry(step.clone()).or_insert(serde_json::Value::Null), rest, value);
    }
}

/// The parameters that have to be there; `other` has another value, or is left out.
fn query(
    contract: &ErrorContract,
    rules: &[Parameter],
    other: Option<(&str, Option<&str>)>,
) -> String {
    let mut pairs = url::form_urlencoded::Serializer::new(String::new());
    for parameter in rules.iter().filter(|parameter| parameter.location == ParameterLocation::Query)
    {
        match other.filter(|(name, _)| *name == parameter.name) {
            Some((name, Some(value))) => _ = pairs.append_pair(name, value),
            None if !parameter.optional => {
                pairs.append_pair(&parameter.name, &right_text(parameter, &contract.shapes));
            }
            Some((_, None)) | None => {}
        }
    }
    let query = pairs.finish();
    if query.is_empty() { query } else { format!("?{query}") }
}
