//! The strings of an error body that are the service's own, and not what the request sent.

use serde_json::Value;

use crate::classify::Classified;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::pointer::{join, join_index};

/// A string, and where it stands.
pub(super) struct Text<'v> {
    pub(super) pointer: String,
    pub(super) value: &'v str,
}

/// So many strings are looked at.
const MOST: usize = 1000;

/// Every string of a body that could hold markup or JSON, but for those that the caller sent.
pub(super) fn texts<'v>(classified: &Classified<'_>, body: &'v Value) -> Vec<Text<'v>> {
    let mut found = Vec::new();
    // Most bodies have none, and nothing is copied for them.
    if !has_suspicious(body) {
        return found;
    }
    walk(body, String::new(), &mut found);
    let request = &classified.exchange.request;
    let sent = match &request.body {
        RequestBody::Present(content) => content.decode().ok(),
        RequestBody::Absent | RequestBody::Blank | RequestBody::NotRecorded => None,
    };
    let sent = sent.map(|bytes| String::from_utf8_lossy(&bytes).into_owned()).unwrap_or_default();
    let escaped = |text: &str| {
        let literal = Value::from(text).to_string();
        literal.get(1..literal.len() - 1).unwrap_or_default().to_owned()
    };
    found.retain(|text| !(sent.contains(text.value) || sent.contains(&escaped(text.value))));
    found
}

fn is_suspicious(text: &str) -> bool {
    memchr::memchr3(b'<', b'{', b'[', text.as_bytes()).is_some()
}

fn has_suspicious(value: &Value) -> bool {
    match value {
        Value::String(text) => is_suspicious(text),
        Value::Array(items) => items.iter().any(has_suspicious),
        Value::Object(members) => members.values().any(has_suspicious),
        Value::Null | Value::Bool(_) | Value::Number(_) => false,
    }
}

fn walk<'v>(value: &'v Value, at: String, found: &mut Vec<Text<'v>>) {
    match value {
        Value::String(text) if found.len() < MOST && is_suspicious(text) => {
            found.push(Text { pointer: at, value: text });
        }
        Value::Array(items) => {
            for (index, item) in items.iter().enumerate() {
                walk(item, join_index(&at, index), found);
            }
        }
        Value::Object(members) => {
            for (name, member) in members {
                walk(member, join(&at, name), found);
            }
        }
        Value::String(_) | Value::Null | Value::Bool(_) | Value::Number(_) => {}
    }
}
