//! `[fault.*]`.

use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::model::{Fault, FaultClass, FaultId};
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::{Node, SpannedText};
use faithful_clerk_shape::{Shape, ShapeId};

impl<'t> ContractParser<'t> {
    pub(super) fn fault(&mut self, name: &SpannedText, node: &Node<'t>) {
        let owner = format!("[fault.{}]", name.text);
        let id = FaultId(self.contract.faults.len());
        self.fault_names.insert(name.text.clone(), (id, name.span.clone()));
        let Some(table) = self.diagnostics.table(node, &owner) else { return };
        self.diagnostics.keys(table, &owner, keys::FAULT);
        let mut other_statuses = Vec::new();
        let status = match table.get("status") {
            Some(node) if matches!(node.get_ref(), DeValue::Array(_)) => {
                let items = self.diagnostics.items(node, "the `status` of a fault");
                let mut all = items
                    .iter()
                    .map(|item| self.diagnostics.whole(item, "the `status` of a fault", 400..=599))
                    .collect::<Vec<_>>()
                    .into_iter()
                    .flatten();
                let first = all.next();
                other_statuses.extend(all);
                if items.is_empty() {
                    let diagnostic = Diagnostic::new(node.span(), "the list of statuses is empty");
                    self.diagnostics
                        .report(diagnostic.help("write `status = 422` or `status = [400, 422]`"));
                }
                first
            }
            Some(node) => self.diagnostics.whole(node, "the `status` of a fault", 400..=599),
            None => {
                self.diagnostics.missing(
                    Diagnostic::new(name.span.clone(), format!("the fault `{}` has no status", name.text))
                        .label("`status` is missing here")
                        .help("a problem type is defined by its type, title and status (RFC 9457 section 4)"),
                );
                None
            }
        };
        let any_type = table.get("type").is_some_and(|node| node.get_ref().as_str() == Some("any"));
        let type_uri = table.get("type").filter(|_| !any_type).and_then(|node| self.type_uri(node));
        let (title, titles) = table.get("title").map(|node| self.titles(node)).unwrap_or_default();
        if type_uri.is_some() && !table.contains_key("title") {
            let message = format!("the fault `{}` has a type and no title", name.text);
            let help =
                "a problem type is defined by its type, title and status (RFC 9457 section 4)";
            self.diagnostics.report(Diagnostic::warning(name.span.clone(), message).help(help));
        }
        let code = table.get("code").and_then(|node| self.code(node));
        let headers = table.get("headers").map(|node| self.headers(node)).unwrap_or_default();
        let (media, other_media) = self.error_media(table);
        let own = table.get("shape").and_then(|node| self.shape_named(node));
        // Members beside a type or a title are those of a problem.
        let problem = || self.contract.shapes.find("problem");
        let is_problem = table.contains_key("type") || table.contains_key("title");
        let base = own.or(self.contract.error.shape);
        let extended = base.or_else(|| problem().filter(|_| is_problem));
        let shape =
            match table.get("members").and_then(|node| self.diagnostics.table(node, "`members`")) {
                Some(members) => Some(self.with_members(members, extended, name)),
                None => base,
            };
        let responses =
            table.get("when").map(|node| self.situations(node, "`when`")).unwrap_or_default();
        let class = self.class(table, status);
        // A fault without a status is a mistake already, and the contract will not be used.
        self.contract.faults.push(Fault {
            name: name.text.clone(),
            status: status.unwrap_or_default(),
            other_statuses,
            type_uri,
            any_type,
            other_media,
            title,
            titles,
            code,
            headers,
            media,
            shape,
            when: responses,
            class,
        });
    }

    /// A problem type; `about:blank` is the same as none (RFC 9457 section 4.2.1).
    fn type_uri(&mut self, node: &Node<'t>) -> Option<String> {
        let text = self.diagnostics.text(node, "`type`")?;
        if iri_string::types::UriReferenceStr::new(&text.text).is_err() {
            self.diagnostics.report(
                Diagnostic::new(
                    text.span,
                    "a problem type has to be a URI (RFC 9457 section 3.1.1)",
                )
                .label("no URI can be written like this"),
            );
            return None;
        }
        (text.text != "about:blank").then_some(text.text)
    }

    /// The shape of a fault that adds members to another shape.
    fn with_members(
        &mut self,
        more: &DeTable<'t>,
        base: Option<ShapeId>,
        fault: &SpannedText,
    ) -> ShapeId {
        let members = self.members(more, &fault.text, 0, &[]);
        let base = base.filter(|id| self.takes_members(*id, &fault.span));
        let base = base.and_then(|id| self.contract.shapes.get(id).cloned()).unwrap_or_default();
        let (closed, notes_unknown) = (base.closed, base.notes_unknown);
        let name = format!("the fault {}", fault.text);
        let id = self.add_shape(base.with(Shape {
            name,
            members,
            closed,
            notes_unknown,
            ..Shape::default()
        }));
        self.note_member_names(id, more, &[]);
        id
    }

    /// A title, or one a language; the first language's is the one where none is asked for.
    fn titles(&mut self, node: &Node<'t>) -> (Option<String>, Vec<(String, String)>) {
        let Some(table) = as_table(node) else {
            return (self.diagnostics.text(node, "`title`").map(|text| text.text), Vec::new());
        };
        let mut titles = Vec::new();
        for (key, node) in table {
            let language = key.get_ref().to_string();
            if !self.contract.languages.contains(&language) {
                let message = format!("`{language}` is none of the contract's languages");
                let help =
                    "declare them as in `languages = [\"en\", \"de\"]`; the first is the default";
                self.diagnostics.missing(Diagnostic::new(key.span(), message).help(help));
            }
            let title = self.diagnostics.text(node, "a title");
            titles.extend(title.map(|title| (language, title.text)));
        }
        for language in self.contract.languages.clone() {
            if !titles.iter().any(|(known, _)| *known == language) {
                let message = format!("the title has no `{language}` text");
                self.diagnostics.missing(Diagnostic::new(node.span(), message));
            }
        }
        let first = self.contract.languages.first();
        let default = titles.iter().find(|(language, _)| Some(language) == first);
        (default.map(|(_, title)| title.clone()), titles)
    }

    fn class(&mut self, table: &DeTable<'t>, status: Option<u16>) -> FaultClass {
        let any_time = table
            .get("any-request")
            .and_then(|node| self.diagnostics.boolean(node, "`any-request`"));
        let own =
            table.get("internal").and_then(|node| self.diagnostics.boolean(node, "`internal`"));
        if let (Some(true), Some(true), Some(node)) = (any_time, own, table.get("any-request")) {
            self.diagnostics.report(
                Diagnostic::new(node.span(), "a fault is `any-request` or `internal`, not both")
                    .help("`internal` never excuses a wrong request, `any-request` always does"),
            );
        }
        match (any_time, own, status) {
            (Some(true), _, _) => FaultClass::AnyRequest,
            (_, Some(true), _) | (_, None, Some(500)) => FaultClass::Internal,
            _ => FaultClass::Expected,
        }
    }
}
