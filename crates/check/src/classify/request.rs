//! The situations that a request shows by itself, with the contract.

use serde_json::Value;

use super::parameters::{InvalidParameter, invalid_parameters};
use super::{Credentials, RouteMatch, cases};
use faithful_clerk_contract::{
    Authentication, BodyPresence, BodyRules, CredentialScheme, ErrorContract, FaultId, RegionId,
    RequestPath, Rules,
};
use faithful_clerk_model::exchange::{Exchange, Request, RequestBody};
use faithful_clerk_model::headers::elements;
use faithful_clerk_model::intention::Intention;
use faithful_clerk_model::json::Json;
use faithful_clerk_model::media;
use faithful_clerk_model::method;
use faithful_clerk_model::situation::{Situation, SituationSet};
use faithful_clerk_shape::{Mismatch, ShapeTable};

/// A request and where it leads.
pub(super) struct RoutedRequest<'p, 'a> {
    pub(super) exchange: &'p Exchange<'a>,
    pub(super) route: &'p RouteMatch<'a>,
    pub(super) target: &'p RequestPath<'a>,
    pub(super) region: Option<RegionId>,
    pub(super) contract: &'a ErrorContract,
    pub(super) credentials: Credentials,
}

/// What a request shows. A situation holds, does not hold, or is open: who can tell?
#[derive(Debug, Default)]
pub struct RequestSituations<'a> {
    /// Those that hold.
    pub holds: SituationSet,
    /// Those that may hold, as the contract or the recording does not say enough.
    pub open: SituationSet,
    /// Where the body breaks its rules, when `invalid-body` holds.
    pub invalid: Vec<Mismatch>,
    /// Which parameters break their rules.
    pub parameters: Vec<InvalidParameter>,
    /// The request's body, where it is JSON and was looked at.
    pub body: Option<Value>,
    /// The faults that the contract's cases ask for, each with its situation.
    pub expected: Vec<(FaultId, Situation)>,
    /// The contract's cases that match the request, by their place in it.
    pub cases: Vec<usize>,
    /// Those of them that are about entries of a batch.
    pub entry_cases: Vec<usize>,
    /// Why the body could not be read, where its rules would have to be checked.
    pub unread: Option<&'static str>,
    /// The case that says that the request is to be served.
    pub served_by: Option<String>,
    /// What a probe meant by the request, where nothing but that tells its situation.
    pub(super) intention: Option<Intention>,
    /// Did a probe mean it to be served?
    pub is_to_be_served: bool,
    /// Did it get a success before, by the same idempotency key?
    pub repeats: bool,
    /// May parameters be invalid only in that one is missing which the contract does not know?
    pub(super) lacks_unknown_parameter: bool,
    precedence: &'a [Vec<Situation>],
}

impl<'a> RequestSituations<'a> {
    pub(super) fn of(asked: &RoutedRequest<'_, 'a>) -> Self {
        let RoutedRequest { exchange, route: spot, contract, .. } = asked;
        let endpoint = match spot {
            RouteMatch::Endpoint(_, endpoint) => Some(*endpoint),
            RouteMatch::UnknownRoute | RouteMatch::MethodNotAllowed(_) => None,
        };
        let rules = contract.rules_at(endpoint, asked.region);
        let order = rules.precedence.as_deref().unwrap_or_default();
        let mut situations = Self { precedence: order, ..Self::default() };
        situations.method(&exchange.request.method, contract);
        match spot {
            RouteMatch::UnknownRoute => situations.holds.insert(Situation::UnknownRoute),
            RouteMatch::MethodNotAllowed(_) => situations.holds.insert(Situation::MethodNotAllowed),
            RouteMatch::Endpoint(_, endpoint) => {
                situations.credentials(&exchange.request, rules, contract, asked.credentials);
                situations.acceptable(&exchange.request, rules, contract);
                situations.content(&exchange.request, rules, &contract.shapes);
                situations.size(&exchange.request, rules);
                situations.required_headers(&exchange.request, rules);
                let found = invalid_parameters(asked, &endpoint.path, rules);
                situations.parameters(found);
            }
        }
        if endpoint.is_none() {
            // Nobody knows what else the service looks at first.
            let open = &mut situations.open;
            let method = open.contains(Situation::UnknownMethod);
            *open = SituationSet::EVERY;
            open.remove(Situation::UnknownRoute);
            open.remove(Situation::MethodNotAllowed);
            if !method {
                open.remove(Situation::UnknownMethod);
            }
        }
        cases::apply(asked, &mut situations);
        situations.intend(asked.exchange);
        situations
    }

