//! What one exchange shows by itself: where it leads, what was wrong with the request, what the response says.

use std::borrow::Cow;
use std::collections::BTreeSet;

use serde_json::Value;
use url::Url;

use super::facts::{ObservedBody, RequestFlaws, StableMembers, SuccessFacts};
use super::given_names::GivenNames;
use super::resource_shape;
use faithful_clerk_check::classify::{CUT, Classified, RouteMatch};
use faithful_clerk_contract::{Endpoint, ErrorContract, plain_origin};
use faithful_clerk_model::address::absolute;
use faithful_clerk_model::exchange::{Exchange, Request, RequestBody, Response, ResponseBody};
use faithful_clerk_model::json::pointer::{self, join};
use faithful_clerk_model::json::{Json, JsonType, scalar_text};
use faithful_clerk_model::media;
use faithful_clerk_model::secret::mask::masked_example;
use faithful_clerk_shape::{DataLocations, InferredShape, is_language_tag, outline};

/// A success larger than this is data, and nobody looks at its members.
const LARGEST_SUCCESS: usize = 1 << 20;

/// The endpoint of the contract that a request leads to, or whose path it has.
pub(super) fn declared_at<'a>(
    classified: &Classified<'a>,
    contract: &'a ErrorContract,
) -> Option<&'a Endpoint> {
    match classified.route {
        RouteMatch::Endpoint(_, endpoint) => Some(endpoint),
        RouteMatch::MethodNotAllowed(id) => contract.endpoint(id),
        RouteMatch::UnknownRoute => None,
    }
}

/// Where a request leads, without a contract.
pub(super) struct RequestRoute {
    pub(super) origin: String,
    pub(super) segments: Vec<String>,
}

/// A path is told apart by so many segments; what follows is one more, written `…`. No API has half as many, and each level of
/// a tree takes room on the stack.
pub(super) const MOST_SEGMENTS: usize = 64;

impl RequestRoute {
    fn new(origin: String, mut segments: Vec<String>) -> Self {
        if segments.len() > MOST_SEGMENTS {
            segments.truncate(MOST_SEGMENTS - 1);
            segments.push("…".to_owned());
        }
        Self { origin, segments }
    }

    /// Where a request leads below the servers of a contract, where that has any.
    pub(super) fn below_servers(exchange: &Exchange<'_>, contract: &ErrorContract) -> Option<Self> {
        contract.all_servers().next()?;
        let request = &exchange.request;
        let target = contract.request_path(&request.method, &request.url)?;
        let segments = target.segments(false).iter().map(|one| one.clone().into_owned()).collect();
        Some(Self::new(String::new(), segments))
    }

