//! Parses `[envelope]` and `[codes]`.

use std::ops::RangeInclusive;

use faithful_clerk_model::json::pointer::tokens;
use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::envelope::{ApplicationCodes, Envelope, LANGUAGE, LocationSource, ViolationPointers};
use crate::model::FaultId;
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::Node;

impl<'t> ContractParser<'t> {
    pub(super) fn envelope(&mut self, node: &Node<'t>) -> Envelope {
        let Some(table) = self.diagnostics.table(node, "`envelope`") else {
            return Envelope::default();
        };
        self.diagnostics.keys(table, "`envelope`", keys::ENVELOPE);
        Envelope {
            status: self.steps(table, "status"),
            code: self.steps(table, "code"),
            title: self.texts_at(table, "title"),
            message: self.texts_at(table, "message"),
            members: self.steps(table, "members"),
            success: self.steps(table, "success"),
            fields: table.get("fields").and_then(|node| self.fields_at(node)),
        }
    }

    /// Where texts are: a pointer that may have one for each language.
    fn texts_at(&mut self, table: &DeTable<'t>, key: &str) -> Option<Vec<String>> {
        let steps = self.steps(table, key)?;
        let is_by_language = steps.iter().any(|step| step == LANGUAGE);
        if is_by_language && self.contract.languages.is_empty() {
            let span = table.get(key).map_or(0..0, Node::span);
            let diagnostic = Diagnostic::new(span, "the contract has no languages");
            let help = "declare them as in `languages = [\"en\", \"de\"]`";
            self.diagnostics.missing(diagnostic.help(help));
        }
        Some(steps)
    }

    fn fields_at(&mut self, node: &Node<'t>) -> Option<ViolationPointers> {
        let table = self.diagnostics.table(node, "`fields`")?;
        self.diagnostics.keys(table, "`fields`", keys::FIELDS);
        let Some(each) = self.steps(table, "each") else {
            let diagnostic =
                Diagnostic::new(node.span(), "`fields` does not say where the violations are");
            self.diagnostics.missing(diagnostic.help("write `each = \"/errors/*\"`"));
            return None;
        };
        let is_key = |node: &Node<'t>| node.get_ref().as_str() == Some("member-name");
        let location = match table.get("location") {
            Some(node) if is_key(node) => LocationSource::MemberName,
            _ => LocationSource::Pointer(self.steps(table, "location").unwrap_or_default()),
        };
        let (message, code) = (self.steps(table, "message"), self.steps(table, "code"));
        Some(ViolationPointers { each, location, message, code })
    }

    /// A JSON Pointer, in steps.
    pub(super) fn steps(&mut self, table: &DeTable<'t>, key: &str) -> Option<Vec<String>> {
        let text = self.diagnostics.text(table.get(key)?, &format!("`{key}`"))?;
        let steps = tokens(&text.text).filter(|_| !text.text.starts_with('#'));
        if steps.is_none() {
            let diagnostic =
                Diagnostic::new(text.span, format!("`{key}` has to be a JSON Pointer"));
            let help = "a pointer starts with `/`, as in \"/meta/code\" (RFC 6901 section 3)";
            self.diagnostics.report(diagnostic.label("this is none").help(help));
        }
        steps
    }

    pub(super) fn codes(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`codes`") else { return };
        let mut codes: ApplicationCodes = self.contract.codes.take().unwrap_or_default();
        for (key, node) in table {
            if key.get_ref() == "range" {
                codes.range = self.range(node);
                continue;
            }
            let code = key.get_ref().to_string();
            let Some(entry) = as_table(node) else {
                let message = format!("the code `{code}` has to be a table");
                let help = "write `4017 = { fault = \"berth-taken\" }`, or `4017 = {}`";
                self.diagnostics.report(Diagnostic::new(node.span(), message).help(help));
                continue;
            };
            self.diagnostics.keys(entry, "a code", keys::CODE);
            let fault = entry.get("fault").and_then(|node| self.fault_named(node));
            codes.catalogue.push((code, fault));
        }
        for (code, fault) in &codes.catalogue {
            let fault = fault.and_then(|id| self.contract.faults.get_mut(id.0));
            if let Some(fault) = fault.filter(|fault| fault.code.is_none()) {
                fault.code = Some(code.clone());
            }
        }
        // A fault's own `code` belongs to the catalogue, too.
        for (at, fault) in self.contract.faults.iter().enumerate() {
            if let Some(code) = &fault.code
                && !codes.catalogue.iter().any(|(known, _)| known == code)
            {
                codes.catalogue.push((code.clone(), Some(FaultId(at))));
            }
        }
        self.contract.codes = Some(codes);
    }

    fn range(&mut self, node: &Node<'t>) -> Option<RangeInclusive<i64>> {
        let text = self.diagnostics.text(node, "`range`")?;
        let range = text.text.split_once(" to ").and_then(|(least, most)| {
            Some(least.trim().parse::<i64>().ok()?..=most.trim().parse().ok()?)
        });
        if range.as_ref().is_none_or(RangeInclusive::is_empty) {
            let diagnostic = Diagnostic::new(text.span, "`range` has to be two numbers");
            self.diagnostics
                .report(diagnostic.label("write \"4000 to 5999\", the smaller one first"));
            return None;
        }
        range
    }

    /// An application code: a number or text.
    pub(super) fn code(&mut self, node: &Node<'t>) -> Option<String> {
        match node.get_ref() {
            DeValue::String(text) => Some(text.to_string()),
            DeValue::Integer(number) => Some(number.as_str().to_owned()),
            _ => {
                let diagnostic =
                    Diagnostic::new(node.span(), "`code` has to be a number or a string");
                self.diagnostics.report(diagnostic.label("this is neither"));
                None
            }
        }
    }
}
