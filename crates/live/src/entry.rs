//! An exchange as an entry of HAR 1.2.

use std::time::Duration;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use faithful_clerk_model::intention::{Intention, MEMBER};
use jiff::Timestamp;
use serde_json::{Value, json};

/// A body, as far as there is one.
#[derive(Debug, Clone, Copy)]
pub(crate) enum EntryBody<'b> {
    None,
    Here(&'b [u8]),
    /// There were so many bytes, and they were not kept.
    NotRecorded(u64),
}

/// What was sent.
#[derive(Debug)]
pub(crate) struct SentRequest<'s> {
    /// What else there is to say of the exchange.
    pub(crate) comment: Option<String>,
    /// What a probe meant by it.
    pub(crate) intention: Option<Intention>,
    pub(crate) at: Timestamp,
    pub(crate) method: &'s str,
    pub(crate) url: &'s str,
    pub(crate) version: &'s str,
    pub(crate) headers: &'s [(String, String)],
    pub(crate) body: EntryBody<'s>,
    /// The fields behind a body in chunks.
    pub(crate) trailers: &'s [(String, String)],
}

/// What came, as far as it did. A status of 0: nothing.
#[derive(Debug)]
pub(crate) struct ReceivedResponse<'c> {
    pub(crate) status: u16,
    pub(crate) phrase: &'c str,
    pub(crate) version: &'c str,
    pub(crate) headers: &'c [(String, String)],
    pub(crate) body: EntryBody<'c>,
    /// The fields behind a body in chunks.
    pub(crate) trailers: &'c [(String, String)],
    /// Until the head was there, and until all was.
    pub(crate) waited: Duration,
    pub(crate) whole: Duration,
    /// Why there is no more of it.
    pub(crate) broken: Option<&'c str>,
}

fn pairs<'p>(pairs: impl IntoIterator<Item = (&'p str, &'p str)>) -> Vec<Value> {
    pairs.into_iter().map(|(name, value)| json!({"name": name, "value": value})).collect()
}

fn fields(headers: &[(String, String)]) -> Vec<Value> {
    pairs(headers.iter().map(|(name, value)| (name.as_str(), value.as_str())))
}

fn named<'h>(headers: &'h [(String, String)], name: &str) -> Option<&'h str> {
    let found = headers.iter().find(|(known, _)| known.eq_ignore_ascii_case(name));
    found.map(|(_, value)| value.as_str())
}

/// Puts a body into the object that holds one: as text, or as base64 where it is none.
fn put(body: EntryBody<'_>, is_coded: bool, into: &mut Value) {
    let EntryBody::Here(bytes) = body else { return };
    match std::str::from_utf8(bytes) {
        // Text under a content coding would be taken for text that was decoded already.
        Ok(text) if !is_coded => into["text"] = json!(text),
        _ => {
            into["text"] = json!(STANDARD.encode(bytes));
            into["encoding"] = json!("base64");
        }
    }
}

/// HAR has no place for trailers, and leaves names with an underscore to whoever writes.
fn put_trailers(trailers: &[(String, String)], into: &mut Value) {
    if !trailers.is_empty() {
        into["_trailers"] = json!(fields(trailers));
    }
}

fn size(body: EntryBody<'_>) -> u64 {
    match body {
        EntryBody::None => 0,
        EntryBody::Here(bytes) => bytes.len() as u64,
        EntryBody::NotRecorded(count) => count,
    }
}

/// The entry.
pub(crate) fn entry(sent: &SentRequest<'_>, came: &ReceivedResponse<'_>) -> Value {
    let url = url::Url::parse(sent.url).ok();
    let query: Vec<(String, String)> =
        url.iter().flat_map(|url| url.query_pairs().into_owned()).collect();
    let mut request = json!({
        "method": sent.method, "url": sent.url, "httpVersion": sent.version, "cookies": [],
        "headers": fields(sent.headers), "queryString": fields(&query), "headersSize": -1,
        "bodySize": size(sent.body),
    });
    if let EntryBody::Here(_) = sent.body {
        let media = named(sent.headers, "content-type").unwrap_or_default();
        let mut data = json!({"mimeType": media});
        put(sent.body, named(sent.headers, "content-encoding").is_some(), &mut data);
        request["postData"] = data;
    }
    put_trailers(sent.trailers, &mut request);
    let mut content = json!({
        "size": size(came.body),
        "mimeType": named(came.headers, "content-type").unwrap_or("x-unknown"),
    });
    put(came.body, named(came.headers, "content-encoding").is_some(), &mut content);
    let wire = match came.broken {
        Some(_) => -1,
        None => i64::try_from(size(came.body)).unwrap_or(-1),
    };
    let mut response = json!({
        "status": came.status, "statusText": came.phrase, "httpVersion": came.version,
        "cookies": [], "headers": fields(came.headers), "content": content,
        "redirectURL": named(came.headers, "location").unwrap_or_default(), "headersSize": -1, "bodySize": wire,
    });
    put_trailers(came.trailers, &mut response);
    if let Some(broken) = came.broken {
        response["_error"] = json!(broken);
    }
    // Milliseconds to the microsecond, so that the response of a service next door takes some, too.
    let rounded = |milliseconds: f64| (milliseconds * 1e3).round() / 1e3;
    let [wait, whole] =
        [came.waited, came.whole].map(|time: Duration| rounded(time.as_secs_f64() * 1e3));
    let mut entry = json!({
        "startedDateTime": sent.at.to_string(), "time": whole, "request": request, "response": response,
        "cache": {}, "timings": {"send": 0, "wait": wait, "receive": rounded((whole - wait).max(0.0))},
    });
    if let Some(comment) = &sent.comment {
        entry["comment"] = json!(comment);
    }
    if let Some(intention) = &sent.intention {
        entry[MEMBER] = json!(intention);
    }
    entry
}
