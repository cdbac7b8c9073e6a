//! Looks through a response: its headers, and its body at any depth.

use std::cell::OnceCell;
use std::sync::LazyLock;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use serde_json::Value;

use super::patterns::{PatternMatch, find};
use super::structures::{BY_NAME, in_array, in_member};
use crate::body::ParsedBody;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::{Exchange, RequestBody};
use faithful_clerk_model::finding::DisclosureKind;
use faithful_clerk_model::json::pointer::{join, join_index, tokens};
use faithful_clerk_model::json::{self, Json};
use faithful_clerk_model::secret::is_secret_header;
use faithful_clerk_shape::Shape;

/// Something that was told.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Disclosure {
    /// What kind of thing.
    pub kind: DisclosureKind,
    /// What it is, in few words.
    pub what: &'static str,
    /// Where it stands.
    pub location: Location,
    /// The text that shows it.
    pub text: String,
}

/// Headers whose values are meant for whoever reads them: links, policies, cookies, challenges.
const FREE_HEADERS: [&str; 34] = [
    "location",
    "content-location",
    "link",
    "set-cookie",
    "www-authenticate",
    "proxy-authenticate",
    "authentication-info",
    "content-security-policy",
    "content-security-policy-report-only",
    "report-to",
    "reporting-endpoints",
    "nel",
    "etag",
    "date",
    "recorded-time",
    "alt-svc",
    // Those that can only say what their standard lets them say.
    "content-length",
    "content-type",
    "content-encoding",
    "content-language",
    "cache-control",
    "vary",
    "strict-transport-security",
    "x-content-type-options",
    "x-frame-options",
    "referrer-policy",
    "connection",
    "keep-alive",
    "transfer-encoding",
    "accept-ranges",
    "last-modified",
    "expires",
    "retry-after",
    "allow",
];

/// The same by their lengths and last letters, since every header of every error is looked up.
static BY_FORM: LazyLock<Vec<Vec<&str>>> = LazyLock::new(|| {
    let of = |form| FREE_HEADERS.into_iter().filter(|name| form_of(name) == form).collect();
    (0..256).map(of).collect()
});

/// A number below 256 that is the same for names that differ in letter case alone.
fn form_of(name: &str) -> usize {
    let last = name.bytes().last().unwrap_or_default() & 0x1f;
    (name.len() * 32 + usize::from(last)) % 256
}

fn is_free(name: &str) -> bool {
    let listed = BY_FORM.get(form_of(name)).map_or(&[][..], |names| names);
    listed.iter().any(|free| is_same(free, name))
        || is_same("access-control-", name.get(..15).unwrap_or_default())
}

/// What a response tells, the first of each kind, in the order of the kinds.
///
/// Its headers are always looked through; its body where it is given, with the bytes that it was read from.
#[must_use]
pub fn disclosed(
    exchange: &Exchange<'_>,
    contract: &ErrorContract,
    declared: Option<&Shape>,
    body: Option<(&ParsedBody, Option<&[u8]>)>,
) -> Vec<Disclosure> {
    let sent = RequestText { exchange, text: OnceCell::new() };
    let mut found: Vec<Disclosure> = Vec::new();
    // Of each kind the first is told that is neither public nor what the caller sent.
    let is_told = |hit: &PatternMatch| {
        let is_echo = || sent.has(&hit.text) && hit.kind != DisclosureKind::Secret;
        !contract.public_texts().covers(&hit.text) && !is_echo()
    };
    let in_body = body.map(|(body, content)| in_body(body, content, &is_told)).unwrap_or_default();
    for (matched, location) in in_headers(exchange).into_iter().chain(in_body) {
        if !is_told(&matched) {
            continue;
        }
        let PatternMatch { kind, what, text } = matched;
        let known = found.iter().any(|other| other.kind == kind);
        if what == BY_NAME && is_declared(&location, declared) {
            continue;
        }
        if !known {
            found.push(Disclosure { kind, what, location, text });
        }
    }
    let has_secret = found.iter().any(|one| one.kind == DisclosureKind::Secret);
    if let Some((body, _)) = body.filter(|_| !has_secret) {
        found.extend(own_credentials(exchange, contract, body));
    }
    let all = found.clone();
    found.retain(|one| !all.iter().any(|other| is_part_of(one, other)));
    found.sort_by_key(|one| one.kind);
    found
}

