//! `[case.*]`: agreed ways to provoke a fault.

use serde_json::Value;
use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::model::{Case, Condition, Endpoint, EndpointId, Expectation};
use crate::nearest::nearest;
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::{Node, SpannedText};
use crate::router::Router;
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::TypeName;

impl<'t> ContractParser<'t> {
    pub(super) fn case(&mut self, name: &SpannedText, node: &Node<'t>) {
        let owner = format!("[case.{}]", name.text);
        let Some(table) = self.diagnostics.table(node, &owner) else { return };
        self.diagnostics.keys(table, &owner, keys::CASE);
        let mut case = Case { name: name.text.clone(), ..Case::default() };
        case.values = self.conditions(table, "path");
        case.query = self.conditions(table, "query");
        case.headers = self.conditions(table, "headers");
        case.body = self.conditions(table, "body");
        case.endpoints = table.get("group").and_then(|node| self.endpoints_of_group(node));
        for condition in &case.body {
            if !condition.name.is_empty() && !condition.name.starts_with('/') {
                let message = format!("`{}` is not a JSON Pointer to a member", condition.name);
                let span = table.get("body").map_or(name.span.clone(), Node::span);
                self.diagnostics.report(Diagnostic::new(span, message).help("write \"/berth_id\""));
            }
        }
        // What is used was saved by earlier cases, so it is looked for before this one saves.
        let mut cases = self.case_for_each_request(table, &case);
        if let Some(table) =
            table.get("save").and_then(|node| self.diagnostics.table(node, "`save`"))
        {
            self.keep(table, &mut case);
        }
        if let (Some(node), [_, _, ..], [_, ..]) = (table.get("save"), &*cases, &*case.save) {
            let diagnostic = Diagnostic::new(node.span(), "a case that saves has one request");
            self.diagnostics.report(diagnostic.help("write a case of its own for the others"));
        }
        case.situation = table.get("situation").and_then(|n| self.situation(n, "`situation`"));
        if let Some(node) = table.get("expect") {
            case.expect = match node.get_ref().as_str() {
                Some("success") => Expectation::Success,
                _ => self.fault_named(node).map_or(Expectation::Open, Expectation::Fault),
            };
        }
        if case.expect != Expectation::Open || !table.contains_key("expect") {
            self.settle_situation(&mut case, name);
        }
        if cases.iter().any(Case::request_is_open) {
            let message =
                format!("the case `{}` does not say which requests it is about", name.text);
            let help = "name a `request` or a `group`, or conditions on `path`, `query`, `headers` or `body`";
            self.diagnostics.missing(Diagnostic::new(name.span.clone(), message).help(help));
        }
        let keys = table.get("body").and_then(as_table);
        let spans: Vec<_> = keys.into_iter().flatten().map(|(key, _)| key.span()).collect();
        for one in &mut cases {
            let at = self.contract.cases.len();
            self.unmatched.case_bodies.extend(spans.iter().map(|span| (at, span.clone())));
            one.save.clone_from(&case.save);
            one.situation = case.situation;
            one.expect = case.expect;
            self.contract.cases.push(std::mem::take(one));
        }
    }

    /// The endpoints of the group that a case names.
    fn endpoints_of_group(&mut self, node: &Node<'t>) -> Option<Vec<EndpointId>> {
        let text = self.diagnostics.text(node, "`group`")?;
        let Some(group) = self.groups.iter().find(|group| group.name == text.text) else {
            let near = nearest(&text.text, self.groups.iter().map(|group| group.name.as_str()));
            let label = near.map_or("used here, declared nowhere".to_owned(), |near| {
                format!("did you mean `{near}`?")
            });
            let message = format!("unknown group `{}`", text.text);
            let diagnostic = Diagnostic::new(text.span, message).label(label);
            self.diagnostics.missing(diagnostic.help("it is declared in a table `[group.NAME]`"));
            return None;
        };
        let endpoints = self.contract.endpoints.iter().enumerate();
        let is_in = |endpoint: &Endpoint| {
            group.has_parts(&endpoint.path, &[&endpoint.rules])
                && group
                    .patterns
                    .iter()
                    .any(|(one, _)| one.fits(&endpoint.method, &endpoint.path).is_some())
        };
        Some(endpoints.filter(|(_, one)| is_in(one)).map(|(at, _)| EndpointId(at)).collect())
    }

    /// The case for each of its requests: the first as it is called, the others with the request behind the name.
    fn case_for_each_request(&mut self, table: &DeTable<'t>, case: &Case) -> Vec<Case> {
        let requests: Vec<SpannedText> = match table.get("request") {
            None => Vec::new(),
            Some(node) if matches!(node.get_ref(), DeValue::Array(_)) => {
                self.diagnostics.texts(node, "`request`")
            }
            Some(node) => self.diagnostics.text(node, "`request`").into_iter().collect(),
        };
        let mut cases: Vec<Case> = Vec::new();
        for request in requests {
            let mut one = case.clone();
            if !cases.is_empty() {
                one.name = format!("{} ({})", case.name, request.text);
            }
            self.case_request(&request, &mut one);
            cases.push(one);
        }
        if cases.is_empty() {
            cases.push(case.clone());
        }
        for one in &mut cases {
            one.uses = self.kept_names_in(one);
        }
        cases
    }

