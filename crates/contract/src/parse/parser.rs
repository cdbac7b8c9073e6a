//! Parses a contract's text from top to bottom, and collects every diagnostic.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::ops::Range;

use toml::de::{DeTable, DeValue};

use crate::diagnostics::{Diagnostic, DiagnosticSeverity};
use crate::model::{
    AllFaults, DisclosureScope, DocumentedRanges, EndpointId, ErrorContract, FaultId,
    SeverityOverride,
};
use crate::nearest::nearest;
use crate::parse::base::BaseContract;
use crate::parse::digest::DigestingFiles;
use crate::parse::fault::FaultParts;
use crate::parse::group::EndpointGroup;
use crate::parse::key_lines::key_lines;
use crate::parse::keys;
use crate::parse::repair::without_broken_lines;
use crate::parse::unmatched::Unmatched;
use crate::parse::values::{Diagnostics, Node, SpannedText, parse};
use crate::router::TemplateSegment;
use faithful_clerk_model::finding::Severity;
use faithful_clerk_model::headers::is_token;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::{FileLoader, FormatMode, SchemaLibrary};
use faithful_clerk_shape::ShapeId;

/// The result of parsing a contract.
#[derive(Debug)]
pub struct ParsedContract {
    /// The contract, if nothing keeps it from being used.
    pub contract: Option<ErrorContract>,
    /// Every error and warning, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

impl ErrorContract {
    /// Parses a contract and the files that it names. `clauses` are the names of all clauses, sorted; a contract refers to
    /// them in `[severity]` and in waivers.
    #[must_use]
    pub fn parse(text: &str, files: &dyn FileLoader, clauses: &[&'static str]) -> ParsedContract {
        let (clean, broken) = without_broken_lines(text);
        let (document, diagnostics) = parse(&clean, broken);
        let files = DigestingFiles::of(text, files);
        let mut parser = ContractParser::new(diagnostics, &files, clauses);
        if let Some(document) = document {
            parser.document(document.get_ref());
            let mut lines = key_lines(&clean, document.get_ref());
            if let Some(base) = parser.base.take() {
                lines.take_over(base.lines, &base.path);
            }
            parser.contract.key_lines = lines;
        }
        let mut diagnostics = parser.diagnostics.all;
        diagnostics.sort_by_key(|diagnostic| (diagnostic.span.start, diagnostic.span.end));
        let is_usable = diagnostics.iter().all(|one| one.severity == DiagnosticSeverity::Warning);
        let mut contract = parser.contract;
        contract.digest = files.finish();
        ParsedContract { contract: is_usable.then_some(contract), diagnostics }
    }
}

/// A contract in the making.
pub(super) struct ContractParser<'t> {
    pub(super) diagnostics: Diagnostics<'t>,
    pub(super) contract: ErrorContract,
    pub(super) library: SchemaLibrary<'t>,
    pub(super) files: &'t dyn FileLoader,
    /// The contract that this one is like.
    pub(super) base: Option<BaseContract>,
    /// The paths of the contracts that lead here by `like`, this one's last.
    pub(super) like_chain: Vec<String>,
    /// The shape that each shape is like.
    pub(super) shape_bases: BTreeMap<usize, usize>,
    /// What the shapes of the faults are made of, by the fault's place.
    pub(super) fault_parts: Vec<FaultParts>,
    pub(super) groups: Vec<EndpointGroup>,
    pub(super) fault_names: BTreeMap<String, (FaultId, Range<usize>)>,
    pub(super) used_faults: BTreeSet<FaultId>,
    pub(super) used_shapes: BTreeSet<usize>,
    /// What cases keep for later ones, and where they say so.
    pub(super) saved: BTreeMap<String, Range<usize>>,
    pub(super) used_saved: BTreeSet<String>,
    /// Each endpoint by method and path, its parameters' names left out.
    pub(super) endpoint_locations: HashMap<(String, Vec<TemplateSegment>), EndpointDeclaration>,
    /// What may turn out to match nothing, once everything is read.
    pub(super) unmatched: Unmatched,
    /// The names of all clauses, sorted.
    pub(super) clauses: &'t [&'static str],
}

/// Where an endpoint is declared.
#[derive(Debug, Clone)]
pub(super) struct EndpointDeclaration {
    pub(super) name: String,
    pub(super) span: Range<usize>,
    pub(super) id: EndpointId,
}

