//! Reads the keys that `[everywhere]`, `[group.*]` and `[endpoint.*]` have in common.

use toml::de::{DeTable, DeValue};

use crate::credential_scheme::CredentialScheme;
use crate::diagnostics::Diagnostic;
use crate::model::{Authentication, DeclaredType};
use crate::parse::keys;
use crate::parse::parser::{ContractParser, as_table};
use crate::parse::values::Node;
use crate::rules::{
    ExtraParameters, HeaderRequirement, HeaderRule, Parameter, ParameterLocation, ParameterRule,
    Rules,
};
use faithful_clerk_model::headers::is_token;
use faithful_clerk_model::situation::Situation;

impl<'t> ContractParser<'t> {
    pub(super) fn rules(&mut self, table: &DeTable<'t>) -> Rules {
        Rules {
            faults: table.get("faults").map(|node| self.faults_named(node)).unwrap_or_default(),
            success: table.get("success").map(|node| self.statuses(node)),
            auth: table.get("auth").and_then(|node| self.authentication(node)),
            security: table.get("auth").and_then(|node| self.schemes(node)),
            accepts: table.get("accepts").map(|node| self.media_types(node, "`accepts`")),
            produces: table.get("produces").map(|node| self.media_types(node, "`produces`")),
            precedence: table.get("precedence").map(|node| self.precedence(node)),
            requires: table.get("requires").map(|node| self.required_headers(node)),
            max_request_body: table.get("max-request-body").and_then(|node| self.size(node)),
            respond_within: table.get("respond-within").and_then(|node| self.duration(node)),
            error_headers: table.get("error-headers").map(|node| self.headers(node)),
            success_headers: table.get("success-headers").map(|node| self.headers(node)),
            success_shape: table.get("success-shape").and_then(|node| self.shape_named(node)),
            parameters: table.get("parameters").map(|node| self.parameters(node)),
            body: None,
            partial: table.get("partial").and_then(|node| self.partial(node)),
            documented: None,
            names_faults: false,
            unknown_parameters: self.extra(table, "unknown-parameters"),
            repeated_parameters: self.extra(table, "repeated-parameters"),
        }
    }

    fn extra(&mut self, table: &DeTable<'t>, key: &str) -> Option<ExtraParameters> {
        let at = self.one_of(table, key, &["ignored", "refused"])?;
        Some(if at == 0 { ExtraParameters::Ignored } else { ExtraParameters::Refused })
    }

    fn media_types(&mut self, node: &Node<'t>, owner: &str) -> Vec<String> {
        let items = self.diagnostics.items(node, owner);
        let owner = format!("an entry of {owner}");
        items.iter().filter_map(|item| self.media(item, &owner)).collect()
    }

    fn statuses(&mut self, node: &Node<'t>) -> Vec<u16> {
        let items = self.diagnostics.items(node, "`success`");
        items
            .iter()
            .filter_map(|item| self.diagnostics.whole(item, "the status of a success", 200..=399))
            .collect()
    }

    /// The schemes of credentials that do: a list of alternatives, each perhaps of several that are all needed.
    fn schemes(&mut self, node: &Node<'t>) -> Option<Vec<Vec<CredentialScheme>>> {
        if !matches!(node.get_ref(), DeValue::Array(_)) {
            return None;
        }
        let mut alternatives = Vec::new();
        for text in self.diagnostics.texts(node, "`auth`") {
            let all: Option<Vec<_>> =
                text.text.split(" and ").map(CredentialScheme::read).collect();
            let Some(all) = all else {
                let message = format!("`{}` is no scheme of credentials", text.text);
                let help = "write \"Bearer\", \"header X-Api-Key\", \"query key\" or \"cookie session\", with `and` between those that go together";
                self.diagnostics.report(Diagnostic::new(text.span, message).help(help));
                continue;
            };
            for header in all.iter().filter_map(CredentialScheme::header) {
                let known = &mut self.contract.credentials;
                if !known.iter().any(|name| name.eq_ignore_ascii_case(header)) {
                    known.push(header.to_owned());
                }
            }
            alternatives.push(all);
        }
        Some(alternatives)
    }

