//! What one worker sees on its pass, and how that adds up.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::facts::{
    EndpointFacts, ErrorCategory, GroupKey, ObservedBody, Occurrences, RequestFlaws,
    ResponseSignature, StableMembers,
};
use super::given_names::GivenNames;
use super::observe::{
    RequestRoute, beside, causes, declared_at, grouping, is_html, says, succeeded, success,
};
use super::refused_bodies::RefusedBodies;
use super::tree::PathNode;
use super::validation::FieldNamingFacts;
use faithful_clerk_check::classify::{
    Classification, Classified, Credentials, LocationForm, ParsedBody, classify,
};
use faithful_clerk_contract::{ErrorContract, Scope};
use faithful_clerk_model::exchange::{Exchange, Response};
use faithful_clerk_model::media;
use faithful_clerk_model::secret::is_secret_header;
use faithful_clerk_model::secret::mask::masked_example;
use faithful_clerk_recording::Visitor;
use faithful_clerk_recording::{Unreadable, UnreadableParts};
use faithful_clerk_shape::InferredShape;

/// So many groups of bodies are told apart; all others are one.
pub const MOST_GROUPS: usize = 128;

/// So many headers of errors are remembered.
const MOST_HEADERS: usize = 64;

/// Of a header, so many values.
const MOST_HEADER_VALUES: usize = 4;

/// So many hosts are told apart.
const MOST_ORIGINS: usize = 64;

/// Where only paths are looked at, the successes of so many exchanges are read, and one in so many of those behind them:
/// enough to tell values from names.
const READ_WHOLE: u64 = 4096;
const READ_ONE_IN: u64 = 16;

/// Stands for the others.
const OTHER_HOSTS: &str = "other hosts";

/// Headers that say nothing of an agreement: of the connection, of the server, of the content's size and age.
pub const NOISE: [&str; 20] = [
    "host",
    "date",
    "server",
    "content-type",
    "content-length",
    "connection",
    "transfer-encoding",
    "keep-alive",
    "via",
    "set-cookie",
    "etag",
    "last-modified",
    "age",
    "x-powered-by",
    "x-runtime",
    "alt-svc",
    "content-encoding",
    "accept-ranges",
    "trailer",
    "upgrade",
];

/// Bodies of errors that are of one form.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct BodyGroup {
    /// What they are made of.
    pub shape: InferredShape,
    /// The exchanges.
    pub seen: Occurrences,
    /// How their entries name the places of a request.
    pub forms: BTreeMap<LocationForm, u64>,
}

impl BodyGroup {
    /// Adds another.
    pub fn add(&mut self, other: Self) {
        self.shape.add(other.shape);
        self.seen.add(&other.seen);
        for (form, count) in other.forms {
            *self.forms.entry(form).or_default() += count;
        }
    }
}

/// A header that errors carry.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ObservedHeader {
    /// Its name as it was written.
    pub name: String,
    /// In how many errors.
    pub count: u64,
    /// Some of its values.
    pub values: BTreeSet<String>,
}

/// Everything that was seen. What workers gathered adds up in any order.
#[derive(Debug, Clone)]
pub struct SurveyData<'c> {
    contract: &'c ErrorContract,
    /// Are only paths looked at, and not what errors say?
    is_of_paths: bool,
    /// What was seen at the endpoints of the contract, by template and method.
    pub declared: BTreeMap<(String, String), EndpointFacts>,
    /// The other paths, by scheme, host and port.
    pub origins: BTreeMap<String, PathNode>,
    /// What responses called things.
    pub names: GivenNames,
    /// The bodies of errors.
    pub groups: BTreeMap<GroupKey, BodyGroup>,
    /// The bodies of errors that are one of too many shapes.
    pub many: BTreeMap<ErrorCategory, BodyGroup>,
    /// How validation errors name fields.
    pub naming: FieldNamingFacts,
    /// Exchanges that are none of the service's, by reason.
    pub excluded: BTreeMap<&'static str, u64>,
    /// How many exchanges are the service's.
    pub exchanges: u64,
    /// How many of them are errors: a status of 400 or above.
    pub errors: u64,
    /// Errors that tell what is internal, by what it is.
    pub disclosed: BTreeMap<&'static str, Occurrences>,
    /// Errors in responses that are successes by their status.
    pub inside: Occurrences,
    /// The headers of errors, by name in lower case.
    pub headers: BTreeMap<String, ObservedHeader>,
    /// Does any request carry credentials?
    pub has_credentials: bool,
    /// What could not be read.
    pub unreadable: UnreadableParts,
}

