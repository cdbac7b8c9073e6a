//! The header fields of planned requests.

use super::plan::ProbePlanner;
use super::request::{PlannedRequest, idempotency_key};
use super::values::right_text;
use faithful_clerk_check::classify::parameter_fits;
use faithful_clerk_contract::{Endpoint, ParameterLocation, Rules};
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;

/// The field by which a client says that it sends a request once more
/// (`draft-ietf-httpapi-idempotency-key-header`).
const IDEMPOTENCY_KEY: &str = "Idempotency-Key";

/// The number of a key that has none of its own yet.
const NUMBERLESS: usize = 0;

impl ProbePlanner<'_> {
    /// The header fields that have to be there.
    pub(super) fn required_headers(&self, rules: &Rules) -> Vec<(String, String)> {
        let shapes = &self.contract.shapes;
        let mut found: Vec<(String, String)> = Vec::new();
        for of in rules.parameters() {
            if of.location == ParameterLocation::Header && !of.optional {
                let value = match of.has_name(IDEMPOTENCY_KEY) && self.takes_own_keys(rules) {
                    true => idempotency_key(NUMBERLESS),
                    false => right_text(of, shapes),
                };
                found.push((of.name.clone(), value));
            }
        }
        for (name, _) in rules.requires.iter().flatten() {
            if !found.iter().any(|(known, _)| known.eq_ignore_ascii_case(name)) {
                found.push((name.clone(), required_value(name)));
            }
        }
        found
    }

    /// Each header field that an endpoint requires, left out.
    pub(super) fn without_required_headers(
        &mut self,
        endpoint: &Endpoint,
        with: &dyn Fn(&str, Situation) -> PlannedRequest,
    ) {
        for (name, situation) in endpoint.rules.requires.iter().flatten() {
            let mut planned = with(&format!("without the header `{name}`"), *situation);
            planned.headers.retain(|(known, _)| !known.eq_ignore_ascii_case(name));
            self.add(planned);
        }
    }

    /// The name by which an endpoint takes an idempotency key, if it does, and takes keys that are made up.
    pub(super) fn idempotency_field(&self, rules: &Rules) -> Option<String> {
        let is_it = |name: &str| name.eq_ignore_ascii_case(IDEMPOTENCY_KEY);
        let required = rules.requires.iter().flatten().map(|(name, _)| name);
        let mut parameters = rules.parameters().iter();
        let parameter = parameters.find(|of| of.has_name(IDEMPOTENCY_KEY)).map(|of| &of.name);
        let name = required.chain(parameter).find(|name| is_it(name))?;
        self.takes_own_keys(rules).then(|| name.clone())
    }

    /// Do made-up keys keep the rules for keys?
    fn takes_own_keys(&self, rules: &Rules) -> bool {
        const LIKE_OURS: &str = "00000000-0000-4000-8000-000000000000";
        let mut keys = rules.parameters().iter().filter(|of| of.has_name(IDEMPOTENCY_KEY));
        keys.all(|of| parameter_fits(&[LIKE_OURS], &of.rule, &self.contract.shapes))
    }

    /// Gives each key that has no number of its own one: services take a key twice for one request.
    pub(super) fn number_keys(&mut self) {
        let numberless = idempotency_key(NUMBERLESS);
        for (number, planned) in (1..).zip(&mut self.plan.requests) {
            for (_, value) in planned.headers.iter_mut().filter(|(_, value)| *value == numberless) {
                *value = idempotency_key(number);
            }
        }
    }
}

/// A value that is in order.
fn required_value(name: &str) -> String {
    if name.eq_ignore_ascii_case(IDEMPOTENCY_KEY) {
        return idempotency_key(NUMBERLESS);
    }
    // Whatever is there (RFC 9110 section 13.1.1).
    if name.eq_ignore_ascii_case("If-Match") { "*".to_owned() } else { "1".to_owned() }
}

/// The header fields of a request with a body of this media type, or with none.
pub(super) fn with_content_type(
    planned: &PlannedRequest,
    media: Option<&str>,
) -> Vec<(String, String)> {
    let others = planned.headers.iter().filter(|(name, _)| name != "Content-Type").cloned();
    others.chain(media.map(|media| ("Content-Type".to_owned(), media.to_owned()))).collect()
}

/// The media type of JSON that an endpoint takes.
pub(super) fn json_of(endpoint: &Endpoint) -> &str {
    let json = endpoint.rules.accepts.iter().flatten().find(|range| media::is_json(range));
    json.map_or("application/json", String::as_str)
}