    fn authentication(&mut self, node: &Node<'t>) -> Option<Authentication> {
        if let DeValue::Array(schemes) = node.get_ref() {
            if schemes.is_empty() {
                let diagnostic = Diagnostic::new(node.span(), "the list of credentials is empty");
                self.diagnostics.report(diagnostic.help("write `auth = \"none\"`"));
            }
            return Some(Authentication::Required);
        }
        let text = self.diagnostics.text(node, "`auth`")?;
        match text.text.as_str() {
            "required" => Some(Authentication::Required),
            "none" => Some(Authentication::None),
            _ => {
                let message = format!("`auth` can't be \"{}\"", text.text);
                let diagnostic = Diagnostic::new(text.span, message);
                self.diagnostics.report(diagnostic.label(
                    "use \"required\", \"none\", or a list of schemes such as [\"Bearer\"]",
                ));
                None
            }
        }
    }

    /// Steps of situations: a list of names, or of lists of names.
    fn precedence(&mut self, node: &Node<'t>) -> Vec<Vec<Situation>> {
        let mut steps: Vec<Vec<Situation>> = Vec::new();
        for item in self.diagnostics.items(node, "`precedence`") {
            let step = match item.get_ref() {
                DeValue::Array(_) => self.situations(item, "a level of `precedence`"),
                _ => self.situation(item, "a level of `precedence`").into_iter().collect(),
            };
            let listed = step.iter().map(|one| (*one, item.span()));
            self.unmatched.precedence.extend(listed);
            let twice = step.iter().find(|one| steps.iter().any(|step| step.contains(one)));
            if let Some(twice) = twice {
                let message = format!("`{}` is on two levels", twice.name());
                self.diagnostics.report(Diagnostic::new(item.span(), message));
            }
            steps.push(step);
        }
        steps
    }

    pub(super) fn situations(&mut self, node: &Node<'t>, owner: &str) -> Vec<Situation> {
        let items = self.diagnostics.items(node, owner);
        items.iter().filter_map(|item| self.situation(item, owner)).collect()
    }

    fn required_headers(&mut self, node: &Node<'t>) -> Vec<(String, Situation)> {
        let Some(table) = self.diagnostics.table(node, "`requires`") else { return Vec::new() };
        let mut found = Vec::new();
        for (key, node) in table {
            let name = self.header_name(key.get_ref(), key.span());
            let situation = self.situation(node, "the situation of a missing header");
            found.extend(name.zip(situation));
        }
        found
    }

    /// Bytes, or string with a unit.
    fn size(&mut self, node: &Node<'t>) -> Option<u64> {
        let read = |text: &str| -> Option<u64> {
            let (number, unit) = text.split_once(' ').unwrap_or((text, "B"));
            let unit: u64 = match unit.trim() {
                "B" => 1,
                "KiB" => 1 << 10,
                "MiB" => 1 << 20,
                "kB" => 1_000,
                "MB" => 1_000_000,
                _ => return None,
            };
            number.parse::<u64>().ok()?.checked_mul(unit)
        };
        let size = match node.get_ref() {
            DeValue::Integer(number) => number.as_str().parse().ok(),
            DeValue::String(text) => read(text),
            _ => None,
        };
        if size.is_none() {
            let diagnostic = Diagnostic::new(node.span(), "`max-request-body` has to be a size");
            let label = "use a number of bytes, or \"64 KiB\" with B, kB, KiB, MB or MiB";
            self.diagnostics.report(diagnostic.label(label));
        }
        size
    }

    pub(super) fn duration(&mut self, node: &Node<'t>) -> Option<f64> {
        let text = self.diagnostics.text(node, "`respond-within`")?;
        let read = |number: &str, factor: f64| {
            let number = number.trim().parse::<f64>().ok()? * factor;
            (number.is_finite() && number > 0.0).then_some(number)
        };
        let duration = match text.text.strip_suffix("ms") {
            Some(number) => read(number, 1.0),
            None => text.text.strip_suffix('s').and_then(|number| read(number, 1000.0)),
        };
        if duration.is_none() {
            let diagnostic = Diagnostic::new(text.span, "`respond-within` has to be a duration");
            self.diagnostics.report(diagnostic.label("write \"2s\" or \"500ms\""));
        }
        duration
    }

