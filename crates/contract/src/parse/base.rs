//! `like` of a contract: what it takes over from another one, adds to and narrows, and never silently contradicts.

use std::collections::BTreeMap;

use serde_json::Value;
use toml::de::{DeTable, DeValue};

use crate::diagnostics::{Diagnostic, DiagnosticSeverity};
use crate::envelope::Envelope;
use crate::model::{ErrorContract, Fault, FaultClass, FaultId, KeyLines};
use crate::parse::fault::FaultParts;
use crate::parse::group::EndpointGroup;
use crate::parse::key_lines::key_lines;
use crate::parse::parser::ContractParser;
use crate::parse::repair::without_broken_lines;
use crate::parse::values::{Node, parse};
use crate::region::ErrorStyle;
use crate::rules::{Rules, added_headers};
use crate::validation_errors::ValidationErrorRule;
use faithful_clerk_schema::join_path;

/// So many contracts can be like one another, in a row.
const MOST_LIKE: usize = 8;

/// A contract is no longer than this.
const LARGEST: usize = 4 << 20;

/// The contract that another one is like, as far as its values are not in that one already.
pub(super) struct BaseContract {
    /// Its path, as the contract has it.
    pub(super) path: String,
    pub(super) style: ErrorStyle,
    pub(super) everywhere: Rules,
    pub(super) lines: KeyLines,
    groups: Vec<EndpointGroup>,
    /// The number of its faults, which come first.
    faults: usize,
    /// What each key has, down to those that are no tables.
    keys: BTreeMap<Vec<String>, Value>,
}

/// The tables whose keys must not contradict.
const TABLES: [&str; 6] =
    ["error", "envelope", "validation-errors", "everywhere", "codes", "languages"];

/// The rules of which an exception is told.
const STRICT: [&str; 8] = [
    "auth",
    "respond-within",
    "max-request-body",
    "precedence",
    "unknown-parameters",
    "repeated-parameters",
    "success-shape",
    "error-headers",
];

impl<'t> ContractParser<'t> {
    /// Reads the contract that this one is like, and takes over what it says of errors.
    pub(super) fn take_over(&mut self, node: &Node<'t>) {
        let Some(text) = self.diagnostics.text(node, "`like`") else { return };
        let from = self.like_chain.last().map_or("", String::as_str);
        let path = join_path(from, &text.text);
        let why = match self.read_base(&path) {
            Ok((contract, parts)) => return self.seed(text.text, contract, parts),
            Err(why) => why,
        };
        let diagnostic = Diagnostic::new(text.span, "this contract can't be taken over");
        self.diagnostics.report(diagnostic.label(why));
    }

    fn read_base(&self, path: &str) -> Result<(ErrorContract, BaseParts), String> {
        if self.like_chain.iter().any(|known| known == path) {
            return Err("it leads back to itself".to_owned());
        }
        if self.like_chain.len() >= MOST_LIKE {
            return Err(format!("more than {MOST_LIKE} contracts are like one another"));
        }
        let bytes = self.files.read(path)?;
        if bytes.len() > LARGEST {
            return Err(format!("it is larger than {} MB", LARGEST >> 20));
        }
        let text = String::from_utf8(bytes).map_err(|_| "it is not UTF-8".to_owned())?;
        let (clean, broken) = without_broken_lines(&text);
        let (document, diagnostics) = parse(&clean, broken);
        let mut parser = ContractParser::new(diagnostics, self.files, self.clauses);
        parser.like_chain = [self.like_chain.as_slice(), &[path.to_owned()]].concat();
        let mut parts = BaseParts::default();
        if let Some(document) = document {
            let top = document.get_ref();
            parser.base_document(top);
            parts.lines = key_lines(&clean, top);
            if let Some(base) = parser.base.take() {
                parts.lines.take_over(base.lines, &base.path);
                parts.keys = base.keys;
                parser.groups.extend(base.groups);
            }
            leaves(top, &mut Vec::new(), &mut parts.keys);
        }
        let errors = parser.diagnostics.all.iter();
        let mut errors = errors.filter(|one| one.severity == DiagnosticSeverity::Error);
        if let Some(first) = errors.next() {
            let (line, column) = first.line_and_column(&text);
            return Err(format!("{path}:{line}:{column}: {}", first.message));
        }
        (parts.faults, parts.bases) = (parser.fault_parts, parser.shape_bases);
        parts.groups = parser.groups;
        Ok((parser.contract, parts))
    }