    /// `keep = { berth = "/berth_id" }`: what later cases can use.
    fn keep(&mut self, table: &DeTable<'t>, case: &mut Case) {
        for (key, node) in table {
            let (name, span) = (key.get_ref().to_string(), key.span());
            let Some(pointer) = self.diagnostics.text(node, "what is saved") else { continue };
            if tokens(&pointer.text).is_none() || pointer.text.starts_with('#') {
                let message = format!("`{}` is not a JSON Pointer", pointer.text);
                self.diagnostics
                    .report(Diagnostic::new(pointer.span, message).help("write \"/berth_id\""));
            } else if self.saved.contains_key(&name) {
                let message = format!("an earlier case already saves `{name}`");
                self.diagnostics
                    .report(Diagnostic::new(span, message).help("give it another name"));
            } else {
                self.saved.insert(name.clone(), span);
                case.save.push((name, pointer.text));
            }
        }
    }

    /// The names that earlier cases keep, and this one uses: `{berth}` in its path, or as an exact value.
    fn kept_names_in(&mut self, case: &Case) -> Vec<String> {
        let conditions = [&case.values, &case.query, &case.headers, &case.body];
        let stands_for = |condition: &Condition, name: &str| {
            let TypeName::Exactly(Value::String(text)) = &condition.rule.constrained.name else {
                return false;
            };
            *text == format!("{{{name}}}")
        };
        let uses = |name: &&String| {
            case.template.contains(&format!("{{{name}}}"))
                || conditions.into_iter().flatten().any(|one| stands_for(one, name))
        };
        let used: Vec<String> = self.saved.keys().filter(uses).cloned().collect();
        self.used_saved.extend(used.iter().cloned());
        used
    }

    /// `GET /berths/Z-99`, `* /berths/{id}`, `/berths?free=yes`.
    fn case_request(&mut self, text: &SpannedText, case: &mut Case) {
        let (method, target) = text.text.split_once(' ').unwrap_or(("*", &text.text));
        let (path, query) = target.split_once('?').unwrap_or((target, ""));
        match Router::segments(path) {
            Ok(segments) => case.path = Some(segments),
            Err(reason) => {
                let diagnostic = Diagnostic::new(text.span.clone(), "this is not a request");
                self.diagnostics
                    .report(diagnostic.label(reason).help("write \"GET /berths/Z-99\""));
            }
        }
        case.method = (method != "*").then(|| method.to_owned());
        case.template = path.to_owned();
        for (name, value) in url::form_urlencoded::parse(query.as_bytes()) {
            let expression = format!("exactly {}", Value::from(value.as_ref()));
            let rule = self.phrased(&SpannedText { text: expression, span: text.span.clone() });
            case.query.extend(rule.map(|rule| Condition { name: name.into_owned(), rule }));
        }
    }

    fn conditions(&mut self, table: &DeTable<'t>, key: &str) -> Vec<Condition> {
        let owner = format!("`{key}`");
        let named = table.get(key).and_then(|node| self.diagnostics.table(node, &owner));
        let mut conditions = Vec::new();
        for (key, node) in named.into_iter().flatten() {
            let text = self.diagnostics.text(node, "a condition");
            let rule = text.and_then(|text| self.phrased(&text));
            let name = key.get_ref().to_string();
            conditions.extend(rule.map(|rule| Condition { name, rule }));
        }
        conditions
    }

    /// What a case tells: as it says, or as its fault does.
    fn settle_situation(&mut self, case: &mut Case, name: &SpannedText) {
        if case.situation.is_some() || case.expect == Expectation::Success {
            return;
        }
        let Expectation::Fault(id) = case.expect else {
            let message = format!("the case `{}` says nothing", name.text);
            let help = "say which fault it expects, or which situation it is";
            return self
                .diagnostics
                .missing(Diagnostic::new(name.span.clone(), message).help(help));
        };
        let fault = self.contract.fault(id);
        case.situation = fault.and_then(|fault| {
            let unseen = fault.when.iter().find(|s| !s.is_visible_in_request());
            let first = unseen.or(fault.when.first()).copied();
            first.or_else(|| Situation::implied_by_status(fault.status))
        });
        if case.situation.is_none() {
            let message = format!("the situation of the case `{}` can't be told", name.text);
            let help = "add a line such as `situation = \"conflict\"`";
            self.diagnostics.report(Diagnostic::new(name.span.clone(), message).help(help));
        }
    }
}

impl Case {
    fn request_is_open(&self) -> bool {
        self.path.is_none()
            && self.endpoints.is_none()
            && self.query.is_empty()
            && self.headers.is_empty()
            && self.body.is_empty()
    }
}