    /// Takes a probe at its word where the request can't show it: whether a token is good, or an id is of something. What
    /// the request shows, and what a case of the contract says, wins.
    fn intend(&mut self, exchange: &Exchange<'_>) {
        let Some(intention) = exchange.intention() else { return };
        let is_told = self.served_by.is_some() || !self.cases.is_empty();
        self.is_to_be_served = intention.situation.is_none() && !is_told;
        if self.is_to_be_served && self.is_valid() {
            self.repeats = intention.repeats;
            self.intention = Some(intention);
            return;
        }
        let Some(situation) = intention.situation.filter(|_| !is_told) else { return };
        if !situation.is_visible_in_request() || self.open.contains(situation) {
            self.open.remove(situation);
            self.holds.insert(situation);
            self.intention = Some(intention);
        }
    }

    /// Can this situation hold, as far as the request shows?
    #[must_use]
    pub fn may_hold(&self, situation: Situation) -> bool {
        !situation.is_visible_in_request()
            || self.holds.contains(situation)
            || self.open.contains(situation)
    }

    /// Is nothing wrong with the request, as far as it shows?
    #[must_use]
    pub fn is_valid(&self) -> bool {
        self.holds.is_empty()
    }

    /// The step of the contract's order at which a situation is looked at; those that stand in no step
    /// come last.
    fn level(&self, situation: Situation) -> usize {
        let found = self.precedence.iter().position(|step| step.contains(&situation));
        found.unwrap_or(self.precedence.len())
    }

    fn first_level(&self) -> Option<usize> {
        self.holds.iter().map(|situation| self.level(situation)).min()
    }

    /// Does this situation hold, and is it one of those that decide about the response?
    #[must_use]
    pub fn decides(&self, situation: Situation) -> bool {
        self.holds.contains(situation) && Some(self.level(situation)) == self.first_level()
    }

    /// Would the service look at this situation before, or together with, what holds?
    #[must_use]
    pub fn comes_in_time(&self, situation: Situation) -> bool {
        self.first_level().is_none_or(|first| self.level(situation) <= first)
    }

    /// Does the contract's order have both on one step?
    #[must_use]
    pub fn shares_level(&self, one: Situation, other: Situation) -> bool {
        self.precedence.iter().any(|step| step.contains(&one) && step.contains(&other))
    }

    /// The situations that decide, in the order of a grid.
    pub fn deciding(&self) -> impl Iterator<Item = Situation> {
        self.holds.iter().filter(|situation| self.decides(*situation))
    }

    /// The situation that a grid shows.
    #[must_use]
    pub fn first(&self) -> Option<Situation> {
        self.deciding().next()
    }

    fn method(&mut self, method: &str, contract: &ErrorContract) {
        let known = |known: &faithful_clerk_contract::Endpoint| known.method == method;
        if contract.endpoints.iter().any(known) || matches!(method, "HEAD" | "OPTIONS") {
            return;
        }
        if method::is_standard(method) {
            self.open.insert(Situation::UnknownMethod);
        } else {
            self.holds.insert(Situation::UnknownMethod);
        }
    }

    fn credentials(
        &mut self,
        request: &Request<'_>,
        rules: &Rules,
        contract: &ErrorContract,
        recorded: Credentials,
    ) {
        let by_header = || contract.credentials.iter().any(|name| request.headers.has(name));
        let sent = match &rules.security {
            Some(alternatives) => alternatives
                .iter()
                .any(|all| all.iter().all(|scheme| scheme.is_in(&request.headers, &request.url))),
            None => by_header(),
        };
        // What stands in a URL is in every recording.
        let is_in_url = |alternatives: &Vec<Vec<CredentialScheme>>| {
            let mut schemes = alternatives.iter().flatten();
            schemes.all(|scheme| matches!(scheme, CredentialScheme::Query(_)))
        };
        let is_unknown = |name: &String| request.headers.is_unknown(name);
        let recorded = match &rules.security {
            Some(alternatives) if is_in_url(alternatives) => Credentials::Recorded,
            _ if contract.credentials.iter().any(is_unknown) => Credentials::NotRecorded,
            _ => recorded,
        };
        match (rules.auth, recorded) {
            _ if sent => {}
            (Some(Authentication::None), _) => {}
            (Some(Authentication::Required), Credentials::Recorded) => {
                self.holds.insert(Situation::MissingCredentials);
            }
            (Some(Authentication::Required), Credentials::NotRecorded) | (None, _) => {
                self.open.insert(Situation::MissingCredentials);
            }
        }
    }

