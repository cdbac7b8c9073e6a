//! Parses `[validation-errors]`.

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::Node;
use crate::validation_errors::{
    ChoicePointer, DuplicateRule, LocationSpelling, PointerForm, PointerTarget, ValidationErrorRule,
};

impl<'t> ContractParser<'t> {
    pub(super) fn validation_errors(&mut self, node: &Node<'t>) -> ValidationErrorRule {
        let Some(table) = self.diagnostics.table(node, "`validation-errors`") else {
            return ValidationErrorRule::default();
        };
        self.diagnostics.keys(table, "`validation-errors`", keys::VALIDATION_ERRORS);
        let pointer = self.one_of(table, "pointer", &["plain", "fragment"]);
        let choice = table.get("one-of").and_then(|node| self.choice(node));
        ValidationErrorRule {
            pointer: match pointer {
                Some(0) => PointerForm::Plain,
                Some(_) => PointerForm::Fragment,
                None => PointerForm::Either,
            },
            spelling: self.spelling(table),
            parameters: table.get("parameters").and_then(|node| self.parameter_template(node)),
            missing: self.named(table, "missing"),
            unknown: self.named(table, "unknown"),
            one_of: choice.unwrap_or_default(),
            root: table
                .get("root")
                .and_then(|n| self.diagnostics.text(n, "`root`"))
                .map(|t| t.text),
            missing_member: self.missing_member(table),
            duplicates: match self.one_of(table, "duplicates", &["by rule", "by location"]) {
                Some(0) => DuplicateRule::ByRule,
                Some(_) => DuplicateRule::ByLocation,
                None => DuplicateRule::Identical,
            },
            codes: self.strings(table, "codes"),
        }
    }

    fn named(&mut self, table: &DeTable<'t>, key: &str) -> PointerTarget {
        match self.one_of(table, key, &["itself", "parent"]) {
            Some(0) => PointerTarget::Member,
            Some(_) => PointerTarget::Parent,
            None => PointerTarget::Either,
        }
    }

    /// Where the name of a missing member is, in a violation about its parent.
    fn missing_member(&mut self, table: &DeTable<'t>) -> Option<Vec<String>> {
        let steps = self.steps(table, "missing-member")?;
        if table.get("missing").and_then(|node| node.get_ref().as_str()) != Some("parent") {
            let span = table.get("missing-member").map_or(0..0, Node::span);
            let message = "`missing-member` is for violations that name the parent";
            let diagnostic = Diagnostic::new(span, message);
            self.diagnostics.report(diagnostic.help("write `missing = \"parent\"` beside it"));
        }
        Some(steps)
    }

    fn spelling(&mut self, table: &DeTable<'t>) -> Option<LocationSpelling> {
        let words = LocationSpelling::ALL.map(|(word, _)| word);
        let at = self.one_of(table, "locations", &words)?;
        LocationSpelling::ALL.get(at).map(|(_, spelling)| *spelling)
    }

    /// `{in}:{name}`: how a parameter is named.
    fn parameter_template(&mut self, node: &Node<'t>) -> Option<String> {
        let text = self.diagnostics.text(node, "`parameters`")?;
        if !text.text.contains("{name}") {
            let diagnostic = Diagnostic::new(text.span, "`parameters` names no parameter");
            self.diagnostics.report(diagnostic.help("write \"{in}:{name}\", or \"{name}\""));
            return None;
        }
        Some(text.text)
    }

    fn choice(&mut self, node: &Node<'t>) -> Option<ChoicePointer> {
        let text = self.diagnostics.text(node, "`one-of`")?;
        match text.text.split_once(' ') {
            None if text.text == "whole" => Some(ChoicePointer::Value),
            Some(("by", member)) if !member.is_empty() => {
                Some(ChoicePointer::Discriminator(member.to_owned()))
            }
            _ => {
                let diagnostic = Diagnostic::new(text.span, "`one-of` is one of two things");
                self.diagnostics.report(diagnostic.label("use \"whole\" or \"by MEMBER\""));
                None
            }
        }
    }

    /// The place of a text among the only ones that are right; anything else is a mistake.
    pub(super) fn one_of(
        &mut self,
        table: &DeTable<'t>,
        key: &str,
        right: &[&str],
    ) -> Option<usize> {
        let text = self.diagnostics.text(table.get(key)?, &format!("`{key}`"))?;
        let found = right.iter().position(|word| *word == text.text);
        if found.is_none() {
            let words: Vec<String> = right.iter().map(|word| format!("\"{word}\"")).collect();
            let message = format!("`{key}` can't be \"{}\"", text.text);
            let label = format!("use {}", words.join(" or "));
            self.diagnostics.report(Diagnostic::new(text.span, message).label(label));
        }
        found
    }

    /// The texts of a list, where there is one.
    pub(super) fn strings(&mut self, table: &DeTable<'t>, key: &str) -> Vec<String> {
        let owner = format!("`{key}`");
        let texts =
            table.get(key).map(|node| self.diagnostics.texts(node, &owner)).unwrap_or_default();
        texts.into_iter().map(|text| text.text).collect()
    }
}
