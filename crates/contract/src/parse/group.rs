//! `[group.*]`: rules for several endpoints at once.

use std::ops::Range;

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::model::CaseSensitivity;
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::{Node, SpannedText};
use crate::path_pattern::PathPattern;
use crate::rules::{ParameterLocation, Rules};

/// Rules for the endpoints that one of the patterns names.
#[derive(Debug)]
pub(super) struct EndpointGroup {
    pub(super) name: String,
    /// Its patterns, each with where it stands.
    pub(super) patterns: Vec<(EndpointPattern, Range<usize>)>,
    /// What an endpoint has, to be in it.
    pub(super) with: Vec<EndpointPart>,
    /// Is it this contract's own, and not of one that it is like?
    pub(super) is_own: bool,
    pub(super) rules: Rules,
}

/// What an endpoint can have, by which groups are made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum EndpointPart {
    Body,
    PathParameters,
    QueryParameters,
}

impl EndpointPart {
    const ALL: [(&'static str, Self); 3] = [
        ("body", Self::Body),
        ("path-parameters", Self::PathParameters),
        ("query-parameters", Self::QueryParameters),
    ];

    /// Has an endpoint with these rules, its own or those of the description, that part?
    fn is_in(self, path: &str, rules: &[&Rules]) -> bool {
        match self {
            Self::Body => rules.iter().any(|rules| rules.body.is_some()),
            Self::PathParameters => path.contains('{'),
            Self::QueryParameters => rules
                .iter()
                .flat_map(|rules| rules.parameters())
                .any(|parameter| parameter.location == ParameterLocation::Query),
        }
    }
}

/// `* /reservations/**`: a method or `*`, and a pattern of paths.
#[derive(Debug)]
pub(super) struct EndpointPattern {
    method: String,
    path: PathPattern,
}

impl EndpointGroup {
    /// The same group in a contract that is like its own.
    pub(super) fn taken_over(self) -> Self {
        Self { is_own: false, ..self }
    }

    /// Has an endpoint all the parts that are asked for?
    pub(super) fn has_parts(&self, path: &str, rules: &[&Rules]) -> bool {
        self.with.iter().all(|part| part.is_in(path, rules))
    }
}

impl EndpointPattern {
    fn read(text: &str) -> Option<Self> {
        let (method, path) = text.split_once(' ')?;
        let path = PathPattern::read(path)?;
        (!method.is_empty()).then(|| Self { method: method.to_owned(), path })
    }

    /// How specific it is, if it fits.
    pub(super) fn fits(&self, method: &str, path: &str) -> Option<usize> {
        if self.method != "*" && self.method != method {
            return None;
        }
        let path: Vec<&str> = path.trim_start_matches('/').split('/').collect();
        self.path.fits(&path, CaseSensitivity::Sensitive)
    }
}

impl<'t> ContractParser<'t> {
    pub(super) fn group(&mut self, name: &SpannedText, node: &Node<'t>) {
        let owner = format!("[group.{}]", name.text);
        let Some(table) = self.diagnostics.table(node, &owner) else { return };
        let known = [keys::RULES, keys::GROUP].concat();
        self.diagnostics.keys(table, &owner, &known);
        let with = table.get("with").map(|node| self.endpoint_parts(node)).unwrap_or_default();
        let patterns = self.patterns(table, name);
        let rules = self.rules(table);
        let name = name.text.clone();
        self.groups.push(EndpointGroup { name, patterns, with, is_own: true, rules });
    }

    fn patterns(
        &mut self,
        table: &DeTable<'t>,
        name: &SpannedText,
    ) -> Vec<(EndpointPattern, Range<usize>)> {
        let Some(node) = table.get("endpoints") else {
            if let (Some(with), Some(every)) = (table.get("with"), EndpointPattern::read("* /**")) {
                return vec![(every, with.span())];
            }
            let message =
                format!("the group `{}` does not say which endpoints are in it", name.text);
            let help = "write `endpoints = [\"* /reservations/**\"]`";
            self.diagnostics.missing(Diagnostic::new(name.span.clone(), message).help(help));
            return Vec::new();
        };
        let mut patterns = Vec::new();
        for text in self.diagnostics.texts(node, "`endpoints`") {
            match EndpointPattern::read(&text.text) {
                Some(pattern) => patterns.push((pattern, text.span)),
                None => {
                    let diagnostic = Diagnostic::new(text.span, "this names no endpoints");
                    let help =
                        "write \"GET /berths\", \"* /reservations/**\" or \"POST /*/check-in\"";
                    self.diagnostics.report(diagnostic.help(help));
                }
            }
        }
        patterns
    }

    fn endpoint_parts(&mut self, node: &Node<'t>) -> Vec<EndpointPart> {
        let mut parts = Vec::new();
        for text in self.diagnostics.texts(node, "`with`") {
            match EndpointPart::ALL.iter().find(|(name, _)| *name == text.text) {
                Some((_, part)) => parts.push(*part),
                None => {
                    let message = format!("an endpoint has no part called `{}`", text.text);
                    let help = "use \"body\", \"path-parameters\" or \"query-parameters\"";
                    self.diagnostics.report(Diagnostic::new(text.span, message).help(help));
                }
            }
        }
        parts
    }

    /// The rules of the groups that an endpoint is in, the nearest first: that with the longest pattern; of two with the
    /// same pattern, that with more parts. What the endpoint has is seen from its own rules and those of a description.
    pub(super) fn groups_of(
        &self,
        method: &str,
        path: &str,
        rules: &[&Rules],
    ) -> Vec<&EndpointGroup> {
        let fits = |group: &EndpointGroup| {
            if !group.has_parts(path, rules) {
                return None;
            }
            group.patterns.iter().filter_map(|(one, _)| one.fits(method, path)).max()
        };
        let mut found: Vec<_> =
            self.groups.iter().filter_map(|group| Some((fits(group)?, group))).collect();
        found.sort_by_key(|(length, group)| std::cmp::Reverse((*length, group.with.len())));
        found.into_iter().map(|(_, group)| group).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_name_endpoints_by_whole_steps() {
        for (pattern, endpoint, fits) in [
            ("GET /berths", "GET /berths", true),
            ("GET /berths", "POST /berths", false),
            ("* /berths", "GET /berths/{id}", false),
            ("* /berths/**", "GET /berths/{id}", true),
            ("* /berths/**", "GET /berths", true),
            ("* /berths/**", "GET /berths-old", false),
            ("* /**", "PUT /a/{b}/c", true),
            ("GET /berths/{number}", "GET /berths/{id}", true),
            ("POST /*/check-in", "POST /arrivals/check-in", true),
        ] {
            let (method, path) = endpoint.split_once(' ').unwrap();
            let found = EndpointPattern::read(pattern).unwrap().fits(method, path).is_some();
            assert_eq!(found, fits, "{pattern} {endpoint}");
        }
        for text in ["/berths", "GET berths", "GET /**/x"] {
            assert!(EndpointPattern::read(text).is_none(), "{text}");
        }
    }
}