    /// Can any of the media types that there are be had by what the request accepts?
    ///
    /// A service may pass over `Accept` and send what it has (RFC 9110 section 12.4.1), unless a fault for
    /// it is declared.
    fn acceptable(&mut self, request: &Request<'_>, rules: &Rules, contract: &ErrorContract) {
        let mut faults = rules.faults.iter().filter_map(|id| contract.fault(*id));
        let mut is_agreed = || faults.any(|fault| fault.when.contains(&Situation::NotAcceptable));
        let is_known = !request.headers.is_unknown("accept");
        let Some(produces) = rules.produces.as_ref().filter(|_| is_known && is_agreed()) else {
            return self.open.insert(Situation::NotAcceptable);
        };
        let can_be_had =
            |essence: &String| media::quality(essence, request.headers.all("accept")) > 0.0;
        let is_misused = produces.iter().any(|essence| essence == media::JSON_API)
            && only_misuses_json_api(request.headers.all("accept"));
        if request.headers.has("accept") && (is_misused || !produces.iter().any(can_be_had)) {
            self.holds.insert(Situation::NotAcceptable);
        }
    }

    fn size(&mut self, request: &Request<'_>, rules: &Rules) {
        let Some(largest) = rules.max_request_body else {
            return self.open.insert(Situation::ContentTooLarge);
        };
        let length = match &request.body {
            RequestBody::Absent => Some(0),
            RequestBody::Present(content) => content.decode().ok().map(|bytes| bytes.len() as u64),
            RequestBody::Blank | RequestBody::NotRecorded => request.headers.content_length(),
        };
        match length.max(request.headers.content_length()) {
            Some(length) if length > largest => self.holds.insert(Situation::ContentTooLarge),
            Some(_) => {}
            None => self.open.insert(Situation::ContentTooLarge),
        }
    }

    fn required_headers(&mut self, request: &Request<'_>, rules: &Rules) {
        let Some(required) = &rules.requires else {
            return self.open.insert(Situation::PreconditionRequired);
        };
        for (name, situation) in required {
            if request.headers.is_unknown(name) {
                self.open.insert(*situation);
            } else if !request.headers.has(name) {
                self.holds.insert(*situation);
            }
        }
    }

    fn parameters(&mut self, found: super::parameters::ParameterResult) {
        if found.is_open {
            self.open.insert(Situation::InvalidParameters);
        }
        let situations = found.invalid.iter().map(|parameter| parameter.situation);
        self.holds.extend(situations);
        self.parameters = found.invalid;
        self.lacks_unknown_parameter = found.has_none;
    }

    fn content(&mut self, request: &Request<'_>, rules: &Rules, shapes: &ShapeTable) {
        match &request.body {
            RequestBody::Absent | RequestBody::Blank => {
                let blank = matches!(request.body, RequestBody::Blank);
                match &rules.body {
                    Some(body) if body.required == BodyPresence::Yes => {
                        self.holds.insert(Situation::MissingBody);
                    }
                    Some(_) => {}
                    // Content of a GET or a DELETE has no meaning (RFC 9110 sections 9.3.1, 9.3.5), so none is missed.
                    None if method::usually_has_body(&request.method) => {
                        self.open.insert(Situation::MissingBody);
                    }
                    None => {}
                }
                if blank {
                    // White space alone is no JSON either.
                    self.open.insert(Situation::MalformedBody);
                }
            }
            RequestBody::NotRecorded => {
                self.media(request, rules);
                self.unread =
                    rules.body.as_ref().map(|_| "the recording does not hold the request's body");
                self.open.extend([Situation::MalformedBody, Situation::InvalidBody]);
            }
            RequestBody::Present(content) => {
                self.media(request, rules);
                let takes_json = takes_json(request, rules)
                    && !self.holds.contains(Situation::UnsupportedMediaType);
                match content.decode() {
                    Ok(bytes) if takes_json => {
                        let bytes = media::in_utf_8(&bytes, request.media().unwrap_or_default());
                        self.json(&bytes, rules.body.as_ref(), shapes);
                        self.examined(request, rules);
                    }
                    // It says itself that it is no JSON, and that is what is wrong with it.
                    Ok(_)
                        if self.holds.contains(Situation::UnsupportedMediaType)
                            && !says_json(request) => {}
                    Err(reason) => {
                        self.unread = rules.body.as_ref().map(|_| reason);
                        self.open.extend([Situation::MalformedBody, Situation::InvalidBody]);
                    }
                    Ok(_) => self.open.extend([Situation::MalformedBody, Situation::InvalidBody]),
                }
            }
        }
    }