    /// Headers by name, each with a type expression, or with what its list contains.
    pub(super) fn headers(&mut self, node: &Node<'t>) -> Vec<HeaderRule> {
        let Some(table) = self.diagnostics.table(node, "`headers`") else { return Vec::new() };
        let mut rules = Vec::new();
        for (key, node) in table {
            let Some(name) = self.header_name(key.get_ref(), key.span()) else { continue };
            let owner = format!("the header `{name}`");
            let Some(text) = self.diagnostics.text(node, &owner) else { continue };
            let asks = if let Some(members) = text.text.strip_prefix("list containing ") {
                let members = members.split(',').map(str::trim).filter(|m| !m.is_empty());
                Some(HeaderRequirement::Containing(members.map(str::to_owned).collect()))
            } else if let Some(challenge) = text.text.strip_prefix("challenge ") {
                self.challenge(challenge, &text)
            } else {
                self.phrased(&text).map(HeaderRequirement::Type)
            };
            rules.extend(asks.map(|asks| HeaderRule { name, requirement: asks }));
        }
        rules
    }

    /// `Bearer`, `Bearer with error=invalid_token, realm=harbour`.
    fn challenge(
        &mut self,
        text: &str,
        node: &crate::parse::values::SpannedText,
    ) -> Option<HeaderRequirement> {
        let (scheme, with) = text.split_once(" with ").unwrap_or((text, ""));
        let parameters: Vec<Option<(String, String)>> = with
            .split(',')
            .map(str::trim)
            .filter(|parameter| !parameter.is_empty())
            .map(|parameter| {
                let (name, value) = parameter.split_once('=')?;
                is_token(name).then(|| (name.to_owned(), value.trim_matches('"').to_owned()))
            })
            .collect();
        let parameters: Option<Vec<_>> = parameters.into_iter().collect();
        let Some(parameters) = parameters.filter(|_| is_token(scheme.trim())) else {
            let help = "write `challenge Bearer`, or `challenge Bearer with error=invalid_token`";
            let diagnostic = Diagnostic::new(node.span.clone(), "this is not a challenge");
            self.diagnostics.report(diagnostic.help(help));
            return None;
        };
        Some(HeaderRequirement::Challenge(scheme.trim().to_owned(), parameters))
    }

    fn header_name(&mut self, name: &str, span: std::ops::Range<usize>) -> Option<String> {
        if is_token(name) {
            return Some(name.to_owned());
        }
        let diagnostic = Diagnostic::new(span, format!("`{name}` is not a header name"));
        self.diagnostics.report(diagnostic.help("a name is a token (RFC 9110 section 5.1)"));
        None
    }

    /// `path.id = …`, `query.nights = …`, `header.X-Unit = …`: a type expression, or a table with one.
    fn parameters(&mut self, node: &Node<'t>) -> Vec<Parameter> {
        let Some(table) = self.diagnostics.table(node, "`parameters`") else { return Vec::new() };
        self.diagnostics.keys(table, "`parameters`", keys::PARAMETERS);
        let mut parameters = Vec::new();
        for location in
            [ParameterLocation::Path, ParameterLocation::Query, ParameterLocation::Header]
        {
            let owner = format!("`{}`", location.name());
            let named =
                table.get(location.name()).and_then(|node| self.diagnostics.table(node, &owner));
            for (key, node) in named.into_iter().flatten() {
                let name = key.get_ref().to_string();
                let (expression, otherwise) = match as_table(node) {
                    None => (Some(node), None),
                    Some(table) => {
                        self.diagnostics.keys(table, "a parameter", keys::PARAMETER);
                        let otherwise = table.get("if-invalid");
                        (table.get("is"), otherwise.and_then(|n| self.situation(n, "`if-invalid`")))
                    }
                };
                let Some(expression) = expression else {
                    let message = format!("the parameter `{name}` does not say what it is");
                    let help = "write `id = { is = \"string matching ^[A-Z]\", if-invalid = \"resource-not-found\" }`";
                    self.diagnostics.report(Diagnostic::new(node.span(), message).help(help));
                    continue;
                };
                let text = self.diagnostics.text(expression, &format!("the parameter `{name}`"));
                let rule = text.and_then(|text| self.phrased(&text));
                parameters.extend(rule.map(|rule| Parameter {
                    example: None,
                    location,
                    name,
                    optional: rule.optional,
                    rule: ParameterRule::Type(rule),
                    if_invalid: otherwise.unwrap_or(Situation::InvalidParameters),
                }));
            }
        }
        parameters
    }

    /// A phrase that describes something that is no member.
    pub(super) fn phrased(
        &mut self,
        text: &crate::parse::values::SpannedText,
    ) -> Option<DeclaredType> {
        let member = self.member(String::new(), text)?;
        let (optional, typed) = (member.optional, member.constrained);
        Some(DeclaredType { text: member.text, optional, constrained: typed })
    }
}