    pub(super) fn of(exchange: &Exchange<'_>) -> Option<Self> {
        if let Some((origin, segments)) = plain_origin(&exchange.request.url) {
            let is_root = segments.len() == 1 && segments.iter().all(|one| one.is_empty());
            let segments = match is_root {
                true => Vec::new(),
                false => segments.into_iter().map(Cow::into_owned).collect(),
            };
            return Some(Self::new(origin.to_owned(), segments));
        }
        let text = absolute(exchange.request.url.as_ref());
        let (url, origin) = match Url::parse(&text) {
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
            .map(|one| faithful_clerk_model::percent::decode(one).unwrap_or_else(|| one.to_owned()))
            .collect();
        if segments == [""] {
            segments.clear();
        }
        Some(Self::new(origin, segments))
    }
}

/// Media types of what a browser loads beside a service's responses.
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
pub fn beside(exchange: &Exchange<'_>) -> Option<&'static str> {
    let request = &exchange.request;
    if request.method == "OPTIONS" {
        return Some("an OPTIONS request");
    }
    let path = request.url.split(['?', '#']).next().unwrap_or_default().to_ascii_lowercase();
    let is_get = matches!(request.method.as_ref(), "GET" | "HEAD");
    let Some(response) = &exchange.response else { return None };
    let essence = response.media().map(media::essence).unwrap_or_default();
    let is_asset = ASSETS.contains(&&*essence)
        || ["image/", "font/", "audio/", "video/"].iter().any(|family| essence.starts_with(family));
    let is_named = ENDINGS.iter().any(|ending| path.ends_with(ending));
    let excluded = (response.status < 400 && is_asset) || (is_named && !media::is_json(&essence));
    (is_get && excluded).then_some("a page, script, image or the like")
}

/// What was wrong with a request, as far as it shows by itself.
pub(super) fn causes(request: &Request<'_>, with_credentials: bool) -> RequestFlaws {
    let mut causes = RequestFlaws::default();
    let essence = request.media().map(media::essence);
    let says_json = essence.as_deref().is_some_and(media::is_json);
    match &request.body {
        RequestBody::Present(content) if says_json => {
            let read = content.decode().map(|bytes| Json::read(&bytes));
            causes.malformed = u64::from(matches!(read, Ok(Json::Malformed(_))));
        }
        RequestBody::Present(_) => causes.other_media = u64::from(essence.is_some()),
        RequestBody::Absent | RequestBody::Blank => {
            let usual = faithful_clerk_model::method::usually_has_body(&request.method);
            causes.no_body = u64::from(usual);
        }
        RequestBody::NotRecorded => {}
    }
    causes.no_credentials = u64::from(!with_credentials);
    causes
}

/// What an error says of itself.
pub(super) fn says(body: &Value, status: u16, exchange: &Exchange<'_>) -> StableMembers {
    let text = |name: &str| body.get(name).and_then(Value::as_str).map(cut);
    let is_problem = body.get("type").or_else(|| body.get("title")).is_some();
    let title = text("title");
    let language = title.is_some().then(|| language(exchange)).flatten();
    StableMembers {
        type_uri: text("type").filter(|_| is_problem),
        title,
        language,
        code: code(body, status),
    }
}

/// The language of a response, as it says itself, or the one that was asked for.
fn language(exchange: &Exchange<'_>) -> Option<String> {
    let own = exchange.response.as_ref().and_then(|one| one.headers.get("content-language"));
    let asked = || exchange.request.headers.get("accept-language");
    let text = own.or_else(asked)?.split([',', ';']).next()?.trim();
    let primary = text.split('-').next()?;
    let is_tag = (2..=3).contains(&primary.len()) && is_language_tag(text);
    is_tag.then(|| primary.to_ascii_lowercase())
}

/// An application's code: at the top, or in an envelope. One that repeats the status is none.
fn code(body: &Value, status: u16) -> Option<(String, String)> {
    let envelopes = ["error", "meta"].iter().filter_map(|name| {
        body.get(*name).filter(|inner| inner.is_object()).map(|inner| (format!("/{name}"), inner))
    });
    let tops = std::iter::once((String::new(), body)).chain(envelopes);
    let find = |(location, object): (String, &Value)| {
        ["code", "errorCode", "error_code"].iter().find_map(|name| {
            let code = scalar_text(object.get(*name)?)?;
            (code != status.to_string()).then(|| (cut(&code), join(&location, name)))
        })
    };
    tops.into_iter().find_map(find)
}

/// Nobody titles an error with more than this.
fn cut(text: &str) -> String {
    masked_example(text).chars().take(200).collect()
}

/// By what bodies are put into groups: their outline, with every object inside whose values are of one
/// form taken as keyed. Whether it is will show when all of the group were seen.
pub(super) fn grouping(body: &Value, varying: &DataLocations) -> String {
    let mut open = varying.clone();
    find_even(body, &pointer::JsonPath::Top, &mut open.keyed);
    let text = outline(body, &open);
    // An outline is only as long as a body; a group's name need not be.
    match text.char_indices().nth(2000) {
        Some((end, _)) => text.get(..end).unwrap_or_default().to_owned(),
        None => text,
    }
}

fn find_even(value: &Value, way: &pointer::JsonPath<'_>, found: &mut BTreeSet<String>) {
    match value {
        Value::Object(members) => {
            let mut kinds = members.values().map(JsonType::of);
            let first = kinds.next();
            let is_even = first.is_some() && kinds.all(|kind| Some(kind) == first);
            if !matches!(way, pointer::JsonPath::Top) && is_even {
                found.insert(way.pointer());
            }
            for (name, member) in members {
                find_even(member, &pointer::JsonPath::Member(way, name), found);
            }
        }
        Value::Array(items) => {
            for (at, item) in items.iter().enumerate().take(64) {
                // An item is keyed only where its entries tell so; what is in it may be.
                let way = pointer::JsonPath::Item(way, at);
                for (name, member) in item.as_object().into_iter().flatten() {
                    find_even(member, &pointer::JsonPath::Member(&way, name), found);
                }
            }
        }
        _ => {}
    }
}

pub(super) fn is_html(text: &str) -> bool {
    let start: String = text.trim_start().chars().take(200).collect::<String>().to_lowercase();
    ["<!doctype html", "<html", "<head", "<body", "<h1", "<title", "<p>", "<pre"]
        .iter()
        .any(|tag| start.contains(tag))
}

/// What a success's body is, in a word.
pub(super) fn success(response: &Response<'_>) -> ObservedBody {
    let content = match &response.body {
        ResponseBody::Empty => return ObservedBody::Empty,
        ResponseBody::Truncated => return ObservedBody::Unknown(CUT.into()),
        ResponseBody::NotRecorded => {
            return ObservedBody::Unknown("the recording does not hold the body".into());
        }
        ResponseBody::Present(content) => content,
    };
    match content.first_byte() {
        Some(b'{') => ObservedBody::Success("object".into()),
        Some(b'[') => ObservedBody::Success("array".into()),
        Some(b'<') => ObservedBody::Other("markup".into()),
        Some(_) if response.media().map(media::essence).is_some_and(|m| media::is_json(&m)) => {
            ObservedBody::Success("value".into())
        }
        Some(_) => ObservedBody::Other("other".into()),
        None => ObservedBody::Empty,
    }
}

/// Adds what a success shows of the endpoint.
pub(super) fn succeeded(
    exchange: &Exchange<'_>,
    response: &Response<'_>,
    way: &RequestRoute,
    with_credentials: bool,
    sum: &mut SuccessFacts,
    names: &mut GivenNames,
) {
    sum.with_credentials += u64::from(with_credentials);
    sum.paths.note(way.segments.as_slice());
    let request = &exchange.request;
    if let RequestBody::Present(content) = &request.body {
        let essence = request.media().map(media::essence);
        if let Some(essence) = &essence {
            *sum.media.entry(essence.clone().into_owned()).or_default() += 1;
        }
        if essence.as_deref().is_some_and(media::is_json)
            && let Ok(bytes) = content.decode()
            && bytes.len() <= LARGEST_SUCCESS
            && let Json::Value(value) = Json::read(&bytes)
        {
            sum.bodies.add(InferredShape::of(&value, &DataLocations::default()));
        }
    }
    if response.status == 201
        && let Some(location) = response.headers.get("location")
    {
        names.note_location(location);
    }
    let ResponseBody::Present(content) = &response.body else { return };
    let Ok(bytes) = content.decode() else { return };
    if bytes.len() > LARGEST_SUCCESS {
        return;
    }
    if let Some(found) = resource_shape::read(&bytes, &way.segments, names) {
        sum.echoes.extend(found.echoes);
        sum.note_top(found.shape);
    }
}