    /// What a contract says of errors. Its servers, endpoints, cases and waivers are its own.
    fn base_document(&mut self, top: &DeTable<'t>) {
        if let Some(node) = top.get("like") {
            self.take_over(node);
        }
        let public = self.strings(top, "public");
        self.contract.public.extend(public);
        self.languages(top);
        let shapes = self.names(top.get("shape"), "`shape`");
        self.errors(top, &shapes);
        if let Some(node) = top.get("severity") {
            self.severities(node);
        }
    }

    fn seed(&mut self, path: String, base: ErrorContract, parts: BaseParts) {
        let ErrorContract { public, languages, style, regions, codes, shapes, .. } = base;
        let names = base
            .faults
            .iter()
            .enumerate()
            .map(|(at, fault)| (fault.name.clone(), (FaultId(at), 0..0)));
        self.fault_names = names.collect();
        self.used_faults.extend((0..base.faults.len()).map(FaultId));
        self.used_shapes.extend(0..shapes.shapes.len());
        self.base = Some(BaseContract {
            path,
            style,
            everywhere: base.everywhere,
            lines: parts.lines,
            groups: parts.groups,
            faults: base.faults.len(),
            keys: parts.keys,
        });
        for name in base.credentials {
            if !self.contract.credentials.iter().any(|known| known.eq_ignore_ascii_case(&name)) {
                self.contract.credentials.push(name);
            }
        }
        self.fault_parts = parts.faults;
        self.shape_bases = parts.bases;
        self.contract.public = public;
        self.contract.languages = languages;
        self.contract.regions = regions;
        self.contract.codes = codes;
        self.contract.shapes = shapes;
        self.contract.faults = base.faults;
        self.contract.severities = base.severities;
    }

    /// The groups of the contract that this one is like come behind its own, so that its own win where both fit alike.
    pub(super) fn add_base_groups(&mut self) {
        let groups = self.base.as_mut().map(|base| std::mem::take(&mut base.groups));
        let groups = groups.unwrap_or_default().into_iter();
        self.groups.extend(groups.map(EndpointGroup::taken_over));
    }

    /// The fault of that name, if it is taken over.
    pub(super) fn base_fault(&self, name: &str) -> Option<FaultId> {
        let (id, _) = self.fault_names.get(name)?;
        self.base.as_ref().filter(|base| id.0 < base.faults).map(|_| *id)
    }

    /// Says that a value contradicts the contract that this one is like.
    pub(super) fn contradicts(&mut self, what: &str, how: &str, span: std::ops::Range<usize>) {
        let path = self.base.as_ref().map_or("", |base| base.path.as_str());
        let message = format!("{what} contradicts {path}");
        let diagnostic = Diagnostic::new(span, message).label(how);
        let help = "a contract adds to the one that it is like, or narrows it";
        self.diagnostics.report(diagnostic.help(help));
    }

    /// Every key that says another thing than the contract that this one is like, and does not narrow it.
    pub(super) fn check_against_base(&mut self, top: &DeTable<'t>) {
        if self.base.is_none() {
            return;
        }
        for name in TABLES {
            if let Some(node) = top.get(name) {
                self.check_leaves(node, &mut vec![name.to_owned()]);
            }
        }
        self.note_exceptions(top);
        let named = top.get("region").and_then(|node| node.get_ref().as_table());
        let taken: Vec<String> =
            self.contract.regions.iter().map(|region| region.name.clone()).collect();
        for (name, _) in named.into_iter().flatten() {
            if taken.iter().any(|known| known == name.get_ref()) {
                let what = format!("the region \"{}\"", name.get_ref());
                self.contradicts(&what, "it is declared there", name.span());
            }
        }
    }

    /// Where an endpoint or a group is less strict than the contract that this one is like is everywhere: that may be
    /// meant, and is told.
    fn note_exceptions(&mut self, top: &DeTable<'t>) {
        for kind in ["group", "endpoint"] {
            let named = top.get(kind).and_then(|node| node.get_ref().as_table());
            for (_, node) in named.into_iter().flatten() {
                let table = node.get_ref().as_table();
                for (key, node) in table.into_iter().flatten() {
                    self.note_exception(key.get_ref(), node);
                }
            }
        }
    }

