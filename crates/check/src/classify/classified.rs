//! An exchange of which is known what it is, and how it comes to be known.

use std::borrow::Cow;
use std::cell::OnceCell;

use serde_json::{Map, Value};

use super::data_locations;
use super::embedded_error::{self, EmbeddedError};
use super::request::RoutedRequest;
use super::{
    ParsedBody, ReportedField, RequestSituations, StatusVerdict, find_reported_fields, language,
    verdict,
};
use crate::body::{Decoded, decoded};
use crate::disclosure::{Disclosure, disclosed};
use faithful_clerk_contract::{
    DisclosureScope, DocumentedResponse, Endpoint, EndpointId, EndpointRow, ErrorContract,
    ErrorStyle, Fault, PartialSuccess, RegionId, RequestPath, Rules, Scope,
};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::{Exchange, Response, ResponseBody};
use faithful_clerk_model::json;
use faithful_clerk_model::json::pointer::{resolve, tokens};
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::CompiledSchema;
use faithful_clerk_shape::{DataLocations, Shape, ShapeId};

/// Does the recording hold credentials anywhere?
///
/// Recorders leave them out, and then nobody can say that a request had none.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Credentials {
    /// At least one request of the recording carries some.
    Recorded,
    /// No request of the recording carries any.
    NotRecorded,
}

/// What came of placing an exchange.
#[derive(Debug)]
pub enum Classification<'a> {
    /// It is none of the service's; the reason is one of few.
    Excluded(&'static str),
    /// It is the service's.
    Classified(Box<Classified<'a>>),
}

/// Where a request leads.
#[derive(Debug)]
pub enum RouteMatch<'a> {
    /// No template matches.
    UnknownRoute,
    /// A template matches, without that method. It is told by the first of its endpoints.
    MethodNotAllowed(EndpointId),
    /// An endpoint.
    Endpoint(EndpointId, &'a Endpoint),
}

/// How the text of a body is encoded.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TextEncoding {
    /// UTF-8.
    Utf8,
    /// UTF-8 behind a byte order mark.
    Utf8WithMark,
    /// Something else.
    Other,
}

impl TextEncoding {
    fn of(bytes: &[u8]) -> Self {
        match bytes.starts_with(b"\xef\xbb\xbf") {
            true => Self::Utf8WithMark,
            false if std::str::from_utf8(bytes).is_ok() => Self::Utf8,
            false => Self::Other,
        }
    }
}

/// An exchange of which is known what it is.
#[derive(Debug)]
pub struct Classified<'a> {
    /// The exchange.
    pub exchange: &'a Exchange<'a>,
    /// The contract.
    pub contract: &'a ErrorContract,
    /// Where its request leads.
    pub route: RouteMatch<'a>,
    /// The region that its path lies in.
    pub region: Option<RegionId>,
    /// Is it to be redirected to an endpoint, whose path is another only by a slash at its end?
    pub is_redirected: bool,
    /// The endpoints of the path.
    path_endpoints: Cow<'a, [EndpointId]>,
    /// The situations that the request shows.
    pub situations: RequestSituations<'a>,
    /// How the response's status stands to them.
    pub verdict: StatusVerdict<'a>,
    /// The part of the recordings that the exchange belongs to, where the caller named it.
    pub environment: Option<&'a str>,
    /// The faults that the response may be: one where it was recognised, several where they can't be
    /// told apart, none where it is no agreed fault.
    pub faults: Vec<&'a Fault>,
    content: OnceCell<Option<Decoded<'a>>>,
    body: OnceCell<ParsedBody>,
    media: OnceCell<Option<Cow<'a, str>>>,
    reported_fields: OnceCell<Vec<ReportedField>>,
    disclosures: OnceCell<Vec<Disclosure>>,
    embedded_error: OnceCell<Option<EmbeddedError>>,
}

/// Why an exchange is excluded that is on none of the service's servers.
pub const NOT_OWN: &str = "not the service's, according to the contract";

