//! What one worker sees on its pass, and how that adds up.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;
use url::Url;

use super::facts::{Causes, Facts, GroupKey, Kind, Row, Said, Seen, Sort, Successes, Told, Top};
use super::tree::Node;
use crate::contract::{Contract, Endpoint};
use crate::exchange::{Answer, Exchange, Request, RequestBody, Response, ResponseBody};
use crate::json::{Json, kind_of, scalar_text};
use crate::mask::masked;
use crate::media;
use crate::place::{AnswerBody, CUT, Credentials, Form, Placed, Placing, Spot, place};
use crate::pointer::{join, join_index, percent_decode};
use crate::recording::{Loss, Losses};
use crate::run::Gather;
use crate::shape::{Sketch, Varying, outline};

/// So many groups of bodies are told apart; all others are one.
pub const MOST_GROUPS: usize = 128;

/// A success larger than this is data, and nobody looks at its members.
const LARGEST_SUCCESS: usize = 1 << 20;

/// So many headers of errors are remembered.
const MOST_HEADERS: usize = 64;

/// Of a header, so many values.
const MOST_HEADER_VALUES: usize = 4;

/// So many hosts are told apart.
const MOST_ORIGINS: usize = 64;

/// Headers that say nothing of an agreement: of the connection, of the server, of the content's size and age.
pub const NOISE: [&str; 18] = [
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
    "alt-svc",
    "content-encoding",
    "accept-ranges",
    "trailer",
    "upgrade",
];

/// Bodies of errors that are of one form.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Group {
    /// What they are made of.
    pub sketch: Sketch,
    /// The exchanges.
    pub seen: Seen,
    /// How their entries name the places of a request.
    pub forms: BTreeMap<Form, u64>,
}

impl Group {
    /// Adds another.
    pub fn add(&mut self, other: Self) {
        self.sketch.add(other.sketch);
        self.seen.add(&other.seen);
        for (form, count) in other.forms {
            *self.forms.entry(form).or_default() += count;
        }
    }
}

/// A header that errors carry.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct HeaderSeen {
    /// Its name as it was written.
    pub name: String,
    /// In how many errors.
    pub count: u64,
    /// Some of its values.
    pub values: BTreeSet<String>,
}

/// Everything that was seen. What workers gathered adds up in any order.
#[derive(Debug, Clone)]
pub struct Gathered<'c> {
    contract: &'c Contract,
    /// What was seen at the endpoints of the contract, by template and method.
    pub declared: BTreeMap<(String, String), Facts>,
    /// The other paths, by scheme, host and port.
    pub origins: BTreeMap<String, Node>,
    /// The bodies of errors.
    pub groups: BTreeMap<GroupKey, Group>,
    /// The bodies of errors that are one of too many forms.
    pub many: BTreeMap<Sort, Group>,
    /// Exchanges that are none of the service's, by reason.
    pub aside: BTreeMap<&'static str, u64>,
    /// How many exchanges are the service's.
    pub exchanges: u64,
    /// How many of them are errors: a status of 400 or above.
    pub errors: u64,
    /// Errors that tell what is nobody's business, by what it is.
    pub disclosed: BTreeMap<&'static str, Seen>,
    /// Errors in answers that are successes by their status.
    pub inside: Seen,
    /// The headers of errors, by name in lower case.
    pub headers: BTreeMap<String, HeaderSeen>,
    /// Does any request carry credentials?
    pub has_credentials: bool,
    /// What could not be read.
    pub losses: Losses,
}

impl<'c> Gathered<'c> {
    /// Nothing, yet. The contract, which may be an empty one, decides about endpoints where it has any.
    #[must_use]
    pub fn new(contract: &'c Contract) -> Self {
        Self {
            contract,
            declared: BTreeMap::new(),
            origins: BTreeMap::new(),
            groups: BTreeMap::new(),
            many: BTreeMap::new(),
            aside: BTreeMap::new(),
            exchanges: 0,
            errors: 0,
            disclosed: BTreeMap::new(),
            inside: Seen::default(),
            headers: BTreeMap::new(),
            has_credentials: false,
            losses: Losses::default(),
        }
    }