    fn note_exception(&mut self, key: &str, node: &Node<'t>) {
        if !STRICT.contains(&key) {
            return;
        }
        let mut found = Vec::new();
        if let Some(base) = &self.base {
            let mut own = BTreeMap::new();
            match node.get_ref() {
                DeValue::Table(inner) => leaves(inner, &mut vec![key.to_owned()], &mut own),
                other => _ = own.insert(vec![key.to_owned()], value(other)),
            }
            for (path, own) in own {
                let path = [&["everywhere".to_owned()], path.as_slice()].concat();
                let there = base.keys.get(&path).filter(|there| **there != own);
                if let Some(there) = there.filter(|there| !self.narrows(key, &own, there)) {
                    let name = path.last().map_or("", String::as_str);
                    found.push(format!(
                        "`{name}` is {there} everywhere in {}, and not here",
                        base.path
                    ));
                }
            }
        }
        for message in found {
            let help = "leave it as it is if that is meant";
            self.diagnostics.report(Diagnostic::warning(node.span(), message).help(help));
        }
    }

    fn check_leaves(&mut self, node: &Node<'t>, path: &mut Vec<String>) {
        if let DeValue::Table(table) = node.get_ref() {
            for (key, inner) in table {
                path.push(key.get_ref().to_string());
                self.check_leaves(inner, path);
                path.pop();
            }
            return;
        }
        let Some(base) = self.base.as_ref().and_then(|base| base.keys.get(path)).cloned() else {
            return;
        };
        let own = value(node.get_ref());
        if own != base && !self.narrows(path.last().map_or("", String::as_str), &own, &base) {
            let what = format!("`{}`", path.last().map_or("", String::as_str));
            self.contradicts(&what, &format!("it is {base} there"), node.span());
        }
    }

    /// Does a value ask for more than the other, so that whatever fits it fits the other, too?
    fn narrows(&self, key: &str, own: &Value, base: &Value) -> bool {
        let list = |value: &Value| -> Vec<Value> {
            value.as_array().cloned().unwrap_or_else(|| vec![value.clone()])
        };
        let within = || list(own).iter().all(|one| list(base).contains(one));
        match key {
            // Faults add up, and so do languages' texts by name.
            "faults" => true,
            "media" | "success" | "accepts" | "produces" | "codes" | "status" | "when" => within(),
            "respond-within" => {
                let limit = |value: &Value| milliseconds(value.as_str()?);
                limit(own).zip(limit(base)).is_some_and(|(own, base)| own <= base)
            }
            "range" => {
                let ends = |value: &Value| {
                    let (least, most) = value.as_str()?.split_once(" to ")?;
                    Some((least.trim().parse::<i64>().ok()?, most.trim().parse::<i64>().ok()?))
                };
                let both = ends(own).zip(ends(base));
                both.is_some_and(|(own, base)| own.0 >= base.0 && own.1 <= base.1)
            }
            "shape" | "success-shape" => {
                let shapes = &self.contract.shapes;
                let id = |value: &Value| shapes.find(value.as_str()?);
                id(own).zip(id(base)).is_some_and(|(own, base)| self.is_like(own.0, base.0))
            }
            "any-request" => own == &Value::from(false),
            _ => false,
        }
    }

    /// Is a shape like the other, through however many between?
    fn is_like(&self, shape: usize, base: usize) -> bool {
        let mut next = Some(shape);
        while let Some(shape) = next {
            if shape == base {
                return true;
            }
            // Rings were told, and taken out; what a shape is like was there before it, or stands beside it.
            next = self.shape_bases.get(&shape).copied().filter(|next| *next != shape);
        }
        false
    }