impl<'c> SurveyData<'c> {
    /// Nothing, yet. The contract, which may be an empty one, decides about endpoints where it has any.
    #[must_use]
    pub fn new(contract: &'c ErrorContract) -> Self {
        Self {
            contract,
            is_of_paths: false,
            declared: BTreeMap::new(),
            origins: BTreeMap::new(),
            names: GivenNames::default(),
            groups: BTreeMap::new(),
            many: BTreeMap::new(),
            naming: FieldNamingFacts::default(),
            excluded: BTreeMap::new(),
            exchanges: 0,
            errors: 0,
            disclosed: BTreeMap::new(),
            inside: Occurrences::default(),
            headers: BTreeMap::new(),
            has_credentials: false,
            unreadable: UnreadableParts::default(),
        }
    }

    /// The same, of paths alone: which there are, and where something was found.
    #[must_use]
    pub fn of_paths(contract: &'c ErrorContract) -> Self {
        Self { is_of_paths: true, ..Self::new(contract) }
    }

    /// Adds what another worker gathered.
    pub fn add(&mut self, other: Self) {
        for (location, facts) in other.declared {
            self.declared.entry(location).or_default().add(facts);
        }
        for (origin, node) in other.origins {
            self.add_origin(origin, node);
        }
        self.names.add(&other.names);
        for (key, group) in other.groups {
            self.group(key, group);
        }
        for (kind, group) in other.many {
            self.many.entry(kind).or_default().add(group);
        }
        self.naming.add(other.naming);
        for (reason, count) in other.excluded {
            *self.excluded.entry(reason).or_default() += count;
        }
        for (what, seen) in other.disclosed {
            self.disclosed.entry(what).or_default().add(&seen);
        }
        self.inside.add(&other.inside);
        for (key, header) in other.headers {
            self.header(key, header);
        }
        self.exchanges += other.exchanges;
        self.errors += other.errors;
        self.has_credentials |= other.has_credentials;
        self.unreadable.add(other.unreadable);
    }

    /// Adds what was seen at a host. Which hosts are kept apart does not depend on the order in which they came: the
    /// first of them by name.
    fn add_origin(&mut self, origin: String, node: PathNode) {
        self.origins.entry(origin).or_default().add(node);
        shorten(&mut self.origins);
    }

    fn group(&mut self, key: GroupKey, group: BodyGroup) {
        self.groups.entry(key).or_default().add(group);
        // Which groups are kept does not depend on the order in which they came.
        if self.groups.len() > MOST_GROUPS
            && let Some(((kind, _), group)) = self.groups.pop_last()
        {
            self.many.entry(kind).or_default().add(group);
        }
    }

    fn header(&mut self, key: String, header: ObservedHeader) {
        let ObservedHeader { name, count, values } = header;
        let sum = self
            .headers
            .entry(key)
            .or_insert_with(|| ObservedHeader { name: name.clone(), ..ObservedHeader::default() });
        sum.name = name.min(std::mem::take(&mut sum.name));
        sum.count += count;
        sum.values.extend(values);
        while sum.values.len() > MOST_HEADER_VALUES {
            sum.values.pop_last();
        }
        while self.headers.len() > MOST_HEADERS {
            self.headers.pop_last();
        }
    }
}