    /// Adds what another worker gathered.
    pub fn add(&mut self, other: Self) {
        for (place, facts) in other.declared {
            self.declared.entry(place).or_default().add(facts);
        }
        for (origin, node) in other.origins {
            self.origin(origin).add(node);
        }
        for (key, group) in other.groups {
            self.group(key, group);
        }
        for (sort, group) in other.many {
            self.many.entry(sort).or_default().add(group);
        }
        for (reason, count) in other.aside {
            *self.aside.entry(reason).or_default() += count;
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
        self.losses.add(other.losses);
    }

    fn origin(&mut self, origin: String) -> &mut Node {
        let is_new = !self.origins.contains_key(&origin);
        let many = is_new && self.origins.len() >= MOST_ORIGINS;
        self.origins.entry(if many { "other hosts".to_owned() } else { origin }).or_default()
    }

    fn group(&mut self, key: GroupKey, group: Group) {
        self.groups.entry(key).or_default().add(group);
        // Which groups are kept does not depend on the order in which they came.
        if self.groups.len() > MOST_GROUPS
            && let Some(((sort, _), group)) = self.groups.pop_last()
        {
            self.many.entry(sort).or_default().add(group);
        }
    }

    fn header(&mut self, key: String, header: HeaderSeen) {
        let HeaderSeen { name, count, values } = header;
        let sum = self
            .headers
            .entry(key)
            .or_insert_with(|| HeaderSeen { name: name.clone(), ..HeaderSeen::default() });
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

impl Gather for Gathered<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        let contract = self.contract;
        let carries = |name: &String| exchange.request.headers.has(name);
        let with_credentials = contract.credentials.iter().any(carries)
            || ["authorization", "cookie", "x-api-key"].map(str::to_owned).iter().any(carries);
        self.has_credentials |= with_credentials;
        if let Some(reason) = beside(exchange) {
            *self.aside.entry(reason).or_default() += 1;
            return;
        }
        let placing = place(exchange, contract, Credentials::NotRecorded);
        let placed = match &placing {
            Placing::Placed(placed) => Some(&**placed),
            // With a contract, what is aside is not the service's; without one, it is a plain success
            // of some other media type.
            Placing::Aside(reason) if !contract.endpoints.is_empty() => {
                *self.aside.entry(reason).or_default() += 1;
                return;
            }
            Placing::Aside(_) => None,
        };
        let Some(way) = Way::of(exchange) else {
            *self.aside.entry("its URL can't be read, or is not http").or_default() += 1;
            return;
        };
        self.exchanges += 1;
        let facts = self.look(exchange, placed, &way, with_credentials);
        let method = exchange.request.method.as_ref();
        let declared = placed.and_then(|placed| declared_at(placed, contract));
        if let Some(endpoint) = declared {
            let place = (endpoint.path.clone(), method.to_owned());
            return self.declared.entry(place).or_default().add(facts);
        }
        let segments: Vec<&str> = way.segments.iter().map(String::as_str).collect();
        let node = Node::of(&segments, method, facts);
        self.origin(way.origin).add(node);
    }

    fn lose(&mut self, loss: Loss) {
        self.losses.enter(loss);
    }
}

impl Gathered<'_> {
    /// What one exchange shows.
    fn look(
        &mut self,
        exchange: &Exchange<'_>,
        placed: Option<&Placed<'_>>,
        way: &Way,
        with_credentials: bool,
    ) -> Facts {
        let seen = Seen::at(exchange.address);
        let mut facts = Facts { count: 1, ..Facts::default() };
        let mut kind = Kind { seen, causes: causes(&exchange.request, with_credentials) };
        let mut row = Row {
            status: placed.and_then(Placed::status),
            media: placed.and_then(Placed::media).map(str::to_owned),
            told: Told::Missing,
            said: Said::default(),
        };
        let response = match &exchange.answer {
            Answer::Came(response) => response,
            Answer::Missing(_) => {
                facts.rows.insert(row, kind);
                return facts;
            }
        };
        row.status = Some(response.status);
        row.media = response.media().map(media::essence);
        let is_error = response.status >= 400;
        let has_error = is_error || placed.is_some_and(|placed| placed.error_inside().is_some());
        if is_error {
            self.errors += 1;
            self.headers_of(response);
        }
        for disclosed in placed.filter(|_| has_error).iter().flat_map(|placed| placed.disclosures())
        {
            let what = self.disclosed.entry(disclosed.what).or_default();
            what.add(&kind.seen);
        }
        if has_error && !is_error {
            self.inside.add(&kind.seen);
        }
        row.told = match placed {
            Some(placed) if has_error => self.error(placed, &mut row.said, &mut kind),
            _ => {
                let successes = Successes { count: 1, ..Successes::default() };
                let successes = if has_error { Successes::default() } else { successes };
                facts.successes = succeeded(exchange, response, way, with_credentials, successes);
                success(response)
            }
        };
        facts.rows.insert(row, kind);
        facts
    }

