//! What a contract says of the service as a whole: its servers, its languages, its paths.

use regex::RegexBuilder;
use toml::de::DeTable;

use crate::diagnostics::Diagnostic;
use crate::model::{CaseSensitivity, TrailingSlash};
use crate::parse::keys;
use crate::parse::parser::ContractParser;
use crate::parse::values::Node;
use crate::router::Router;
use crate::servers::Server;
use faithful_clerk_shape::is_language_tag;

/// A pattern whose automaton needs more bytes than this is refused.
const LARGEST_PATTERN: usize = 1 << 20;

impl<'t> ContractParser<'t> {
    pub(super) fn servers(&mut self, node: &Node<'t>) -> Vec<Server> {
        let mut servers = Vec::new();
        for text in self.diagnostics.texts(node, "`servers`") {
            match Server::read(&text.text) {
                Ok(server) => servers.push(server),
                Err(reason) => self.diagnostics.report(
                    Diagnostic::new(text.span, "this is not a base URL")
                        .label(reason)
                        .help("write it as in \"https://harbour.example/v1\""),
                ),
            }
        }
        servers
    }

    /// Languages of titles and details.
    pub(super) fn languages(&mut self, top: &DeTable<'t>) {
        let Some(node) = top.get("languages") else { return };
        // Others than those of a contract that this one is like contradict it, which is told there.
        self.contract.languages.clear();
        for text in self.diagnostics.texts(node, "`languages`") {
            if is_language_tag(&text.text) {
                self.contract.languages.push(text.text);
            } else {
                let diagnostic = Diagnostic::new(text.span, "this is not a language tag");
                self.diagnostics
                    .report(diagnostic.help("write \"en\" or \"de-AT\" (RFC 5646 section 2.1)"));
            }
        }
    }

    pub(super) fn paths(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`paths`") else { return };
        self.diagnostics.keys(table, "`paths`", keys::PATHS);
        self.contract.paths.trailing_slash =
            match self.one_of(table, "trailing-slash", &["distinct", "ignored", "redirected"]) {
                Some(1) => TrailingSlash::Ignored,
                Some(2) => TrailingSlash::Redirected,
                Some(_) | None => TrailingSlash::Distinct,
            };
        let case_sensitive = table.get("case-sensitive");
        if case_sensitive.and_then(|node| self.diagnostics.boolean(node, "`case-sensitive`"))
            == Some(false)
        {
            self.contract.paths.case_sensitivity = CaseSensitivity::Insensitive;
        }
        self.contract.router.case_sensitivity = self.contract.paths.case_sensitivity;
        self.contract.paths.excluded.case_sensitivity = self.contract.paths.case_sensitivity;
        self.contract.paths.excluded_methods = self.strings(table, "exclude-methods");
        self.contract.paths.excluded_hosts = self.strings(table, "exclude-hosts");
        let aside = table.get("exclude").map(|node| self.diagnostics.texts(node, "`exclude`"));
        for text in aside.into_iter().flatten() {
            match Router::segments(&text.text) {
                Ok(segments) => self.contract.paths.excluded.add(segments, None),
                Err(reason) => {
                    self.diagnostics.report(
                        Diagnostic::new(text.span, "this is not a path template").label(reason),
                    );
                }
            }
        }
    }

    /// What a probe needs beside the contract itself.
    pub(super) fn probe(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`probe`") else { return };
        self.diagnostics.keys(table, "`probe`", keys::PROBE);
        let named =
            table.get("credentials").and_then(|node| self.diagnostics.table(node, "`credentials`"));
        for (key, node) in named.into_iter().flatten() {
            let Some(text) = self.diagnostics.text(node, "credentials") else { continue };
            if text.text.contains('$') {
                self.contract.probe_credentials.push((key.get_ref().to_string(), text.text));
            } else {
                let diagnostic =
                    Diagnostic::new(text.span, "credentials don't belong into a contract");
                let help = "name an environment variable, as in \"Bearer $HARBOUR_TOKEN\"";
                self.diagnostics.report(diagnostic.help(help));
            }
        }
    }

    /// What is a secret in this service's recordings, beside what is one anyway.
    pub(super) fn secret(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`secret`") else { return };
        self.diagnostics.keys(table, "`secret`", keys::SECRET);
        self.contract.secret.headers = self.strings(table, "headers");
        self.contract.secret.names = self.strings(table, "names");
        let patterns = table.get("patterns").map(|node| self.diagnostics.texts(node, "`patterns`"));
        for text in patterns.into_iter().flatten() {
            let built = RegexBuilder::new(&text.text).size_limit(LARGEST_PATTERN).build();
            match built {
                Ok(pattern) if pattern.is_match("") => self.diagnostics.report(
                    Diagnostic::new(text.span, "this pattern matches nothing at all")
                        .label("so everything would be a secret"),
                ),
                Ok(pattern) => self.contract.secret.patterns.push(pattern),
                Err(_) => self.diagnostics.report(
                    Diagnostic::new(text.span, "this is not a pattern")
                        .help("write a regular expression"),
                ),
            }
        }
    }
}