impl Visitor for SurveyData<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let contract = self.contract;
        let carries = |name: &String| exchange.request.headers.has(name);
        let with_credentials = contract.credentials.iter().any(carries)
            || ["authorization", "cookie", "x-api-key"].map(str::to_owned).iter().any(carries);
        self.has_credentials |= with_credentials;
        if let Some(reason) = beside(exchange).filter(|_| contract.scope == Scope::Service) {
            *self.excluded.entry(reason).or_default() += 1;
            return;
        }
        let classification = classify(exchange, contract, Credentials::NotRecorded);
        let classified = match &classification {
            Classification::Classified(classified) => Some(&**classified),
            // With a contract, what is aside is not the service's; without one, it is a plain success
            // of some other media type.
            Classification::Excluded(reason) if !contract.endpoints.is_empty() => {
                *self.excluded.entry(reason).or_default() += 1;
                return;
            }
            Classification::Excluded(_) => None,
        };
        let below = RequestRoute::below_servers(exchange, contract);
        let Some(way) = below.or_else(|| RequestRoute::of(exchange)) else {
            *self.excluded.entry("its URL can't be read, or is not http").or_default() += 1;
            return;
        };
        self.exchanges += 1;
        let observed = self.look(exchange, classified, with_credentials);
        if let Some(reason) = classified.and_then(Classified::broken_content) {
            self.unreadable.enter(Unreadable::of_body(exchange, reason));
        }
        let method = exchange.request.method.as_ref();
        let declared = classified.and_then(|classified| declared_at(classified, contract));
        let facts = match declared {
            Some(endpoint) => {
                let location = (endpoint.path.clone(), method.to_owned());
                self.declared.entry(location).or_default()
            }
            None => origin(&mut self.origins, &way.origin).at(&way.segments, method),
        };
        let is_missing = observed.row.status == Some(404);
        facts.note(observed.row, exchange.address, observed.causes);
        if is_missing {
            facts.missing.note(way.segments.as_slice());
        }
        if let Some(refused) = observed.refused {
            facts.refused.add(refused);
        }
        if let Some(response) = exchange.response.as_ref().filter(|_| observed.is_success) {
            let (sum, names) = (&mut facts.successes, &mut self.names);
            sum.count += 1;
            let number = exchange.address.number;
            let is_read =
                !self.is_of_paths || number <= READ_WHOLE || number.is_multiple_of(READ_ONE_IN);
            if is_read {
                succeeded(exchange, response, &way, with_credentials, sum, names);
            } else {
                sum.paths.note(way.segments.as_slice());
            }
        }
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.unreadable.enter(unreadable);
    }
}

/// What was seen at a host. Which hosts are kept apart does not depend on the order in which they came.
fn origin<'o>(origins: &'o mut BTreeMap<String, PathNode>, name: &str) -> &'o mut PathNode {
    if !origins.contains_key(name) {
        origins.insert(name.to_owned(), PathNode::default());
        shorten(origins);
    }
    let known = if origins.contains_key(name) { name } else { OTHER_HOSTS };
    origins.entry(known.to_owned()).or_default()
}

/// Takes the last hosts by name for one, where there are too many.
fn shorten(origins: &mut BTreeMap<String, PathNode>) {
    let is_kept = |name: &&String| name.as_str() != OTHER_HOSTS;
    while origins.keys().filter(is_kept).count() > MOST_ORIGINS {
        let last = origins.keys().rev().find(is_kept).cloned();
        let Some(node) = last.and_then(|last| origins.remove(&last)) else { return };
        origins.entry(OTHER_HOSTS.to_owned()).or_default().add(node);
    }
}

/// What one exchange shows, before it is known where it belongs.
struct ObservedExchange {
    row: ResponseSignature,
    causes: RequestFlaws,
    refused: Option<RefusedBodies>,
    /// Is it a success without an error inside?
    is_success: bool,
}