    fn error(&mut self, placed: &Placed<'_>, said: &mut Said, kind: &mut Kind) -> Told {
        let value = match placed.body() {
            AnswerBody::Json(value) => value,
            // An answer to HEAD has no content (RFC 9110 section 9.3.2).
            AnswerBody::Empty if placed.exchange.request.method == "HEAD" => {
                return Told::Unknown("none, as it should be");
            }
            AnswerBody::Empty => return Told::Empty,
            AnswerBody::Unknown(reason) => return Told::Unknown(reason),
            AnswerBody::BrokenJson { .. } => return Told::Other("broken JSON"),
            AnswerBody::Html(text) if !is_html(text) => return Told::Other("XML"),
            AnswerBody::Html(_) => return Told::Other("HTML"),
            AnswerBody::Text(_) => return Told::Other("plain text"),
        };
        *said = says(value, placed.status().unwrap_or_default());
        let entries = placed.entries();
        let located = entries.iter().any(|entry| entry.location.is_some());
        let status = placed.status().unwrap_or_default();
        let is_validation = located || status == 422 || (status == 400 && !entries.is_empty());
        let sort = if is_validation { Sort::Validation } else { Sort::Other };
        kind.causes.entries = u64::from(located);
        let varying = placed.varying();
        let group = Group {
            sketch: Sketch::of(value, &varying),
            seen: kind.seen.clone(),
            forms: entries.iter().map(|entry| (entry.form, 1)).collect(),
        };
        let key = (sort, grouping(value, &varying));
        self.group(key.clone(), group);
        Told::Error(key)
    }

    fn headers_of(&mut self, response: &Response<'_>) {
        let mut names = BTreeSet::new();
        for (name, value) in response.headers.iter() {
            let key = name.to_ascii_lowercase();
            if names.insert(key.clone()) {
                let values = BTreeSet::from([masked(value).chars().take(80).collect()]);
                self.header(key, HeaderSeen { name: name.to_owned(), count: 1, values });
            }
        }
    }
}

/// The endpoint of the contract that a request leads to, or whose path it has.
fn declared_at<'a>(placed: &Placed<'a>, contract: &'a Contract) -> Option<&'a Endpoint> {
    match placed.spot {
        Spot::Endpoint(_, endpoint) => Some(endpoint),
        Spot::NoMethod(id) => contract.endpoint(id),
        Spot::NoRoute => None,
    }
}

/// Where a request leads, without a contract.
struct Way {
    origin: String,
    segments: Vec<String>,
    query: Vec<String>,
}

impl Way {
    fn of(exchange: &Exchange<'_>) -> Option<Self> {
        let text = exchange.request.url.as_ref();
        let (url, origin) = match Url::parse(text) {
            Ok(url) if matches!(url.scheme(), "http" | "https") => {
                let origin = url.origin().ascii_serialization();
                (url, origin)
            }
            Err(_) if text.starts_with('/') => {
                (Url::parse(&format!("http://host{text}")).ok()?, String::new())
            }
            _ => return None,
        };
        let mut segments: Vec<String> = url
            .path_segments()?
            .map(|one| percent_decode(one).unwrap_or_else(|| one.to_owned()))
            .collect();
        if segments == [""] {
            segments.clear();
        }
        let query = url.query_pairs().map(|(name, _)| name.into_owned()).collect();
        Some(Self { origin, segments, query })
    }
}

