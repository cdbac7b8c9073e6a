//! `[fault.*]`.

use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::model::{Fault, FaultClass, FaultId};
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::{Node, SpannedText};
use crate::region::RegionId;
use faithful_clerk_shape::{ConstrainedType, Shape, ShapeId, ShapeMember, TypeName};

/// What the shapes of a fault are made of, one for each style of errors.
#[derive(Debug, Clone)]
pub(super) struct FaultParts {
    pub(super) name: SpannedText,
    /// The shape that the fault names itself.
    pub(super) own: Option<ShapeId>,
    /// Has it a type or a title, as problems have?
    pub(super) is_problem: bool,
    pub(super) members: Option<Vec<ShapeMember>>,
    /// The names of its members, where they stand in this contract.
    pub(super) member_names: Vec<SpannedText>,
}

/// A shape that is made, with its base and the place of the fault's members in it.
type MadeShape = (Option<ShapeId>, Vec<String>, ShapeId);

/// The names of a table of members, with where they stand.
fn member_names(table: &DeTable<'_>) -> Vec<SpannedText> {
    let named = |key: &toml::Spanned<_>| SpannedText {
        text: ToString::to_string(key.get_ref()),
        span: key.span(),
    };
    table.keys().map(named).collect()
}

impl<'t> ContractParser<'t> {
    pub(super) fn fault(&mut self, name: &SpannedText, node: &Node<'t>) {
        let owner = format!("[fault.{}]", name.text);
        // One that is taken over is narrowed.
        let known = self.base_fault(&name.text);
        let id = known.unwrap_or(FaultId(self.contract.faults.len()));
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
            None if known.is_some() => None,
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
        if type_uri.is_some() && !table.contains_key("title") && known.is_none() {
            let message = format!("the fault `{}` has a type and no title", name.text);
            let help =
                "a problem type is defined by its type, title and status (RFC 9457 section 4)";
            self.diagnostics.report(Diagnostic::warning(name.span.clone(), message).help(help));
        }
        let code = table.get("code").and_then(|node| self.code(node));
        let headers = table.get("headers").map(|node| self.headers(node)).unwrap_or_default();
        let (media, other_media) = self.error_media(table);
        let own = table.get("shape").and_then(|node| self.shape_named(node));
        let members = table.get("members").and_then(|n| self.diagnostics.table(n, "`members`"));
        let mut parts = FaultParts {
            name: name.clone(),
            own,
            // Members beside a type or a title are those of a problem.
            is_problem: table.contains_key("type") || table.contains_key("title"),
            members: members.map(|table| self.members(table, &name.text, 0, &[])),
            member_names: members.map(member_names).unwrap_or_default(),
        };
        let responses =
            table.get("when").map(|node| self.situations(node, "`when`")).unwrap_or_default();
        let class = self.class(table, status);
        // A fault without a status is a mistake already, and the contract will not be used.
        let mut fault = Fault {
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
            shape: None,
            region_shapes: Vec::new(),
            when: responses,
            class,
            is_documented: false,
        };
        match known {
            Some(known) => {
                self.narrow_fault(known, &mut fault, &mut parts, table);
                if let Some(place) = self.contract.faults.get_mut(known.0) {
                    *place = fault;
                }
                if let Some(place) = self.fault_parts.get_mut(known.0) {
                    *place = parts;
                }
            }
            None => {
                self.contract.faults.push(fault);
                self.fault_parts.push(parts);
            }
        }
    }