impl SurveyData<'_> {
    /// What one exchange shows.
    fn look(
        &mut self,
        exchange: &Exchange<'_>,
        classified: Option<&Classified<'_>>,
        with_credentials: bool,
    ) -> ObservedExchange {
        let causes = causes(&exchange.request, with_credentials);
        let mut row = ResponseSignature {
            status: classified.and_then(Classified::status),
            media: classified.and_then(Classified::media).map(str::to_owned),
            body: ObservedBody::Missing,
            stable: StableMembers::default(),
        };
        let Some(response) = &exchange.response else {
            return ObservedExchange { row, causes, refused: None, is_success: false };
        };
        row.status = Some(response.status);
        row.media = response.media().map(|media| media::essence(media).into_owned());
        let is_error = response.status >= 400;
        if is_error && self.is_of_paths {
            row.body = ObservedBody::Unknown("it was not looked at");
            return ObservedExchange { row, causes, refused: None, is_success: false };
        }
        let has_error =
            is_error || classified.is_some_and(|classified| classified.embedded_error().is_some());
        if is_error {
            self.errors += 1;
            self.headers_of(response);
        }
        for disclosed in
            classified.filter(|_| has_error).iter().flat_map(|classified| classified.disclosures())
        {
            self.disclosed.entry(disclosed.what).or_default().note(exchange.address);
        }
        if has_error && !is_error {
            self.inside.note(exchange.address);
        }
        let refused = classified
            .filter(|_| matches!(response.status, 400 | 422))
            .map(|classified| RefusedBodies::of(classified, classified.reported_fields()));
        row.body = match classified {
            Some(classified) if has_error => self.error(classified, &mut row.stable),
            _ => success(response),
        };
        let is_success = !has_error && (200..300).contains(&response.status);
        ObservedExchange { row, causes, refused, is_success }
    }

    fn error(&mut self, classified: &Classified<'_>, said: &mut StableMembers) -> ObservedBody {
        if let Some(words) = classified.body().words() {
            self.naming.note(classified, &words, classified.reported_fields());
        }
        let value = match classified.body() {
            ParsedBody::Json(value) => value,
            // A response to HEAD has no content (RFC 9110 section 9.3.2).
            ParsedBody::Empty if classified.exchange.request.method == "HEAD" => {
                return ObservedBody::Unknown("none, as it should be");
            }
            ParsedBody::Empty => return ObservedBody::Empty,
            ParsedBody::Unknown(reason) => return ObservedBody::Unknown(reason),
            ParsedBody::BrokenJson { .. } => return ObservedBody::Other("broken JSON"),
            ParsedBody::Html(text) if !is_html(text) => return ObservedBody::Other("XML"),
            ParsedBody::Html(_) => return ObservedBody::Other("HTML"),
            ParsedBody::Text(_) => return ObservedBody::Other("plain text"),
        };
        let status = classified.status().unwrap_or_default();
        *said = says(value, status, classified.exchange);
        let entries = classified.reported_fields();
        let located = entries.iter().any(|entry| entry.location.is_some());
        let status = classified.status().unwrap_or_default();
        let is_validation = located || status == 422 || (status == 400 && !entries.is_empty());
        let sort = if is_validation { ErrorCategory::Validation } else { ErrorCategory::Other };
        let varying = classified.data_locations();
        let group = BodyGroup {
            shape: InferredShape::of(value, &varying),
            seen: Occurrences::at(classified.exchange.address),
            forms: entries.iter().map(|entry| (entry.form, 1)).collect(),
        };
        let key = (sort, grouping(value, &varying));
        self.group(key.clone(), group);
        ObservedBody::Error(key)
    }

    fn headers_of(&mut self, response: &Response<'_>) {
        let mut names = BTreeSet::new();
        for (name, value) in response.headers.iter() {
            let key = name.to_ascii_lowercase();
            // A pseudo header field of HTTP/2 is no header field (RFC 9113 section 8.3).
            if !key.starts_with(':') && names.insert(key.clone()) {
                let value = match is_secret_header(&key) {
                    true => Cow::Borrowed("***"),
                    false => masked_example(value),
                };
                let values = BTreeSet::from([value.chars().take(80).collect()]);
                self.header(key, ObservedHeader { name: name.to_owned(), count: 1, values });
            }
        }
    }
}