/// Classifies an exchange.
#[must_use]
pub fn classify<'a>(
    exchange: &'a Exchange<'a>,
    contract: &'a ErrorContract,
    credentials: Credentials,
) -> Classification<'a> {
    let request = &exchange.request;
    let everything = contract.scope == Scope::Everything;
    let own = contract.request_path(&request.method, &request.url);
    let is_own = own.is_some();
    let other = || RequestPath::read(&request.url, &[]).filter(|_| everything);
    let Some(target) = own.or_else(other) else {
        return Classification::Excluded(NOT_OWN);
    };
    let ends = contract.route(&target).filter(|_| is_own).unwrap_or_default();
    let ends = by_query(ends, &target, contract);
    let of = |method: &str| {
        let endpoint = |id| contract.endpoint(id).filter(|endpoint| endpoint.method == method);
        ends.iter().find_map(|id| Some((*id, endpoint(*id)?)))
    };
    let is_redirected = is_own && ends.is_empty() && contract.is_redirected(&target);
    // HEAD is offered where GET is (RFC 9110 section 9.3.2).
    let found = of(&request.method).or_else(|| of("GET").filter(|_| request.method == "HEAD"));
    let spot = match found {
        Some((id, endpoint)) => RouteMatch::Endpoint(id, endpoint),
        None if request.method == "OPTIONS" && !everything => {
            return Classification::Excluded(
                "an OPTIONS request that the contract does not declare",
            );
        }
        None if ends.is_empty() && is_page(exchange) && !everything && !is_redirected => {
            return Classification::Excluded(
                "a page, script, image or the like, at a path of no endpoint",
            );
        }
        None => match ends.first() {
            Some(id) => RouteMatch::MethodNotAllowed(*id),
            None => RouteMatch::UnknownRoute,
        },
    };
    let region = match &spot {
        RouteMatch::Endpoint(_, endpoint) => contract.region_of_endpoint(endpoint),
        _ => contract.region_of(contract.segments(&target)),
    };
    let asked =
        RoutedRequest { exchange, route: &spot, target: &target, region, contract, credentials };
    let situations = RequestSituations::of(&asked);
    let mut classified = Classified {
        exchange,
        contract,
        route: spot,
        region,
        is_redirected,
        path_endpoints: ends,
        situations,
        verdict: StatusVerdict::NoResponse,
        environment: None,
        faults: Vec::new(),
        content: OnceCell::new(),
        body: OnceCell::new(),
        media: OnceCell::new(),
        reported_fields: OnceCell::new(),
        disclosures: OnceCell::new(),
        embedded_error: OnceCell::new(),
    };
    (classified.verdict, classified.faults) = verdict::of(&classified);
    Classification::Classified(Box::new(classified))
}

/// The endpoints of a path whose query a request has; those that ask for more of it first.
fn by_query<'a>(
    ends: &'a [EndpointId],
    target: &RequestPath<'_>,
    contract: &ErrorContract,
) -> Cow<'a, [EndpointId]> {
    let query = |id: &EndpointId| contract.endpoint(*id).map_or(0, |one| one.query.len());
    if ends.iter().all(|id| query(id) == 0) {
        return Cow::Borrowed(ends);
    }
    let fits = |id: &&EndpointId| contract.endpoint(**id).is_some_and(|one| one.fits_query(target));
    let mut fitting: Vec<EndpointId> = ends.iter().filter(fits).copied().collect();
    fitting.sort_by_key(|id| std::cmp::Reverse(query(id)));
    Cow::Owned(fitting)
}

/// A success or a redirect that is no JSON is what a browser loads beside the service's responses; who asks for JSON alone
/// loads no pages.
fn is_page(exchange: &Exchange<'_>) -> bool {
    let Some(response) = &exchange.response else { return false };
    let essence = response.media().map(media::essence);
    let accepts = |media: &str| media::quality(media, exchange.request.headers.all("accept")) > 0.0;
    matches!(exchange.request.method.as_ref(), "GET" | "HEAD")
        && accepts(essence.as_deref().unwrap_or("text/html"))
        && response.status < 400
        && essence.map_or(response.status >= 300, |essence| !media::is_json(&essence))
}

impl<'a> Classified<'a> {
    /// The response, if one came.
    #[must_use]
    pub fn response(&self) -> Option<&'a Response<'a>> {
        self.exchange.response.as_ref()
    }

    /// The response's status, if one came.
    #[must_use]
    pub fn status(&self) -> Option<u16> {
        self.response().map(|response| response.status)
    }

    /// Is the response an error: a status of 400 or above?
    #[must_use]
    pub fn is_error(&self) -> bool {
        self.status().is_some_and(|status| status >= 400)
    }