    fn media(&mut self, request: &Request<'_>, rules: &Rules) {
        let essence = request.media().map(media::essence);
        match (essence, &rules.accepts) {
            (Some(essence), Some(accepts)) => {
                let is_misused = essence == media::JSON_API
                    && request.media().is_some_and(|m| media::json_api_misuse(m).next().is_some());
                if is_misused || !accepts.iter().any(|range| media::falls_under(&essence, range)) {
                    self.holds.insert(Situation::UnsupportedMediaType);
                }
            }
            // A body without a media type may be anything (RFC 9110 section 8.3).
            _ => self.open.insert(Situation::UnsupportedMediaType),
        }
    }

    /// A body without a media type may be taken for what it looks like (RFC 9110 section 8.3). If that is none of the
    /// declared types either, its type is as wrong as its syntax.
    fn examined(&mut self, request: &Request<'_>, rules: &Rules) {
        if request.media().is_none()
            && !request.headers.is_unknown("content-type")
            && rules.accepts.is_some()
            && self.holds.contains(Situation::MalformedBody)
        {
            self.holds.insert(Situation::UnsupportedMediaType);
        }
    }

    fn json(&mut self, bytes: &[u8], rules: Option<&BodyRules>, shapes: &ShapeTable) {
        match Json::read(bytes) {
            Json::Malformed(_) => self.holds.insert(Situation::MalformedBody),
            Json::Beyond(bound) => {
                self.unread = rules.map(|_| bound.words());
                self.open.insert(Situation::InvalidBody);
            }
            Json::Value(value) => {
                match rules {
                    None => self.open.insert(Situation::InvalidBody),
                    Some(rules) => {
                        self.invalid = rules.mismatches(&value, shapes);
                        if !self.invalid.is_empty() {
                            self.holds.insert(Situation::InvalidBody);
                        } else if rules.is_partial
                            || rules.schema.as_ref().is_some_and(|schema| !schema.is_usable())
                            || (rules.fields.is_none() && rules.schema.is_none())
                        {
                            self.open.insert(Situation::InvalidBody);
                        }
                    }
                }
                self.body = Some(value);
            }
        }
    }
}

/// Is JSON:API asked for, and each time with a parameter that it does not know (JSON:API 1.1, 'Server Responsibilities')?
fn only_misuses_json_api<'v>(accept: impl Iterator<Item = &'v str>) -> bool {
    let ranges = accept.flat_map(elements);
    let mut of_api = ranges.filter(|range| media::essence(range) == media::JSON_API).peekable();
    of_api.peek().is_some() && of_api.all(|range| media::json_api_misuse(range).next().is_some())
}

/// Does the body's media type say that it is JSON?
fn says_json(request: &Request<'_>) -> bool {
    request.media().map(media::essence).is_some_and(|essence| media::is_json(&essence))
}

/// Is the body to be read as JSON: by its media type, or without one by what the endpoint takes?
fn takes_json(request: &Request<'_>, rules: &Rules) -> bool {
    let accepts = rules.accepts.iter().flatten();
    let has_body = rules.body.is_some()
        || accepts.into_iter().any(|range| media::is_json(range))
        || method::usually_has_body(&request.method);
    let said = request.media().map(media::essence);
    has_body && said.map_or(rules.body.is_some(), |essence| media::is_json(&essence))
}
