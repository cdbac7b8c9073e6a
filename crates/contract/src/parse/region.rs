//! `[error]`, `[envelope]` and `[validation-errors]`, and `[region.*]` in which they are others.

use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::model::ErrorRule;
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::{Node, SpannedText};
use crate::path_pattern::PathPattern;
use crate::region::{ErrorStyle, Region};
use crate::rules::{Rules, added_headers};

/// A pattern of paths, and its table.
type NamedRegion<'n, 't> = (SpannedText, &'n Node<'t>);

impl<'t> ContractParser<'t> {
    /// What a table says of how errors look: the contract itself, or a region.
    pub(super) fn style(&mut self, table: &DeTable<'t>) -> ErrorStyle {
        ErrorStyle {
            error: table.get("error").map(|node| self.error(node)).unwrap_or_default(),
            envelope: table.get("envelope").map(|node| self.envelope(node)).unwrap_or_default(),
            validation_errors: table
                .get("validation-errors")
                .map(|node| self.validation_errors(node))
                .unwrap_or_default(),
        }
    }

    fn error(&mut self, node: &Node<'t>) -> ErrorRule {
        let Some(table) = self.diagnostics.table(node, "`error`") else {
            return ErrorRule::default();
        };
        self.diagnostics.keys(table, "`error`", keys::ERROR);
        let (media, other_media) = self.error_media(table);
        let shape = table.get("shape").and_then(|node| self.shape_named(node));
        let headers = table.get("headers").map(|node| self.headers(node)).unwrap_or_default();
        let respond_within = table.get("respond-within").and_then(|node| self.duration(node));
        ErrorRule { media, other_media, shape, headers, respond_within }
    }

    /// How errors look in each region. What it does not say is as in the region around it, or outside all regions.
    pub(super) fn region_styles(&mut self, named: &[NamedRegion<'_, 't>]) {
        // Those of a contract that this one is like are known.
        let first = self.contract.regions.len();
        // By the region's place behind them: the tables that it has.
        let mut tables = Vec::new();
        for (name, node) in named {
            let owner = format!("[region.\"{}\"]", name.text);
            let pattern = PathPattern::read(&name.text).map(PathPattern::of_recorded);
            if pattern.is_none() {
                let diagnostic = Diagnostic::new(name.span.clone(), "this names no paths");
                let help = "write it as in [region.\"/v2/events/**\"]: `*` is one segment, `**` at the end any rest";
                self.diagnostics.report(diagnostic.help(help));
            }
            let Some(table) = self.diagnostics.table(node, &owner) else { continue };
            self.diagnostics.keys(table, &owner, &[keys::RULES, keys::REGION].concat());
            if !table.contains_key("faults") && pattern.is_some() {
                self.unmatched.regions.push(name.clone());
            }
            let style = self.style(table);
            let servers = table.get("servers").map(|node| self.servers(node)).unwrap_or_default();
            let Some(pattern) = pattern else { continue };
            tables.push(table);
            self.contract.regions.push(Region {
                name: name.text.clone(),
                style,
                rules: Rules::default(),
                own_faults: Vec::new(),
                servers,
                pattern,
            });
        }
        for at in self.widest_first().into_iter().filter(|at| *at >= first) {
            let around = self.around(at).and_then(|outer| self.contract.regions.get(outer));
            let outer = around.map_or(&self.contract.style, |outer| &outer.style).clone();
            let servers = around.map(|outer| outer.servers.clone()).unwrap_or_default();
            let has =
                |key: &str| tables.get(at - first).is_some_and(|table| table.contains_key(key));
            let (has_envelope, has_validation) = (has("envelope"), has("validation-errors"));
            let Some(region) = self.contract.regions.get_mut(at) else { continue };
            let own = std::mem::take(&mut region.style);
            // Pointers into a body of one shape say nothing of another.
            let is_other_shape = own.error.shape.is_some();
            let own_or = |has_own: bool| has_own || is_other_shape;
            region.style = ErrorStyle {
                error: own.error.or(outer.error),
                envelope: if own_or(has_envelope) { own.envelope } else { outer.envelope },
                validation_errors: if own_or(has_validation) {
                    own.validation_errors
                } else {
                    outer.validation_errors
                },
            };
            if region.servers.is_empty() {
                region.servers = servers;
            }
        }
    }

    /// What holds in each region where a request leads to no endpoint.
    pub(super) fn region_rules(&mut self, named: &[NamedRegion<'_, 't>]) {
        for (name, node) in named {
            let Some(table) = node.get_ref().as_table() else { continue };
            let rules = self.rules(table);
            let own = self.contract.regions.iter_mut().find(|region| region.name == name.text);
            if let Some(own) = own {
                own.own_faults.clone_from(&rules.faults);
                own.rules = rules;
            }
        }
        for at in self.widest_first() {
            let around = self.around(at).and_then(|outer| self.contract.regions.get(outer));
            let outer = around.map_or(&self.contract.everywhere, |region| &region.rules).clone();
            let faults = &self.contract.faults;
            let Some(region) = self.contract.regions.get_mut(at) else { continue };
            region.rules = std::mem::take(&mut region.rules).or(&outer, faults);
        }
    }

    /// The regions, each after those around it.
    fn widest_first(&self) -> Vec<usize> {
        let regions = &self.contract.regions;
        let mut order: Vec<usize> = (0..regions.len()).collect();
        let around = |at: &usize| {
            let own = regions.get(*at).map(|region| &region.pattern);
            let covers = |other: &&Region| own.is_some_and(|own| other.pattern.covers(own));
            regions.iter().filter(covers).count()
        };
        order.sort_by_key(around);
        order
    }

    /// The nearest region around another: the one with the most regions around itself.
    fn around(&self, at: usize) -> Option<usize> {
        let regions = &self.contract.regions;
        let own = &regions.get(at)?.pattern;
        let is_around = |other: &usize| {
            *other != at && regions.get(*other).is_some_and(|other| other.pattern.covers(own))
        };
        self.widest_first().into_iter().rfind(is_around)
    }
}

impl ErrorRule {
    /// This, and for what it does not say the other. Headers add up by name.
    pub(super) fn or(self, wider: Self) -> Self {
        let has_media = self.media.is_some();
        Self {
            media: self.media.or(wider.media),
            other_media: if has_media { self.other_media } else { wider.other_media },
            shape: self.shape.or(wider.shape),
            headers: added_headers(self.headers, wider.headers),
            respond_within: self.respond_within.or(wider.respond_within),
        }
    }
}
