//! Records the demo's recordings anew from the service: each request of a recording is asked once more, in order, and
//! answers that are others now take the place of those that are there. Dates, times and what only a recorder sees stay.
//!
//! ```sh
//! cargo run -p faithful-clerk-harbour --example record -- before crates/cli/demo/before.har
//! ```
//! A new request is an entry with `"response": {"headers": [], "content": {}}`; its answer is filled in.

#![allow(clippy::print_stdout, reason = "a tool for whoever changes the harbour")]

use std::error::Error;

use faithful_clerk_harbour::{Edition, Fate, Harbour, HarbourRequest, Reply};
use serde::Serialize as _;
use serde_json::ser::PrettyFormatter;
use serde_json::{Value, json};

fn main() -> Result<(), Box<dyn Error>> {
    let mut arguments = std::env::args().skip(1);
    let state = match arguments.next().as_deref() {
        Some("before") => Edition::Before,
        Some("after") => Edition::After,
        _ => return Err("say `before` or `after`, and the recording".into()),
    };
    let path = arguments.next().ok_or("which recording?")?;
    let text = std::fs::read_to_string(&path)?;
    let mut har: Value = serde_json::from_str(&text)?;
    let entries = har["log"]["entries"].as_array_mut().ok_or("it is no HAR")?;
    let (mut harbour, mut changed) = (Harbour::new(state), 0);
    for entry in entries {
        let reply = harbour.answer(&request(&entry["request"]));
        let is_head = entry["request"]["method"] == "HEAD";
        if let Some(response) = anew(&entry["response"], &reply, is_head) {
            entry["response"] = response;
            changed += 1;
        }
    }
    if changed > 0 {
        std::fs::write(&path, written(&har, text.trim_end().contains('\n'))?)?;
    }
    println!("{path}: {changed} answers are others now");
    Ok(())
}

/// The recording in one line, or each member on a line of its own, as it was.
fn written(har: &Value, is_pretty: bool) -> serde_json::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    if is_pretty {
        let lines = PrettyFormatter::with_indent(b" ");
        har.serialize(&mut serde_json::Serializer::with_formatter(&mut bytes, lines))?;
    } else {
        serde_json::to_writer(&mut bytes, har)?;
    }
    bytes.push(b'\n');
    Ok(bytes)
}

fn pairs(of: &Value) -> Vec<(String, String)> {
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let headers = of["headers"].as_array().into_iter().flatten();
    headers.map(|header| (text(&header["name"]), text(&header["value"]))).collect()
}

fn request(of: &Value) -> HarbourRequest {
    let url = of["url"].as_str().unwrap_or_default();
    let target = url.strip_prefix("https://harbour.example").unwrap_or(url);
    let (path, query) = target.split_once('?').unwrap_or((target, ""));
    HarbourRequest {
        method: of["method"].as_str().unwrap_or_default().to_owned(),
        path: path.to_owned(),
        query: query.to_owned(),
        headers: pairs(of),
        body: of["postData"]["text"].as_str().unwrap_or_default().as_bytes().to_vec(),
    }
}

/// The response as it is now, if it is another: what a connection adds and what is new in every answer aside.
fn anew(then: &Value, reply: &Reply, is_head: bool) -> Option<Value> {
    let Reply { status, headers, body, fate } = reply;
    let varies = |name: &str| {
        ["date", "server", "x-request-id", "content-length"]
            .iter()
            .any(|of| name.eq_ignore_ascii_case(of))
    };
    let mut now: Vec<(String, String)> =
        headers.iter().map(|(name, value)| ((*name).to_owned(), value.clone())).collect();
    now.retain(|(name, _)| !varies(name));
    let (mut old, mut new) = (pairs(then), now.clone());
    old.retain(|(name, _)| !varies(name));
    old.sort();
    new.sort();
    let bare = is_head || *fate != Fate::Whole;
    let body = body.as_deref().filter(|_| !bare).unwrap_or_default();
    let text = then["content"]["text"].as_str().unwrap_or_default();
    let read = |text: &str| serde_json::from_str::<Value>(text).unwrap_or_else(|_| json!(text));
    if then["status"] == *status && old == new && (bare || read(text) == read(body)) {
        return None;
    }
    let mut response = then.clone();
    let kept = pairs(then)
        .into_iter()
        .filter(|(name, _)| varies(name) && !name.eq_ignore_ascii_case("content-length"));
    let length = (!body.is_empty()).then(|| ("Content-Length".to_owned(), body.len().to_string()));
    let all = kept.chain(now).chain(length);
    response["headers"] = all.map(|(name, value)| json!({"name": name, "value": value})).collect();
    response["status"] = json!(status);
    response["content"]["size"] = json!(body.len());
    response["content"]["text"] = json!(body);
    response["bodySize"] = json!(body.len());
    Some(response)
}