    /// A fault that is taken over, with what this contract adds to it.
    pub(super) fn narrow_fault(
        &mut self,
        id: FaultId,
        own: &mut Fault,
        parts: &mut FaultParts,
        table: &DeTable<'t>,
    ) {
        for (key, node) in table {
            let mut path = vec!["fault".to_owned(), own.name.clone(), key.get_ref().to_string()];
            self.check_leaves(node, &mut path);
        }
        let base = self.contract.faults.get(id.0).cloned();
        let base_parts = self.fault_parts.get(id.0).cloned();
        let (Some(base), Some(base_parts)) = (base, base_parts) else { return };
        let has = |key: &str| table.contains_key(key);
        if !has("status") {
            (own.status, own.other_statuses) = (base.status, base.other_statuses);
        }
        if !has("type") {
            (own.type_uri, own.any_type) = (base.type_uri, base.any_type);
        }
        if !has("title") {
            (own.title, own.titles) = (base.title, base.titles);
        }
        if !has("media") {
            (own.media, own.other_media) = (base.media, base.other_media);
        }
        if !has("when") {
            own.when = base.when;
        }
        if !has("any-request") && !has("internal") {
            own.class = base.class;
        } else if base.class == FaultClass::Internal && own.class != FaultClass::Internal {
            self.contradicts("`internal`", "it is true there", parts.name.span.clone());
        }
        own.code = own.code.take().or(base.code);
        own.headers = added_headers(std::mem::take(&mut own.headers), base.headers);
        parts.own = parts.own.or(base_parts.own);
        parts.is_problem |= base_parts.is_problem;
        if let Some(mut members) = base_parts.members {
            let more = parts.members.take().unwrap_or_default();
            members.retain(|known| more.iter().all(|one| one.name != known.name));
            members.extend(more);
            parts.members = Some(members);
        }
    }
}

/// What a contract gives to one that is like it, beside itself.
#[derive(Default)]
struct BaseParts {
    lines: KeyLines,
    groups: Vec<EndpointGroup>,
    faults: Vec<FaultParts>,
    bases: BTreeMap<usize, usize>,
    keys: BTreeMap<Vec<String>, Value>,
}

impl ErrorStyle {
    /// This, and for what it does not say the other.
    pub(super) fn or(self, base: Self) -> Self {
        Self {
            error: self.error.or(base.error),
            envelope: self.envelope.or(base.envelope),
            validation_errors: self.validation_errors.or(base.validation_errors),
        }
    }
}

impl Envelope {
    fn or(self, base: Self) -> Self {
        Self {
            status: self.status.or(base.status),
            code: self.code.or(base.code),
            title: self.title.or(base.title),
            message: self.message.or(base.message),
            members: self.members.or(base.members),
            success: self.success.or(base.success),
            fields: self.fields.or(base.fields),
        }
    }
}

impl ValidationErrorRule {
    fn or(self, base: Self) -> Self {
        fn said<T: Default + PartialEq>(own: T, base: T) -> T {
            if own == T::default() { base } else { own }
        }
        Self {
            pointer: said(self.pointer, base.pointer),
            missing: said(self.missing, base.missing),
            unknown: said(self.unknown, base.unknown),
            one_of: said(self.one_of, base.one_of),
            spelling: self.spelling.or(base.spelling),
            parameters: self.parameters.or(base.parameters),
            root: self.root.or(base.root),
            missing_member: self.missing_member.or(base.missing_member),
            duplicates: said(self.duplicates, base.duplicates),
            codes: said(self.codes, base.codes),
        }
    }
}

/// A time limit in milliseconds.
fn milliseconds(text: &str) -> Option<f64> {
    let number = |text: &str| text.trim().parse::<f64>().ok();
    match text.strip_suffix("ms") {
        Some(text) => number(text),
        None => number(text.strip_suffix('s')?).map(|seconds| seconds * 1000.0),
    }
}

/// Every key that is no table, with its value.
fn leaves(table: &DeTable<'_>, path: &mut Vec<String>, keys: &mut BTreeMap<Vec<String>, Value>) {
    for (key, node) in table {
        path.push(key.get_ref().to_string());
        match node.get_ref() {
            DeValue::Table(inner) => leaves(inner, path, keys),
            other => _ = keys.insert(path.clone(), value(other)),
        }
        path.pop();
    }
}

/// A value of TOML, to be compared and shown.
fn value(of: &DeValue<'_>) -> Value {
    match of {
        DeValue::String(text) => Value::from(text.as_ref()),
        DeValue::Integer(number) => {
            i64::from_str_radix(number.as_str(), number.radix()).map_or(Value::Null, Value::from)
        }
        DeValue::Float(number) => number.as_str().parse::<f64>().map_or(Value::Null, Value::from),
        DeValue::Boolean(is) => Value::from(*is),
        DeValue::Datetime(date) => Value::from(date.to_string()),
        DeValue::Array(items) => items.iter().map(|item| value(item.get_ref())).collect(),
        DeValue::Table(members) => members
            .iter()
            .map(|(name, inner)| (name.get_ref().to_string(), value(inner.get_ref())))
            .collect::<serde_json::Map<_, _>>()
            .into(),
    }
}
