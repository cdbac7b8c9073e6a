//! An exchange as an entry of HAR 1.2.

use std::collections::BTreeMap;
use std::io;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use serde_json::{Map, Value, json};

use super::omission::leave_out;
use super::record::ExchangeRecord;
use faithful_clerk_model::address::absolute;
use faithful_clerk_model::exchange::{BodyContent, RequestBody, Response, ResponseBody};
use faithful_clerk_model::headers::Headers;

pub(super) const BEGIN: &[u8] = concat!(
    r#"{"log":{"version":"1.2","creator":{"name":"Faithful Clerk","version":""#,
    env!("CARGO_PKG_VERSION"),
    "\"},\"entries\":[\n"
)
.as_bytes();
pub(super) const END: &[u8] = b"\n]}}\n";

/// What stands for a time that nobody recorded; HAR asks for one.
const UNKNOWN_TIME: &str = "1970-01-01T00:00:00.000Z";

/// Valid JSON without the line ends that only lay it out. Those within strings are escaped.
pub(super) fn in_one_line(entry: &str) -> String {
    let (mut line, mut in_string, mut escaped) = (String::with_capacity(entry.len()), false, false);
    for c in entry.chars() {
        let is_layout = matches!(c, ' ' | '\n' | '\r' | '\t') && !in_string;
        if !is_layout {
            line.push(c);
        }
        match c {
            _ if escaped => escaped = false,
            '\\' => escaped = in_string,
            '"' => in_string = !in_string,
            _ => {}
        }
    }
    line
}

/// The entry.
pub(super) fn entry(
    record: &ExchangeRecord<'_>,
    left_out: &mut BTreeMap<&'static str, u64>,
) -> io::Result<String> {
    let request = &record.exchange.request;
    if request.url.starts_with("//") {
        leave_out(
            left_out,
            "the scheme, which was not recorded: https is written, on loopback http",
        );
    }
    if record.started.is_none() {
        leave_out(left_out, "the time, which was not recorded: 1970 is written");
    }
    let url = absolute(&request.url);
    let mut asked = json!({
        "method": request.method,
        "url": url,
        "httpVersion": record.request_version.as_deref().unwrap_or_default(),
        "cookies": [],
        "headers": fields(&request.headers),
        "queryString": query(&url),
        "headersSize": -1,
        "bodySize": 0,
    });
    mark(&mut asked, &request.headers);
    let media = request.media().unwrap_or_default();
    match &request.body {
        RequestBody::Absent => {}
        RequestBody::Blank => post(&mut asked, media, &BodyContent::Bytes(b" ".into())),
        RequestBody::Present(content) => post(&mut asked, media, content),
        RequestBody::NotRecorded => {
            let length = request.headers.content_length().filter(|length| *length > 0);
            asked["bodySize"] = json!(length.unwrap_or(1));
        }
    }
    let told = match &record.exchange.response {
        None => json!({
            "status": 0, "statusText": "", "httpVersion": "", "cookies": [], "headers": [],
            "content": {"size": 0, "mimeType": "x-unknown"},
            "redirectURL": "", "headersSize": -1, "bodySize": -1,
            "_error": record.exchange.no_response.as_deref().unwrap_or("no response"),
        }),
        Some(response) => response_json(response, record),
    };
    let took = record.exchange.timing.known.map_or(json!(-1), |took| json!(took));
    let mut entry = json!({
        "startedDateTime": record.started.as_deref().unwrap_or(UNKNOWN_TIME),
        "time": took,
        "request": asked,
        "response": told,
        "cache": {},
        "timings": {"send": -1, "wait": took, "receive": -1},
    });
    if let Some(server) = &record.server {
        entry["serverIPAddress"] = json!(server);
    }
    serde_json::to_string(&entry).map_err(io::Error::from)
}

fn response_json(response: &Response<'_>, record: &ExchangeRecord<'_>) -> Value {
    let mut told = json!({
        "status": response.status,
        "statusText": record.phrase.as_deref().unwrap_or_default(),
        "httpVersion": record.response_version.as_deref().unwrap_or_default(),
        "cookies": [],
        "headers": fields(&response.headers),
        "redirectURL": response.headers.get("location").unwrap_or_default(),
        "headersSize": -1,
        "bodySize": -1,
    });
    let mut content = Map::new();
    content.insert("mimeType".to_owned(), json!(response.media().unwrap_or_default()));
    match &response.body {
        ResponseBody::Empty => {
            content.insert("size".to_owned(), json!(0));
            content.insert("text".to_owned(), json!(""));
            told["bodySize"] = json!(0);
        }
        ResponseBody::NotRecorded => _ = content.insert("size".to_owned(), json!(-1)),
        ResponseBody::Truncated => {
            content.insert("size".to_owned(), json!(-1));
            told["_error"] = json!("the response is truncated");
        }
        ResponseBody::Present(body) => {
            let (text, encoding, size) = text(body);
            content.insert("size".to_owned(), json!(size));
            content.insert("text".to_owned(), text);
            content.extend(encoding.map(|encoding| ("encoding".to_owned(), encoding)));
        }
    }
    told["content"] = Value::Object(content);
    mark(&mut told, &response.headers);
    told
}

/// Says which header fields would be there, where not all are.
fn mark(message: &mut Value, headers: &Headers<'_>) {
    if let Some(names) = headers.recorded() {
        message["_recordedHeaders"] = json!(names);
    }
}

fn post(asked: &mut Value, media: &str, content: &BodyContent<'_>) {
    let (text, encoding, size) = text(content);
    let mut data = json!({"mimeType": media, "text": text});
    if let Some(encoding) = encoding {
        data["encoding"] = encoding;
    }
    asked["postData"] = data;
    asked["bodySize"] = json!(size);
}

/// Content as text where it is text, else as base64; codings are undone, as HAR has it, if they can be.
fn text(content: &BodyContent<'_>) -> (Value, Option<Value>, usize) {
    let bytes = match (content.decode(), content) {
        (Ok(bytes), _) => bytes,
        (Err(_), BodyContent::Coded(coded, _)) => coded.decode().unwrap_or_default(),
        (Err(_), _) => b"".into(),
    };
    match std::str::from_utf8(&bytes) {
        Ok(text) => (json!(text), None, bytes.len()),
        Err(_) => (json!(STANDARD.encode(&bytes)), Some(json!("base64")), bytes.len()),
    }
}

fn fields(headers: &Headers<'_>) -> Value {
    headers.iter().map(|(name, value)| json!({"name": name, "value": value})).collect()
}

fn query(url: &str) -> Value {
    let query = url.split('#').next().and_then(|url| url.split_once('?'));
    let pairs = url::form_urlencoded::parse(query.map_or("", |(_, query)| query).as_bytes());
    pairs.map(|(name, value)| json!({"name": name, "value": value})).collect()
}
