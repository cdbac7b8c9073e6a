//! `partial`: errors that are allowed inside a success.

use crate::diagnostics::Diagnostic;
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::Node;
use crate::rules::PartialSuccess;
use faithful_clerk_model::json::pointer::from_tokens;

impl<'t> ContractParser<'t> {
    pub(super) fn partial(&mut self, node: &Node<'t>) -> Option<PartialSuccess> {
        let table = self.diagnostics.table(node, "`partial`")?;
        self.diagnostics.keys(table, "`partial`", keys::PARTIAL);
        let mut pointer = |key: &str| self.steps(table, key).map(|steps| from_tokens(&steps));
        let failures = pointer("failures");
        let (requested, succeeded) = (pointer("requested"), pointer("succeeded"));
        let shape = table.get("shape").and_then(|node| self.shape_named(node));
        let faults = table.get("faults").map(|node| self.faults_named(node)).unwrap_or_default();
        let match_by = table.get("match-by").and_then(|n| self.diagnostics.text(n, "`match-by`"));
        if let (Some(by), Some(shape)) = (&match_by, shape) {
            self.unmatched.match_by.push((by.clone(), shape));
        }
        let told_by = ["match-by", "index", "pointer"].map(|key| table.get(key)).into_iter();
        if let [_, second, ..] = told_by.flatten().collect::<Vec<_>>().as_slice() {
            let message = "entries are told apart by one of `match-by`, `index` and `pointer`";
            self.diagnostics.report(Diagnostic::new(second.span(), message));
        }
        let Some(failures) = failures else {
            let diagnostic =
                Diagnostic::new(node.span(), "`partial` does not say where the failures are");
            self.diagnostics.missing(diagnostic.help("write `failures = \"/failures\"`"));
            return None;
        };
        let is_problem =
            shape.and_then(|id| self.contract.shapes.get(id)).is_some_and(|s| s.is_problem);
        let of_problem = is_problem.then(|| vec!["status".to_owned()]);
        let status = self.steps(table, "status").or(of_problem);
        if succeeded.as_ref() == Some(&failures) && status.is_none() {
            let message = "nothing tells failures from what succeeded, as both are in one array";
            let help = "say where an entry has its status, as in `status = \"/status\"`";
            self.diagnostics.report(Diagnostic::new(node.span(), message).help(help));
        }
        Some(PartialSuccess {
            failures,
            shape,
            faults,
            requested,
            succeeded,
            match_by: match_by.map(|text| text.text),
            index: self.steps(table, "index"),
            pointer: self.steps(table, "pointer"),
            status,
            code: self.steps(table, "code").unwrap_or_else(|| vec!["code".to_owned()]),
        })
    }
}
