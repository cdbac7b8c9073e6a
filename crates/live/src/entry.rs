//! An exchange as an entry of HAR 1.2.

use std::time::Duration;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use jiff::Timestamp;
use reqwest::header::HeaderMap;
use serde_json::{Value, json};

/// What was sent.
#[derive(Debug)]
pub(crate) struct Sent<'s> {
    pub(crate) name: &'s str,
    pub(crate) at: Timestamp,
    pub(crate) method: &'s str,
    pub(crate) url: &'s str,
    /// As they are recorded: credentials are masked.
    pub(crate) headers: Vec<(String, String)>,
    pub(crate) body: Option<&'s str>,
}

/// What came, as far as it did.
#[derive(Debug, Default)]
pub(crate) struct Came {
    pub(crate) status: u16,
    pub(crate) headers: HeaderMap,
    pub(crate) body: Vec<u8>,
    /// Until the head was there, and until all was.
    pub(crate) waited: Duration,
    pub(crate) whole: Duration,
    /// Why there is no more of it.
    pub(crate) broken: Option<String>,
}

fn pair(name: &str, value: &str) -> Value {
    json!({"name": name, "value": value})
}

/// The entry; its `comment` says which planned request it was.
pub(crate) fn entry(sent: &Sent<'_>, came: &Came) -> Value {
    let header = |(name, value): &(String, String)| pair(name, value);
    let query = url::Url::parse(sent.url).ok();
    let query: Vec<Value> = query
        .iter()
        .flat_map(|url| {
            url.query_pairs().map(|(name, value)| pair(&name, &value)).collect::<Vec<_>>()
        })
        .collect();
    let mut request = json!({
        "method": sent.method, "url": sent.url, "httpVersion": "HTTP/1.1", "cookies": [],
        "headers": sent.headers.iter().map(header).collect::<Vec<_>>(),
        "queryString": query, "headersSize": -1, "bodySize": sent.body.map_or(0, str::len),
    });
    if let Some(body) = sent.body {
        let media = sent.headers.iter().find(|(name, _)| name.eq_ignore_ascii_case("content-type"));
        request["postData"] =
            json!({"mimeType": media.map_or("", |(_, value)| value), "text": body});
    }
    let text = |name: &str| {
        let value = came.headers.get(name).map(|value| String::from_utf8_lossy(value.as_bytes()));
        value.map(std::borrow::Cow::into_owned)
    };
    let mut content = json!({
        "size": came.body.len(),
        "mimeType": text("content-type").unwrap_or_else(|| "x-unknown".to_owned()),
    });
    match std::str::from_utf8(&came.body) {
        Ok("") => {}
        Ok(text) => content["text"] = json!(text),
        Err(_) => {
            content["text"] = json!(STANDARD.encode(&came.body));
            content["encoding"] = json!("base64");
        }
    }
    let headers = came.headers.iter();
    let headers: Vec<Value> = headers
        .map(|(name, value)| pair(name.as_str(), &String::from_utf8_lossy(value.as_bytes())))
        .collect();
    let size =
        if came.broken.is_some() { -1 } else { i64::try_from(came.body.len()).unwrap_or(-1) };
    let mut response = json!({
        "status": came.status, "statusText": "", "httpVersion": if came.status == 0 { "" } else { "HTTP/1.1" },
        "cookies": [], "headers": headers, "content": content,
        "redirectURL": text("location").unwrap_or_default(), "headersSize": -1, "bodySize": size,
    });
    if let Some(broken) = &came.broken {
        response["_error"] = json!(broken);
    }
    let milliseconds = |time: Duration| (time.as_secs_f64() * 10_000.0).round() / 10.0;
    let (wait, whole) = (milliseconds(came.waited), milliseconds(came.whole));
    json!({
        "startedDateTime": sent.at.to_string(), "time": whole, "request": request, "response": response,
        "cache": {}, "timings": {"send": 0, "wait": wait, "receive": (whole - wait).max(0.0)},
        "comment": sent.name,
    })
}