/// Media types of what a browser loads beside a service's answers.
const ASSETS: [&str; 6] = [
    "text/html",
    "text/css",
    "text/javascript",
    "application/javascript",
    "application/xhtml+xml",
    "application/x-javascript",
];

/// Endings of such things, for when they are not there.
const ENDINGS: [&str; 12] = [
    ".ico", ".png", ".jpg", ".jpeg", ".gif", ".svg", ".css", ".js", ".map", ".woff", ".woff2",
    ".html",
];

/// Why an exchange is none of a JSON service's, as far as it shows by itself.
pub(crate) fn beside(exchange: &Exchange<'_>) -> Option<&'static str> {
    let request = &exchange.request;
    if request.method == "OPTIONS" {
        return Some("an OPTIONS request");
    }
    let path = request.url.split(['?', '#']).next().unwrap_or_default().to_ascii_lowercase();
    let is_get = matches!(request.method.as_ref(), "GET" | "HEAD");
    let Answer::Came(response) = &exchange.answer else { return None };
    let essence = response.media().map(media::essence).unwrap_or_default();
    let is_asset = ASSETS.contains(&essence.as_str())
        || ["image/", "font/", "audio/", "video/"].iter().any(|family| essence.starts_with(family));
    let is_named = ENDINGS.iter().any(|ending| path.ends_with(ending));
    let aside = (response.status < 400 && is_asset) || (is_named && !media::is_json(&essence));
    (is_get && aside).then_some("a page, script, image or the like")
}

/// What was wrong with a request, as far as it shows by itself.
fn causes(request: &Request<'_>, with_credentials: bool) -> Causes {
    let mut causes = Causes::default();
    let essence = request.media().map(media::essence);
    let says_json = essence.as_deref().is_some_and(media::is_json);
    match &request.body {
        RequestBody::Present(content) if says_json => {
            let read = content.decode().map(|bytes| Json::read(&bytes));
            causes.malformed = u64::from(matches!(read, Ok(Json::Malformed(_))));
        }
        RequestBody::Present(_) => causes.other_media = u64::from(essence.is_some()),
        RequestBody::Absent | RequestBody::Blank => {
            let usual = matches!(request.method.as_ref(), "POST" | "PUT" | "PATCH");
            causes.no_body = u64::from(usual);
        }
        RequestBody::NotRecorded => {}
    }
    causes.no_credentials = u64::from(!with_credentials);
    causes
}

/// What an error says of itself.
fn says(body: &Value, status: u16) -> Said {
    let text = |name: &str| body.get(name).and_then(Value::as_str).map(cut);
    let is_problem = body.get("type").or_else(|| body.get("title")).is_some();
    Said {
        type_uri: text("type").filter(|_| is_problem),
        title: text("title"),
        code: code(body, status),
    }
}

/// An application's code: at the top, or in an envelope. One that repeats the status is none.
fn code(body: &Value, status: u16) -> Option<(String, String)> {
    let envelopes = ["error", "meta"].iter().filter_map(|name| {
        body.get(*name).filter(|inner| inner.is_object()).map(|inner| (format!("/{name}"), inner))
    });
    let tops = std::iter::once((String::new(), body)).chain(envelopes);
    let find = |(place, object): (String, &Value)| {
        ["code", "errorCode", "error_code"].iter().find_map(|name| {
            let code = scalar_text(object.get(*name)?)?;
            (code != status.to_string()).then(|| (cut(&code), join(&place, name)))
        })
    };
    tops.into_iter().find_map(find)
}

/// Nobody titles an error with more than this.
fn cut(text: &str) -> String {
    masked(text).chars().take(200).collect()
}

/// By what bodies are put into groups: their outline, with every object inside whose values are of one
/// form taken as keyed. Whether it is will show when all of the group were seen.
fn grouping(body: &Value, varying: &Varying) -> String {
    let mut open = varying.clone();
    find_even(body, "", &mut open.keyed);
    let text = outline(body, &open);
    // An outline is only as long as a body; a group's name need not be.
    match text.char_indices().nth(2000) {
        Some((end, _)) => text.get(..end).unwrap_or_default().to_owned(),
        None => text,
    }
}

fn find_even(value: &Value, place: &str, found: &mut Vec<String>) {
    match value {
        Value::Object(members) => {
            let mut kinds = members.values().map(kind_of);
            let first = kinds.next();
            let is_even = first.is_some() && kinds.all(|kind| Some(kind) == first);
            if !place.is_empty() && is_even {
                found.push(place.to_owned());
            }
            for (name, member) in members {
                find_even(member, &join(place, name), found);
            }
        }
        Value::Array(items) => {
            for (at, item) in items.iter().enumerate().take(64) {
                // An item is keyed only where its entries tell so; what is in it may be.
                let place = join_index(place, at);
                for (name, member) in item.as_object().into_iter().flatten() {
                    find_even(member, &join(&place, name), found);
                }
            }
        }
        _ => {}
    }
}

fn is_html(text: &str) -> bool {
    let start: String = text.trim_start().chars().take(200).collect::<String>().to_lowercase();
    ["<!doctype html", "<html", "<head", "<body", "<h1", "<title", "<p>", "<pre"]
        .iter()
        .any(|tag| start.contains(tag))
}

/// What a success's body is, in a word.
fn success(response: &Response<'_>) -> Told {
    let content = match &response.body {
        ResponseBody::Empty => return Told::Empty,
        ResponseBody::Cut => return Told::Unknown(CUT),
        ResponseBody::NotKept => return Told::Unknown("the recording does not hold the body"),
        ResponseBody::Present(content) => content,
    };
    match content.first_byte() {
        Some(b'{') => Told::Success("object"),
        Some(b'[') => Told::Success("list"),
        Some(b'<') => Told::Other("markup"),
        Some(_) if response.media().map(media::essence).is_some_and(|m| media::is_json(&m)) => {
            Told::Success("value")
        }
        Some(_) => Told::Other("other"),
        None => Told::Empty,
    }
}

/// What a success shows of the endpoint.
fn succeeded(
    exchange: &Exchange<'_>,
    response: &Response<'_>,
    way: &Way,
    with_credentials: bool,
    mut sum: Successes,
) -> Successes {
    if sum.count == 0 || !(200..300).contains(&response.status) {
        return Successes::default();
    }
    sum.with_credentials = u64::from(with_credentials);
    sum.located = u64::from(response.headers.has("location"));
    sum.query = way.query.iter().map(|name| (name.clone(), 1)).collect();
    let request = &exchange.request;
    if let RequestBody::Present(content) = &request.body {
        let essence = request.media().map(media::essence);
        sum.media.extend(essence.clone().map(|essence| (essence, 1)));
        if essence.as_deref().is_some_and(media::is_json)
            && let Ok(bytes) = content.decode()
            && bytes.len() <= LARGEST_SUCCESS
            && let Json::Value(value) = Json::read(&bytes)
        {
            sum.bodies = Sketch::of(&value, &Varying::default());
        }
    }
    let ResponseBody::Present(content) = &response.body else { return sum };
    let Ok(bytes) = content.decode() else { return sum };
    if bytes.len() > LARGEST_SUCCESS {
        return sum;
    }
    match Json::read(&bytes) {
        Json::Value(Value::Object(members)) => {
            let last = way.segments.last();
            let echoes = members.values().filter_map(scalar_text).any(|v| Some(&v) == last);
            sum.echoes = u64::from(echoes);
            sum.tops.insert(Top::Object(members.keys().take(64).cloned().collect()));
        }
        Json::Value(value) => {
            sum.tops.insert(Top::Other(kind_of(&value)));
        }
        Json::Beyond | Json::Malformed(_) => {}
    }
    sum
}