    /// The methods that the path offers, by the contract.
    #[must_use]
    pub fn allowed_methods(&self) -> Vec<&'a str> {
        let endpoints = self.path_endpoints.iter().filter_map(|id| self.contract.endpoint(*id));
        endpoints.map(|endpoint| endpoint.method.as_str()).collect()
    }

    /// Where the exchange is grouped.
    #[must_use]
    pub fn row(&self) -> EndpointRow {
        match self.route {
            RouteMatch::Endpoint(id, _) => EndpointRow::Endpoint(id),
            RouteMatch::MethodNotAllowed(id) => EndpointRow::OtherMethods(id),
            RouteMatch::UnknownRoute => EndpointRow::UnknownRoute,
        }
    }

    /// The endpoint, where the request leads to one.
    #[must_use]
    pub fn endpoint(&self) -> Option<&'a Endpoint> {
        match self.route {
            RouteMatch::Endpoint(_, endpoint) => Some(endpoint),
            RouteMatch::UnknownRoute | RouteMatch::MethodNotAllowed(_) => None,
        }
    }

    /// The content of the response's body, decoded at the first call; `None` where there is none.
    pub fn content(&self) -> Option<Result<&[u8], &&'static str>> {
        let content = self.content.get_or_init(|| self.response().and_then(decoded));
        content.as_ref().map(|content| content.as_deref())
    }

    /// Why the content of the response's body could not be decoded, if somebody looked and it could not.
    #[must_use]
    pub fn broken_content(&self) -> Option<&'static str> {
        self.content.get()?.as_ref()?.as_ref().err().copied()
    }

    /// The response's body, decoded and parsed at the first call.
    pub fn body(&self) -> &ParsedBody {
        self.body.get_or_init(|| match self.response() {
            Some(response) => ParsedBody::of(response, self.content()),
            None => ParsedBody::Empty,
        })
    }

    /// How the text of the response's body is encoded, where it has one that can be decoded.
    #[must_use]
    pub fn text_encoding(&self) -> TextEncoding {
        match self.content() {
            Some(Ok(bytes)) => TextEncoding::of(bytes),
            _ => TextEncoding::Utf8,
        }
    }

    /// The place of the first member of the response's body whose name stands twice in one object.
    #[must_use]
    pub fn repeated_name(&self) -> Option<String> {
        json::repeated_name(self.content().and_then(Result::ok)?, self.body().json()?)
    }

    /// The members of the response's body, where it is an object.
    pub fn members(&self) -> Option<&Map<String, Value>> {
        self.body().json()?.as_object()
    }

    /// The entries of a validation error, read out of the response's body at the first call.
    pub fn reported_fields(&self) -> &[ReportedField] {
        self.reported_fields.get_or_init(|| {
            let body = self.body().json();
            body.map(|body| {
                find_reported_fields(
                    body,
                    self.expected_shape(),
                    self.style(),
                    &self.contract.shapes,
                )
            })
            .unwrap_or_default()
        })
    }

    /// The places of the response's body at which data stands where other responses have structure: objects
    /// keyed by field, where other fields make no other shape, values that name a place, and echoes of the request.
    pub fn data_locations(&self) -> DataLocations {
        let body = self.body().json();
        body.map(|body| data_locations::of(self, body)).unwrap_or_default()
    }

    /// The error that a success carries inside, looked for at the first call.
    pub fn embedded_error(&self) -> Option<&EmbeddedError> {
        self.embedded_error.get_or_init(|| embedded_error::error_inside(self)).as_ref()
    }

    /// What the response tells that is internal, looked for at the first call.
    pub fn disclosures(&self) -> &[Disclosure] {
        self.disclosures.get_or_init(|| {
            let content = self.content().and_then(Result::ok);
            let body = self.is_checked_for_disclosure().then(|| (self.body(), content));
            let mut found = disclosed(self.exchange, self.contract, self.expected_shape(), body);
            if let Some(failures) = self.failures_alone() {
                // What succeeded is data, as in any success.
                found.retain(|one| match &one.location {
                    Location::Pointer(pointer) => pointer.starts_with(failures),
                    _ => true,
                });
            }
            found
        })
    }

    /// Is the body looked through for disclosures: is it an error, a success with one inside, or, if the contract asks
    /// for it, any?
    pub fn is_checked_for_disclosure(&self) -> bool {
        self.contract.disclosure_scope == DisclosureScope::All
            || self.is_error()
            || self.rules().partial.as_ref().is_some_and(|partial| self.has_failures(partial))
            || self.embedded_error().is_some()
    }

    /// Where the failures of a success are, if they alone are looked through for disclosures.
    fn failures_alone(&self) -> Option<&'a str> {
        let is_whole = self.contract.disclosure_scope == DisclosureScope::All
            || self.is_error()
            || self.embedded_error().is_some();
        let partial = self.rules().partial.as_ref().filter(|_| !is_whole)?;
        Some(&partial.failures)
    }

    /// Has some of what was asked for failed, in a success that says so?
    fn has_failures(&self, partial: &PartialSuccess) -> bool {
        let list = || resolve(self.body().json()?, &tokens(&partial.failures)?)?.as_array();
        list().is_some_and(|failures| !failures.is_empty())
    }

    /// What holds where the request leads.
    #[must_use]
    pub fn rules(&self) -> &'a Rules {
        self.contract.rules_at(self.endpoint(), self.region)
    }

    /// What `same as header` means: a header field of the response, or where it has none, of the request.
    #[must_use]
    pub fn header_value(&self, name: &str) -> Option<String> {
        let own = self.response().and_then(|response| response.headers.get(name));
        own.or_else(|| self.exchange.request.headers.get(name)).map(str::to_owned)
    }

    /// How errors look where the request leads.
    #[must_use]
    pub fn style(&self) -> &'a ErrorStyle {
        self.contract.style(self.region)
    }

    /// The language that was due for titles and details, where the contract has several.
    #[must_use]
    pub fn expected_language(&self) -> Option<&'a str> {
        let accept = || self.exchange.request.headers.get("accept-language");
        language::due(accept, &self.contract.languages)
    }

    /// The documented response of this status, where a description has one and no fault was recognised.
    #[must_use]
    pub fn documented(&self) -> Option<&'a DocumentedResponse> {
        let rules = &self.endpoint()?.rules;
        let ranges = self.contract.documented_ranges;
        let is_open = self.faults.iter().all(|fault| fault.is_documented);
        rules.documented_response(self.status()?, ranges).filter(|_| is_open)
    }

    /// The schema that a description documents for this response's body, likewise.
    #[must_use]
    pub fn documented_schema(&self) -> Option<&'a CompiledSchema> {
        self.documented()?.schema(self.media().unwrap_or_default())
    }

    /// The response's body, if any clause looked at it.
    #[must_use]
    pub fn body_if_read(&self) -> Option<&ParsedBody> {
        self.body.get()
    }

    /// Was the response cut, by the recorder's own word or by what is missing?
    #[must_use]
    pub fn is_truncated(&self) -> bool {
        self.response().is_some_and(|response| matches!(response.body, ResponseBody::Truncated))
    }

    /// The response's media type without parameters, where it says one.
    #[must_use]
    pub fn media(&self) -> Option<&str> {
        let essence = || self.response()?.media().map(media::essence);
        self.media.get_or_init(essence).as_deref()
    }

    /// The fault that the response is, where exactly one is it.
    #[must_use]
    pub fn fault(&self) -> Option<&'a Fault> {
        match self.faults.as_slice() {
            [fault] => Some(fault),
            _ => None,
        }
    }

    /// The media type that was expected for this error response.
    #[must_use]
    pub fn expected_media(&self) -> Option<&'a str> {
        let (first, others) = self.declared_media()?;
        if others.is_empty() { Some(first) } else { self.expected_media_types().first().copied() }
    }

    /// The media types that are declared for this error response: the first, and the others.
    fn declared_media(&self) -> Option<(&'a str, &'a [String])> {
        let own = |fault: &&'a Fault| {
            fault.media.as_deref().map(|first| (first, fault.other_media.as_slice()))
        };
        let first = self.faults.first().and_then(own);
        let same = self.faults.iter().all(|fault| own(fault) == first);
        let error = &self.style().error;
        let every = || error.media.as_deref().map(|first| (first, error.other_media.as_slice()));
        first.filter(|_| same).or_else(every)
    }

    /// The media types that were expected for this error response: of several declared ones those that the request's
    /// `Accept` wants most, and all of them where it wants none.
    #[must_use]
    pub fn expected_media_types(&self) -> Vec<&'a str> {
        let Some((first, others)) = self.declared_media() else { return Vec::new() };
        let declared: Vec<&str> =
            std::iter::once(first).chain(others.iter().map(String::as_str)).collect();
        if others.is_empty() {
            return declared;
        }
        let wanted = |media: &str| {
            media::quality(&media::essence(media), self.exchange.request.headers.all("accept"))
        };
        let most = declared.iter().map(|media| wanted(media)).fold(0.0, f64::max);
        declared.into_iter().filter(|media| most == 0.0 || wanted(media) == most).collect()
    }

    /// The shape that was expected for this error response: of the fault, or of every error.
    #[must_use]
    pub fn expected_shape(&self) -> Option<&'a Shape> {
        self.expected_shape_id().and_then(|id| self.contract.shapes.get(id))
    }

    fn expected_shape_id(&self) -> Option<ShapeId> {
        let shape = |fault: &&'a Fault| fault.shape_in(self.region);
        let first = self.faults.first().and_then(shape);
        let same = self.faults.iter().all(|fault| shape(fault) == first);
        first.filter(|_| same).or(self.style().error.shape)
    }

    /// Is this error response meant to be problem details: by the contract, or by its own word?
    #[must_use]
    pub fn is_meant_as_problem(&self) -> bool {
        const PROBLEM: &str = "application/problem+json";
        // Types and titles are members of problems; with a shape of another JSON type they are only names.
        let by_shape = match self.expected_shape() {
            Some(shape) => shape.is_problem,
            None => {
                self.style().envelope.title.is_none()
                    && self.faults.iter().any(|f| f.type_uri.is_some() || f.title.is_some())
            }
        };
        let is_named = || {
            self.media() == Some(PROBLEM)
                || self.expected_media().is_some_and(|media| media::essence(media) == PROBLEM)
        };
        self.is_error() && (by_shape || is_named())
    }

    /// Does the recording not hold header fields such as the one with the media type?
    #[must_use]
    pub fn is_media_unknown(&self) -> bool {
        self.response().is_some_and(|response| response.headers.is_unknown("content-type"))
    }

    /// Does the response carry the media type that was expected, or was none? Where nobody knows, a body of JSON does.
    #[must_use]
    pub fn has_expected_media(&self) -> bool {
        let expected = self.expected_media_types();
        let seen = self.response().and_then(Response::media);
        let is_likely = || self.is_media_unknown() && matches!(self.body(), ParsedBody::Json(_));
        expected.is_empty()
            || is_likely()
            || seen.is_some_and(|seen| expected.iter().any(|one| media::is_declared(seen, one)))
    }

    /// The situation under which a grid shows the exchange: of those that decide the one that the response is
    /// about, else the first; where the request shows none, the one that the response tells of; `None` where the
    /// request was in order and was served.
    #[must_use]
    pub fn grid_situation(&self) -> Option<Situation> {
        if let Some(first) = self.situations.first() {
            let about = |one: &Situation| self.faults.iter().any(|fault| fault.is_for(*one));
            return Some(self.situations.deciding().find(about).unwrap_or(first));
        }
        // One that was to be served says nothing of what was in the way.
        let is_open = !self.situations.is_to_be_served;
        let status = self.status().filter(|status| *status >= 400 && is_open)?;
        let told = self.fault().and_then(|fault| {
            fault.when.iter().copied().find(|situation| !situation.is_visible_in_request())
        });
        told.or_else(|| Situation::implied_by_status(status))
    }

    /// What an allowed error tells of instead of what the request shows: too many requests, a resource that is not
    /// there. It is right, and leaves open what the service makes of the request.
    #[must_use]
    pub fn told_instead(&self) -> Option<Situation> {
        if !self.is_error() || !matches!(self.verdict, StatusVerdict::Fits) {
            return None;
        }
        let status = self.status()?;
        if self.situations.first().is_none() {
            let is_to_be_served = self.situations.is_to_be_served;
            return Situation::implied_by_status(status).filter(|_| is_to_be_served);
        }
        let decides = |one: Situation| self.situations.decides(one);
        let Some(first) = self.faults.first() else {
            let about = self.situations.deciding().any(|one| one.usual_status() == Some(status));
            return Situation::implied_by_status(status).filter(|one| !about && !decides(*one));
        };
        let by_case = |fault: &Fault| {
            let expected = self.situations.expected.iter();
            expected
                .filter_map(|(id, _)| self.contract.fault(*id))
                .any(|one| one.name == fault.name)
        };
        let about = |fault: &&Fault| {
            by_case(fault)
                || match fault.when.as_slice() {
                    [] => Situation::implied_by_status(fault.status).is_none_or(decides),
                    // Where no fault is for what is wrong here, one for something else that is seen in requests will do.
                    when => when.iter().any(|one| {
                        decides(*one)
                            || one.is_visible_in_request() && !self.has_fault_for_what_decides()
                    }),
                }
        };
        if self.faults.iter().copied().any(|fault| about(&fault)) {
            return None;
        }
        let possible = first.when.iter().copied().find(|one| self.situations.may_hold(*one));
        possible.or_else(|| Situation::implied_by_status(status))
    }

    fn has_fault_for_what_decides(&self) -> bool {
        let faults = self.rules().faults.iter().filter_map(|id| self.contract.fault(*id));
        faults.into_iter().any(|fault| self.situations.deciding().any(|one| fault.is_for(one)))
    }
}
