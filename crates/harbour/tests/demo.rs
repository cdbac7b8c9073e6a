//! The demo's recordings are what the service answers, times and ids of answers aside.

#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that cannot go on has failed")]

use faithful_clerk_harbour::{Edition, Fate, Harbour, HarbourRequest, Reply};
use serde_json::Value;

fn recorded(name: &str) -> Vec<Value> {
    let path = format!("{}/../cli/demo/{name}.har", env!("CARGO_MANIFEST_DIR"));
    let har: Value = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    har["log"]["entries"].as_array().unwrap().clone()
}

fn headers(of: &Value) -> Vec<(String, String)> {
    let text = |value: &Value| value.as_str().unwrap().to_owned();
    of["headers"]
        .as_array()
        .unwrap()
        .iter()
        .map(|header| (text(&header["name"]), text(&header["value"])))
        .collect()
}

fn request(entry: &Value) -> HarbourRequest {
    let request = &entry["request"];
    let url = request["url"].as_str().unwrap().strip_prefix("https://harbour.example").unwrap();
    let (path, query) = url.split_once('?').unwrap_or((url, ""));
    HarbourRequest {
        method: request["method"].as_str().unwrap().to_owned(),
        path: path.to_owned(),
        query: query.to_owned(),
        headers: headers(request),
        body: request["postData"]["text"].as_str().unwrap_or_default().as_bytes().to_vec(),
    }
}

/// What of an answer has to be the same.
fn told(status: u64, mut headers: Vec<(String, String)>, body: &str) -> String {
    // What a connection adds, and what is new in every answer.
    let varies = ["date", "server", "x-request-id", "content-length"];
    headers.retain(|(name, _)| !varies.contains(&name.to_ascii_lowercase().as_str()));
    headers.sort();
    let body = serde_json::from_str::<Value>(body)
        .map_or_else(|_| body.to_owned(), |value| value.to_string());
    format!("{status} {headers:?} {body}")
}

#[test]
fn the_recordings_are_current() {
    for (name, state) in [("before", Edition::Before), ("after", Edition::After)] {
        let mut harbour = Harbour::new(state);
        let mut differs = Vec::new();
        for (number, entry) in (1..).zip(recorded(name)) {
            let Reply { status, headers: sent, body, fate } = harbour.answer(&request(&entry));
            let response = &entry["response"];
            let then = response["content"]["text"].as_str().unwrap_or_default();
            let sent = sent.into_iter().map(|(name, value)| (name.to_owned(), value)).collect();
            // HEAD has no body, and of a cut one the recording has nothing.
            let is_bare = entry["request"]["method"] == "HEAD" || matches!(fate, Fate::Cut(_));
            let body = if is_bare { String::new() } else { body.unwrap_or_default() };
            let now = told(u64::from(status), sent, &body);
            let then = told(response["status"].as_u64().unwrap(), headers(response), then);
            if now != then {
                differs.push(format!("{name}#{number}\n  now  {now}\n  then {then}"));
            }
        }
        assert!(differs.is_empty(), "{}", differs.join("\n"));
    }
}
