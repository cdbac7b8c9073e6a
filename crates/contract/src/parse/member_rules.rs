//! `body-rules`: rules across members of a request's body.

use toml::de::{DeTable, DeValue};

use crate::diagnostics::Diagnostic;
use crate::member_rules::{MemberRelation, MemberRule};
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::Node;
use faithful_clerk_model::json::pointer::tokens;

/// What a rule can say of its member.
const RELATIONS: [&str; 4] = ["later-than", "differs-from", "required-with", "one-of"];

impl<'t> ContractParser<'t> {
    pub(super) fn member_rules(&mut self, node: &Node<'t>) -> Vec<MemberRule> {
        let DeValue::Array(items) = node.get_ref() else {
            let diagnostic =
                Diagnostic::new(node.span(), "`body-rules` has to be a list of tables");
            let help = "write `[{ member = \"/departs\", later-than = \"/arrives\" }]`";
            self.diagnostics.report(diagnostic.help(help));
            return Vec::new();
        };
        items.iter().filter_map(|item| self.member_rule(item)).collect()
    }

    fn member_rule(&mut self, node: &Node<'t>) -> Option<MemberRule> {
        let table = self.diagnostics.table(node, "a rule of `body-rules`")?;
        self.diagnostics.keys(table, "a rule of `body-rules`", keys::BODY_RULE);
        let Some(member) = table.get("member") else {
            let diagnostic =
                Diagnostic::new(node.span(), "this rule does not say which member is reported");
            self.diagnostics.report(diagnostic.help("add `member = \"/departs\"`"));
            return None;
        };
        let member = self.member_pointer(member)?;
        let said: Vec<&str> =
            RELATIONS.into_iter().filter(|name| table.contains_key(*name)).collect();
        let [relation] = said.as_slice() else {
            let message = "a rule of `body-rules` has one of `later-than`, `differs-from`, `required-with` and `one-of`";
            let diagnostic = Diagnostic::new(node.span(), message);
            self.diagnostics.report(diagnostic.help("write a rule for each"));
            return None;
        };
        let relation = self.relation(relation, table)?;
        let stars = |pointer: &[String]| pointer.iter().filter(|step| *step == "*").count();
        if relation.others().iter().any(|other| stars(other) > stars(&member)) {
            let message = "this rule has a `*` that stands for no item of the reported member";
            let help = "write as many `*` in `member`, as in \"/stays/*/departs\"";
            self.diagnostics.report(Diagnostic::new(node.span(), message).help(help));
            return None;
        }
        Some(MemberRule { member, relation })
    }

    fn relation(&mut self, name: &str, table: &DeTable<'t>) -> Option<MemberRelation> {
        let node = table.get(name)?;
        if name != "one-of" {
            let other = self.member_pointer(node)?;
            return Some(match name {
                "later-than" => MemberRelation::LaterThan(other),
                "differs-from" => MemberRelation::DiffersFrom(other),
                _ => MemberRelation::RequiredWith(other),
            });
        }
        let items = match node.get_ref() {
            DeValue::Array(items) if items.len() > 1 => items,
            _ => {
                let diagnostic = Diagnostic::new(
                    node.span(),
                    "`one-of` has to be a list of two members or more",
                );
                self.diagnostics.report(diagnostic.help("write `[\"/berth\", \"/quay\"]`"));
                return None;
            }
        };
        let each: Vec<_> = items.iter().filter_map(|item| self.member_pointer(item)).collect();
        (each.len() == items.len()).then_some(MemberRelation::OneOf(each))
    }

    /// A JSON Pointer to a member of the body.
    fn member_pointer(&mut self, node: &Node<'t>) -> Option<Vec<String>> {
        let text = self.diagnostics.text(node, "a member of `body-rules`")?;
        if !text.text.starts_with('/') {
            let message = format!("`{}` is not a JSON Pointer to a member", text.text);
            self.diagnostics.report(Diagnostic::new(text.span, message).help("write \"/arrives\""));
            return None;
        }
        let steps = tokens(&text.text)?;
        self.unmatched.body_rules.push((self.contract.endpoints.len(), text.text, text.span));
        Some(steps)
    }
}