impl<'t> ContractParser<'t> {
    pub(super) fn new(
        diagnostics: Diagnostics<'t>,
        files: &'t dyn FileLoader,
        clauses: &'t [&'static str],
    ) -> Self {
        Self {
            diagnostics,
            contract: ErrorContract {
                credentials: vec!["Authorization".to_owned()],
                ..ErrorContract::default()
            },
            library: SchemaLibrary::new(files),
            files,
            base: None,
            like_chain: Vec::new(),
            shape_bases: BTreeMap::new(),
            fault_parts: Vec::new(),
            groups: Vec::new(),
            fault_names: BTreeMap::new(),
            used_faults: BTreeSet::new(),
            used_shapes: BTreeSet::new(),
            saved: BTreeMap::new(),
            used_saved: BTreeSet::new(),
            endpoint_locations: HashMap::new(),
            unmatched: Unmatched::default(),
            clauses,
        }
    }

    fn document(&mut self, top: &DeTable<'t>) {
        self.diagnostics.keys(top, "a contract", keys::TOP);
        self.version(top.get("contract"));
        if let Some(node) = top.get("like") {
            self.take_over(node);
        }
        self.contract.service = top
            .get("service")
            .and_then(|node| self.diagnostics.text(node, "`service`"))
            .map(|t| t.text);
        if let Some(node) = top.get("servers") {
            self.contract.servers = self.servers(node);
        }
        if let Some(node) = top.get("credentials") {
            let names = self.diagnostics.texts(node, "`credentials`");
            self.contract.credentials = names.into_iter().map(|name| name.text).collect();
        }
        let public = self.strings(top, "public");
        self.contract.public.extend(public);
        self.languages(top);
        if self.one_of(top, "disclosure-scope", &["errors", "all"]) == Some(1) {
            self.contract.disclosure_scope = DisclosureScope::All;
        }
        if self.one_of(top, "schema-formats", &["assertion", "annotation"]) == Some(1) {
            self.library.formats = FormatMode::Annotation;
        }
        if self.one_of(top, "documented", &["exact", "admitted"]) == Some(1) {
            self.contract.documented_ranges = DocumentedRanges::Admitted;
        }
        let undocumented = self.one_of(top, "undocumented-errors", &["allowed", "breach"]);
        self.contract.is_silent_where_undocumented = undocumented != Some(1);
        if let Some(node) = top.get("paths") {
            self.paths(node);
        }
        if let Some(node) = top.get("secret") {
            self.secret(node);
        }
        if let Some(node) = top.get("probe") {
            self.probe(node);
        }
        let shapes = self.names(top.get("shape"), "`shape`");
        self.errors(top, &shapes);
        self.fault_shapes();
        self.add_base_groups();
        for (name, node) in self.names(top.get("endpoint"), "`endpoint`") {
            self.endpoint(&name, node);
        }
        let described = top.get("openapi").map(|node| self.description(node, top));
        self.settle_endpoints(&described.unwrap_or_default());
        for (name, node) in self.names(top.get("case"), "`case`") {
            self.case(&name, node);
        }
        self.contract.secret.public =
            self.contract.cases.iter().flat_map(crate::Case::literals).collect();
        if let Some(node) = top.get("waiver") {
            self.waivers(node);
        }
        if let Some(node) = top.get("severity") {
            self.severities(node);
        }
        self.contract.all_faults = AllFaults::of(&self.contract.faults);
        self.contract.documents = self.library.documents();
        let is_usable = self
            .diagnostics
            .all
            .iter()
            .all(|diagnostic| diagnostic.severity == DiagnosticSeverity::Warning);
        // What a mistake left out may have been used there.
        if is_usable {
            self.say_what_is_unused(&shapes);
            self.say_what_matches_nothing();
        }
    }

    /// All that a contract says of errors, and that another one can take over.
    pub(super) fn errors(&mut self, top: &DeTable<'t>, shapes: &[(SpannedText, &Node<'t>)]) {
        self.shapes(shapes);
        self.check_against_base(top);
        let own = self.style(top);
        self.contract.style = match &self.base {
            Some(base) => own.or(base.style.clone()),
            None => own,
        };
        let regions = self.names(top.get("region"), "`region`");
        self.region_styles(&regions);
        for (name, node) in self.names(top.get("fault"), "`fault`") {
            self.fault(&name, node);
        }
        if let Some(node) = top.get("codes") {
            self.codes(node);
        }
        if let Some(node) = top.get("everywhere") {
            self.everywhere(node);
        }
        if let Some(base) = &self.base {
            let own = std::mem::take(&mut self.contract.everywhere);
            self.contract.everywhere = own.or(&base.everywhere, &self.contract.faults);
        }
        self.region_rules(&regions);
        for (name, node) in self.names(top.get("group"), "`group`") {
            self.group(&name, node);
        }
    }

    /// The members of a table of named things, each name with its place.
    pub(super) fn names<'n>(
        &mut self,
        node: Option<&'n Node<'t>>,
        owner: &str,
    ) -> Vec<(SpannedText, &'n Node<'t>)> {
        let table = node.and_then(|node| self.diagnostics.table(node, owner));
        table
            .into_iter()
            .flatten()
            .map(|(key, node)| {
                (SpannedText { text: key.get_ref().to_string(), span: key.span() }, node)
            })
            .collect()
    }

    fn version(&mut self, node: Option<&Node<'t>>) {
        match node {
            None => self.diagnostics.missing(
                Diagnostic::new(0..0, "the contract does not say its version")
                    .label("missing before this")
                    .help("write `contract = 1` as its first line"),
            ),
            Some(node) => {
                self.diagnostics.whole(node, "`contract`", 1..=1);
            }
        }
    }

    /// The media type of an error, or several: the first, and the others. Parameters may make another type.
    pub(super) fn error_media(&mut self, table: &DeTable<'t>) -> (Option<String>, Vec<String>) {
        let Some(node) = table.get("media") else { return (None, Vec::new()) };
        let nodes: Vec<&Node<'t>> = match node.get_ref() {
            DeValue::Array(items) => items.iter().collect(),
            _ => vec![node],
        };
        if nodes.is_empty() {
            let diagnostic = Diagnostic::new(node.span(), "the list of media types is empty");
            self.diagnostics.report(diagnostic.help("name one, or leave `media` out"));
        }
        let mut types = Vec::new();
        for node in nodes {
            let Some(text) = node.get_ref().as_str() else {
                self.media(node, "`media`");
                continue;
            };
            let (essence, parameters) = text.split_once(';').unwrap_or((text, ""));
            let is_parameter = |parameter: &str| {
                let pair = parameter.trim().split_once('=');
                pair.is_some_and(|(name, value)| is_token(name) && !value.is_empty())
            };
            // With parameters that can be read, the essence is what has to be a media type.
            if !parameters.is_empty() && parameters.split(';').all(is_parameter) {
                let essence = faithful_clerk_model::media::essence(essence.trim());
                types.push(format!("{essence}; {}", parameters.trim()));
            } else {
                types.extend(self.media(node, "`media`"));
            }
        }
        let mut types = types.into_iter();
        (types.next(), types.collect())
    }

    /// A media type without parameters.
    pub(super) fn media(&mut self, node: &Node<'t>, owner: &str) -> Option<String> {
        let text = self.diagnostics.text(node, owner)?;
        let essence = faithful_clerk_model::media::essence(&text.text);
        let whole =
            essence.split_once('/').is_some_and(|(kind, sub)| !kind.is_empty() && !sub.is_empty());
        let odd = text.text.contains(';') || essence.contains(char::is_whitespace);
        if whole && !odd {
            return Some(essence.into_owned());
        }
        self.diagnostics.report(
            Diagnostic::new(text.span, format!("{owner} has to be a media type"))
                .label("expected `type/subtype`, without parameters")
                .help("such as \"application/problem+json\""),
        );
        None
    }

    pub(super) fn shape_named(&mut self, node: &Node<'t>) -> Option<ShapeId> {
        let text = self.diagnostics.text(node, "`shape`")?;
        let found = self.contract.shapes.find(&text.text);
        match found {
            Some(id) => {
                self.used_shapes.insert(id.0);
            }
            None => {
                let message = format!("unknown shape `{}`", text.text);
                let names = self.contract.shapes.shapes.iter().map(|shape| shape.name.as_str());
                let near = nearest(&text.text, names).map(str::to_owned);
                self.undeclared(text.span, message, near, "[shape.NAME]");
            }
        }
        found
    }

    fn everywhere(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`everywhere`") else { return };
        self.diagnostics.keys(table, "`everywhere`", keys::RULES);
        self.contract.everywhere = self.rules(table);
    }

    /// A list of names of faults.
    pub(super) fn faults_named(&mut self, node: &Node<'t>) -> Vec<FaultId> {
        let items = self.diagnostics.items(node, "`faults`");
        items.iter().filter_map(|item| self.fault_named(item)).collect()
    }

    /// The name of a fault.
    pub(super) fn fault_named(&mut self, node: &Node<'t>) -> Option<FaultId> {
        let text = self.diagnostics.text(node, "a fault's name")?;
        let found = self.fault_names.get(&text.text).map(|(id, _)| *id);
        match found {
            Some(id) => {
                self.used_faults.insert(id);
            }
            None => {
                let message = format!("unknown fault `{}`", text.text);
                let near = nearest(&text.text, self.fault_names.keys().map(String::as_str));
                let near = near.map(str::to_owned);
                self.undeclared(text.span, message, near, "[fault.NAME]");
            }
        }
        found
    }

    /// The name of a situation.
    pub(super) fn situation(&mut self, node: &Node<'t>, owner: &str) -> Option<Situation> {
        let text = self.diagnostics.text(node, owner)?;
        let found = Situation::named(&text.text);
        if found.is_none() {
            let diagnostic =
                Diagnostic::new(text.span, format!("unknown situation `{}`", text.text));
            let names: Vec<&str> = Situation::ALL.iter().map(|s| s.name()).collect();
            let near = nearest(&text.text, names.iter().copied());
            self.diagnostics.report(match near {
                Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
                None => diagnostic.help(format!("the situations are {}", names.join(", "))),
            });
        }
        found
    }

    /// The name of a clause.
    pub(super) fn clause_named(&mut self, name: &str, span: Range<usize>) -> Option<&'static str> {
        let clause = self.clauses.iter().copied().find(|clause| *clause == name);
        if clause.is_none() {
            let diagnostic = Diagnostic::new(span, format!("unknown clause `{name}`"));
            self.diagnostics.report(match nearest(name, self.clauses.iter().copied()) {
                Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
                None => diagnostic.label("not known").help("`fclerk explain` lists all clauses"),
            });
        }
        clause
    }

    fn undeclared(&mut self, span: Range<usize>, message: String, near: Option<String>, how: &str) {
        let diagnostic = Diagnostic::new(span, message);
        let diagnostic = match near {
            Some(near) => diagnostic.label(format!("did you mean `{near}`?")),
            None => diagnostic.label("used here, declared nowhere"),
        };
        self.diagnostics.missing(diagnostic.help(format!("it is declared in a table `{how}`")));
    }

    pub(super) fn severities(&mut self, node: &Node<'t>) {
        let Some(table) = self.diagnostics.table(node, "`severity`") else { return };
        for (key, node) in table {
            let clause = self.clause_named(key.get_ref(), key.span());
            let Some(text) = self.diagnostics.text(node, "a severity") else { continue };
            let severity_override = match text.text.as_str() {
                "off" => SeverityOverride::Off,
                "note" => SeverityOverride::As(Severity::Note),
                "warning" => SeverityOverride::As(Severity::Warning),
                "breach" => SeverityOverride::As(Severity::Breach),
                _ => {
                    self.diagnostics.report(
                        Diagnostic::new(text.span, format!("`{}` is not a severity", text.text))
                            .label("use \"off\", \"note\", \"warning\" or \"breach\""),
                    );
                    continue;
                }
            };
            if let Some(clause) =
                clause.and_then(|name| self.clauses.iter().position(|clause| *clause == name))
            {
                let known = self.contract.severities.insert(clause, severity_override);
                if known.is_some_and(|known| weight(known) > weight(severity_override)) {
                    self.contradicts(&text.text, "a lower severity", text.span);
                }
            }
        }
    }

    fn say_what_is_unused(&mut self, shapes: &[(SpannedText, &Node<'t>)]) {
        if self.contract.endpoints.is_empty() {
            let message = "the contract declares no endpoint, so nothing can be checked against it";
            let help = "declare one as in [endpoint.\"GET /berths/{id}\"]";
            self.diagnostics.report(Diagnostic::warning(0..0, message).help(help));
        }
        for (name, _) in shapes {
            let used = self
                .contract
                .shapes
                .find(&name.text)
                .is_none_or(|id| self.used_shapes.contains(&id.0));
            if !used {
                let message = format!("the shape `{}` is declared and never used", name.text);
                self.diagnostics.report(Diagnostic::warning(name.span.clone(), message));
            }
        }
        for (name, span) in &self.saved {
            if !self.used_saved.contains(name) {
                let message = format!("`{name}` is saved, but no later case uses it");
                let help = format!("write `{{{name}}}` in the path of a later case");
                self.diagnostics.report(Diagnostic::warning(span.clone(), message).help(help));
            }
        }
        for (name, (id, span)) in &self.fault_names {
            if !self.used_faults.contains(id) {
                let message = format!("the fault `{name}` is declared and never used");
                let help = "name it in the `faults` of `[everywhere]` or of an endpoint";
                self.diagnostics.report(Diagnostic::warning(span.clone(), message).help(help));
            }
        }
    }
}

/// How much a severity counts.
fn weight(severity: SeverityOverride) -> u8 {
    match severity {
        SeverityOverride::Off => 0,
        SeverityOverride::As(Severity::Note) => 1,
        SeverityOverride::As(Severity::Warning) => 2,
        SeverityOverride::As(Severity::Breach) => 3,
    }
}

/// The word in a value that is a table, for telling tables of members from type expressions.
pub(super) fn as_table<'n, 't>(node: &'n Node<'t>) -> Option<&'n DeTable<'t>> {
    match node.get_ref() {
        DeValue::Table(table) => Some(table),
        _ => None,
    }
}