    /// The shapes of all faults, once every style is known.
    pub(super) fn fault_shapes(&mut self) {
        let regions: Vec<RegionId> = (0..self.contract.regions.len()).map(RegionId).collect();
        for (at, parts) in std::mem::take(&mut self.fault_parts).into_iter().enumerate() {
            let mut made = Vec::new();
            let shape = self.fault_shape(&parts, &mut made, None);
            let in_regions = regions.iter();
            let in_regions: Vec<Option<ShapeId>> = in_regions
                .map(|region| self.fault_shape(&parts, &mut made, Some(*region)))
                .collect();
            if let Some(fault) = self.contract.faults.get_mut(at) {
                (fault.shape, fault.region_shapes) = (shape, in_regions);
            }
        }
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

    /// The shape of a fault's body in a region, or outside all of them.
    fn fault_shape(
        &mut self,
        of: &FaultParts,
        made: &mut Vec<MadeShape>,
        region: Option<RegionId>,
    ) -> Option<ShapeId> {
        let style = self.contract.style(region);
        let base = of.own.or(style.error.shape);
        let Some(members) = &of.members else { return base };
        let problem = || self.contract.shapes.find("problem").filter(|_| of.is_problem);
        let base = base.or_else(problem);
        let at = style.envelope.members.clone().filter(|_| of.own.is_none()).unwrap_or_default();
        let known = made.iter().find(|(known, place, _)| *known == base && *place == at);
        if let Some((_, _, id)) = known {
            return Some(*id);
        }
        // A region whose errors are a line of text has no place for members.
        let is_object = |id: ShapeId| self.contract.shapes.get(id).is_none_or(|s| s.of.is_none());
        if region.is_some() && at.is_empty() && !base.is_none_or(is_object) {
            return base;
        }
        // An array at the top takes them in its items.
        let in_items = at.first().is_some_and(|first| first == "*");
        let taken = base.filter(|id| in_items || self.takes_members(*id, &of.name.span));
        let mut name = format!("the fault {}", of.name.text);
        if let Some(region) = self.contract.region(region) {
            name = format!("{name} in {}", region.name);
        }
        let id = self.with_members(taken, &at, members, name);
        if at.is_empty() {
            let names = of.member_names.iter().map(|name| (id, name.clone()));
            self.unmatched.members.extend(names);
        }
        made.push((base, at, id));
        Some(id)
    }

    /// A shape like another with more members, in the object at that place of it.
    fn with_members(
        &mut self,
        base: Option<ShapeId>,
        at: &[String],
        more: &[ShapeMember],
        name: String,
    ) -> ShapeId {
        let base = base.and_then(|id| self.contract.shapes.get(id).cloned()).unwrap_or_default();
        let of_items = base.of.as_deref().and_then(|of| match &of.name {
            TypeName::Array(item) => Some((item, &of.limits)),
            _ => None,
        });
        if let (Some((item, limits)), Some((_, rest))) = (of_items, at.split_first()) {
            let inner = match item.name {
                TypeName::Shape(id) => Some(id),
                _ => None,
            };
            let limits = limits.clone();
            let inner = self.with_members(inner, rest, more, format!("{name}.*"));
            let item = ConstrainedType { name: TypeName::Shape(inner), limits: Vec::new() };
            let of = ConstrainedType { name: TypeName::Array(Box::new(item)), limits };
            return self.add_shape(Shape { name, of: Some(Box::new(of)), ..Shape::default() });
        }
        let members = match at.split_first() {
            None => more.to_vec(),
            Some((step, rest)) => {
                let known = base.members.iter().find(|member| member.name == *step).cloned();
                let (is_list, inner) = match known.as_ref().map(|known| &known.constrained.name) {
                    Some(TypeName::Shape(id)) => (false, Some(*id)),
                    Some(TypeName::Array(item)) => match item.name {
                        TypeName::Shape(id) => (true, Some(id)),
                        _ => (true, None),
                    },
                    _ => (rest.first().is_some_and(|next| next == "*"), None),
                };
                let rest = if is_list { rest.get(1..).unwrap_or_default() } else { rest };
                let inner = self.with_members(inner, rest, more, format!("{name}.{step}"));
                let inner = ConstrainedType { name: TypeName::Shape(inner), limits: Vec::new() };
                let limits = known.map(|known| known.constrained.limits).unwrap_or_default();
                let constrained = match is_list {
                    true => ConstrainedType { name: TypeName::Array(Box::new(inner)), limits },
                    false => inner,
                };
                let text = if is_list { "array of object" } else { "object" }.to_owned();
                vec![ShapeMember { name: step.clone(), text, optional: false, constrained }]
            }
        };
        let (closed, notes_unknown) = (base.closed, base.notes_unknown);
        let own = Shape { name, members, closed, notes_unknown, ..Shape::default() };
        self.add_shape(base.with(own))
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
