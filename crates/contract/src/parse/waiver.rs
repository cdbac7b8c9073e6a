//! `[[waiver]]`: dated, reasoned exceptions.

use jiff::civil::Date;
use toml::de::DeValue;

use crate::diagnostics::Diagnostic;
use crate::endpoint_row::{EndpointRow, NO_METHOD, NO_ROUTE};
use crate::model::{EndpointId, Waiver, WaiverValidity};
use crate::nearest::nearest;
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::Node;

impl<'t> ContractParser<'t> {
    pub(super) fn waivers(&mut self, node: &Node<'t>) {
        for item in self.diagnostics.items(node, "`waiver`") {
            self.waiver(item);
        }
    }

    fn waiver(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "a waiver") else { return };
        self.diagnostics.keys(table, "`[[waiver]]`", keys::WAIVER);
        let missing = |making: &mut Self, key: &str, help: &str| {
            if !table.contains_key(key) {
                let message = format!("a waiver without its `{key}`");
                making.diagnostics.missing(Diagnostic::new(node.span(), message).help(help));
            }
        };
        missing(self, "clause", "a waiver is for one clause; `fclerk explain` lists them");
        missing(self, "reason", "say why, for those who come after: `reason = \"…\"`");
        missing(self, "until", "say until which day: `until = 2027-05-31`");
        let clause = table.get("clause").and_then(|node| self.diagnostics.text(node, "`clause`"));
        let clause = clause.and_then(|text| self.clause_named(&text.text, text.span));
        let endpoint = table.get("endpoint").map(|node| {
            let text = self.diagnostics.text(node, "`endpoint`")?;
            let names: Vec<(String, _)> = self.endpoint_names();
            let endpoint = names.iter().find(|(name, _)| *name == text.text);
            let found = endpoint
                .map(|(_, id)| EndpointRow::Endpoint(*id))
                .or_else(|| self.off_endpoints(&text.text));
            if found.is_none() {
                let message = format!("unknown endpoint `{}`", text.text);
                let near = nearest(&text.text, names.iter().map(|(name, _)| name.as_str()));
                let diagnostic = Diagnostic::new(text.span, message);
                self.diagnostics.missing(match near {
                    Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
                    None => diagnostic.label("declared nowhere"),
                });
            }
            found
        });
        let reason = table.get("reason").and_then(|node| self.diagnostics.text(node, "`reason`"));
        let until = table.get("until").and_then(|node| self.date(node));
        let (Some(clause), Some(reason), Some(until)) = (clause, reason, until) else { return };
        // An endpoint that is not known is a mistake already.
        let row = endpoint.flatten();
        let before = self.diagnostics.text.get(..node.span().start).unwrap_or_default();
        let line = before.lines().count().max(1);
        let (reason, state) = (reason.text, WaiverValidity::InForce);
        self.contract.waivers.push(Waiver { clause, row, reason, until, validity: state, line });
    }

    /// Where a request leads to no endpoint, by the names that outputs have for that.
    fn off_endpoints(&self, name: &str) -> Option<EndpointRow> {
        if name == NO_ROUTE {
            return Some(EndpointRow::UnknownRoute);
        }
        let path = name.strip_prefix(NO_METHOD)?;
        let at = self.contract.endpoints.iter().position(|endpoint| endpoint.path == path)?;
        Some(EndpointRow::OtherMethods(EndpointId(at)))
    }

    fn date(&mut self, node: &Node<'t>) -> Option<Date> {
        let read = match node.get_ref() {
            DeValue::Datetime(date) => date.to_string().parse::<Date>().ok(),
            DeValue::String(text) => text.parse().ok(),
            _ => None,
        };
        if read.is_none() {
            let diagnostic = Diagnostic::new(node.span(), "`until` has to be a day");
            self.diagnostics.report(diagnostic.label("write it as in 2027-05-31"));
        }
        read
    }
}