/// Is it a member that the contract declares in this error, and so no secret by its name?
fn is_declared(location: &Location, declared: Option<&Shape>) -> bool {
    let Location::Pointer(pointer) = location else { return false };
    let first = tokens(pointer).and_then(|steps| steps.into_iter().next());
    first.is_some_and(|first| declared.is_some_and(|shape| shape.member(&first).is_some()))
}

/// Is this one a part of that other one: of the trace that stands in the same body?
fn is_part_of(one: &Disclosure, other: &Disclosure) -> bool {
    let top = |place: &Location| match place {
        Location::Pointer(pointer) => tokens(pointer).and_then(|steps| steps.into_iter().next()),
        _ => None,
    };
    let both = |place: &Location| matches!(place, Location::Pointer(_) | Location::Body);
    other.kind == DisclosureKind::StackTrace
        && one.kind.follows_from(other.kind)
        && both(&one.location)
        && both(&other.location)
        && (matches!(
            one.kind,
            DisclosureKind::FilePath | DisclosureKind::CodeName | DisclosureKind::Version
        ) || top(&one.location) == top(&other.location))
}

fn in_headers(exchange: &Exchange<'_>) -> Vec<(PatternMatch, Location)> {
    let Some(response) = &exchange.response else { return Vec::new() };
    let mut found = Vec::new();
    for (name, value) in response.headers.iter() {
        if is_free(name) {
            continue;
        }
        let place = || Location::Header(name.to_owned().into());
        found.extend(find(value).into_iter().map(|hit| (hit, place())));
        // A bare number is a version where the header's name says what of.
        let start = name.get(..5).unwrap_or_default();
        let end = name.len().checked_sub(8).and_then(|from| name.get(from..)).unwrap_or_default();
        let is_version = is_same(start, "x-asp") && is_same(end, "-version");
        if is_version || (is_same(name, "x-powered-by") && value.contains('/')) {
            let text = value.to_owned();
            found.push((
                PatternMatch { kind: DisclosureKind::Version, what: "a version", text },
                place(),
            ));
        }
    }
    found
}

fn is_same(one: &str, other: &str) -> bool {
    one.eq_ignore_ascii_case(other)
}

/// What in a body looks like the inside of a service, and where it stands.
fn in_body(
    body: &ParsedBody,
    content: Option<&[u8]>,
    is_told: &dyn Fn(&PatternMatch) -> bool,
) -> Vec<(PatternMatch, Location)> {
    match body {
        ParsedBody::Empty | ParsedBody::Unknown(_) => Vec::new(),
        ParsedBody::Json(value) => {
            // Text without escapes is in its JSON as it is, and need not be put together first.
            let is_clear = match content.map(std::str::from_utf8) {
                Some(Ok(raw)) if !raw.contains('\\') => find(raw).is_empty(),
                _ => false,
            };
            if (is_clear || find(&json::strings(value)).is_empty()) && !has_more(value) {
                return Vec::new();
            }
            let mut found: Vec<(PatternMatch, String)> = Vec::new();
            walk(value, "", is_told, &mut found);
            found.into_iter().map(|(hit, pointer)| (hit, Location::Pointer(pointer))).collect()
        }
        ParsedBody::Html(text) | ParsedBody::Text(text) | ParsedBody::BrokenJson { text, .. } => {
            find(text).into_iter().map(|hit| (hit, Location::Body)).collect()
        }
    }
}

fn walk(
    value: &Value,
    pointer: &str,
    is_told: &dyn Fn(&PatternMatch) -> bool,
    found: &mut Vec<(PatternMatch, String)>,
) {
    let add = |hits: Vec<PatternMatch>, pointer: &str, found: &mut Vec<(PatternMatch, String)>| {
        for hit in hits {
            if !found.iter().any(|(known, _)| known.kind == hit.kind) && is_told(&hit) {
                found.push((hit, pointer.to_owned()));
            }
        }
    };
    match value {
        Value::String(text) => {
            add(find(text), pointer, found);
            if let Some(decoded) = decoded(text) {
                add(find(&decoded), pointer, found);
            }
        }
        Value::Array(items) => {
            for (index, item) in items.iter().enumerate() {
                walk(item, &join_index(pointer, index), is_told, found);
            }
            add(in_array(items).into_iter().collect(), pointer, found);
            // A trace may be spread over a list, a line an item.
            if items.iter().all(Value::is_string) {
                add(find(&json::strings(value)), pointer, found);
            }
        }
        Value::Object(members) => {
            for (name, member) in members {
                if let Some(hit) = in_member(name, member) {
                    add(vec![hit], &join(pointer, name), found);
                }
                walk(member, &join(pointer, name), is_told, found);
            }
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => {}
    }
}

/// A text that is wholly base64 and decodes to text.
fn decoded(text: &str) -> Option<String> {
    const LEAST: usize = 32;
    let is_base64 = |b: u8| b.is_ascii_alphanumeric() || matches!(b, b'+' | b'/' | b'=');
    if text.len() < LEAST || !text.len().is_multiple_of(4) || !text.bytes().all(is_base64) {
        return None;
    }
    let bytes = STANDARD.decode(text).ok()?;
    let decoded = String::from_utf8(bytes).ok()?;
    let is_text = |c: char| !c.is_control() || matches!(c, '\n' | '\r' | '\t');
    decoded.chars().all(is_text).then_some(decoded)
}

/// Is there more to find than in the plain texts?
fn has_more(value: &Value) -> bool {
    match value {
        Value::String(text) => decoded(text).is_some(),
        Value::Array(items) => in_array(items).is_some() || items.iter().any(has_more),
        Value::Object(members) => members
            .iter()
            .any(|(name, member)| in_member(name, member).is_some() || has_more(member)),
        Value::Null | Value::Bool(_) | Value::Number(_) => false,
    }
}

/// The request's own credentials, given back in an error.
fn own_credentials(
    exchange: &Exchange<'_>,
    contract: &ErrorContract,
    body: &ParsedBody,
) -> Option<Disclosure> {
    const LEAST: usize = 8;
    let is_error = exchange.response.as_ref().is_some_and(|response| response.status >= 400);
    let words = body.words().filter(|_| is_error)?;
    let headers = exchange.request.headers.iter().filter(|(name, _)| {
        is_secret_header(name) || contract.credentials.iter().any(|own| is_same(own, name))
    });
    // `Bearer TOKEN`, `session=TOKEN; theme=dark`: the scheme and the names are no secret.
    let parts = headers.flat_map(|(_, value)| value.split([' ', ';', ',', '=', '"']));
    let token = parts.into_iter().find(|part| part.len() >= LEAST && words.contains(part))?;
    let location = match body {
        ParsedBody::Json(value) => Location::Pointer(pointer_to(value, "", token)?),
        _ => Location::Body,
    };
    let (kind, what) = (DisclosureKind::Secret, "the credentials of the request");
    Some(Disclosure { kind, what, location, text: token.to_owned() })
}

/// Where the first string is that holds the text.
fn pointer_to(value: &Value, at: &str, text: &str) -> Option<String> {
    match value {
        Value::String(own) => own.contains(text).then(|| at.to_owned()),
        Value::Array(items) => items
            .iter()
            .enumerate()
            .find_map(|(index, item)| pointer_to(item, &join_index(at, index), text)),
        Value::Object(members) => {
            members.iter().find_map(|(name, member)| pointer_to(member, &join(at, name), text))
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => None,
    }
}

/// What the caller sent, as text: what comes back of it is no disclosure.
struct RequestText<'p, 'a> {
    exchange: &'p Exchange<'a>,
    text: OnceCell<String>,
}

impl RequestText<'_, '_> {
    fn has(&self, text: &str) -> bool {
        self.text.get_or_init(|| self.all()).contains(text)
    }

    fn all(&self) -> String {
        let request = &self.exchange.request;
        let mut all = request.url.to_string();
        all.push('\n');
        all.push_str(
            &faithful_clerk_model::percent::decode(&request.url.replace('+', " "))
                .unwrap_or_default(),
        );
        for (_, value) in request.headers.iter() {
            all.push('\n');
            all.push_str(value);
        }
        if let RequestBody::Present(content) = &request.body
            && let Ok(bytes) = content.decode()
        {
            let sent = String::from_utf8_lossy(&bytes);
            all.push('\n');
            all.push_str(&Json::read(sent.as_bytes()).strings());
            all.push_str(&sent);
        }
        all
    }
}
