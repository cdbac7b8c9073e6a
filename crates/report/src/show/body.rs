//! A body in lines, each JSON line with the location that it shows.

use std::borrow::Cow;

use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody,
};
use faithful_clerk_model::json::Json;
use faithful_clerk_model::json::pointer::{join, join_index};
use faithful_clerk_model::secret::is_secret_name;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_scrub::{BlankReason, hidden_body};
use serde_json::Value;

/// So many lines of a body are laid out; others only where a finding stands.
const MOST_LINES: usize = 400;

/// Of a text, so much is laid out.
const MOST_TEXT: usize = 400;

/// A line of a body.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct BodyLine {
    /// How deep it stands.
    pub(super) depth: usize,
    /// The text.
    pub(super) text: String,
    /// The location that starts in this line, as a JSON Pointer.
    pub(super) pointer: Option<String>,
    /// The location that ends in this line: what is missing in it would have stood before.
    pub(super) ends: Option<String>,
}

/// What a body turns out to be.
pub(crate) enum BodyLayout {
    /// JSON.
    Json(Value),
    /// Text; for JSON that is broken, with the reason.
    Text(String),
    /// What begins as JSON and is none, so that no secret can be looked for in it; with what it said blanked.
    Blanked(String),
    /// Bytes that are no text.
    Bytes(usize),
    /// The recording's own encoding of it is broken.
    Unreadable,
}

/// Reads the body of a request, if it is there.
pub(crate) fn read_request(request: &Request<'_>) -> Option<BodyLayout> {
    let RequestBody::Present(content) = &request.body else { return None };
    Some(read(content, request.media(), false))
}

/// Reads the body of a response, if it is there.
pub(crate) fn read_response(response: &Response<'_>) -> Option<BodyLayout> {
    let ResponseBody::Present(content) = &response.body else { return None };
    Some(read(content, response.media(), response.status >= 400))
}

/// The bodies of an exchange in which no secret can be looked for, and so are not shown as they are: which, and why.
#[must_use]
pub fn hidden_bodies(exchange: &Exchange<'_>) -> Vec<(&'static str, BlankReason)> {
    let reason = |layout: Option<BodyLayout>| match layout? {
        BodyLayout::Json(_) | BodyLayout::Text(_) => None,
        BodyLayout::Blanked(_) => Some(BlankReason::NotJson),
        BodyLayout::Bytes(_) => Some(BlankReason::NotText),
        BodyLayout::Unreadable => Some(BlankReason::Coding),
    };
    let request = reason(read_request(&exchange.request)).map(|reason| ("request", reason));
    let response = exchange.response.as_ref().and_then(read_response);
    let response = reason(response).map(|reason| ("response", reason));
    request.into_iter().chain(response).collect()
}

/// Reads a body.
fn read(content: &BodyContent<'_>, media: Option<&str>, is_error: bool) -> BodyLayout {
    let Ok(bytes) = content.decode() else { return BodyLayout::Unreadable };
    match Json::read(&bytes) {
        Json::Value(value) => BodyLayout::Json(value),
        Json::Beyond(_) | Json::Malformed(_) => match std::str::from_utf8(&bytes) {
            Ok(text) => {
                let (text, blanks) = hidden_body(text, media, is_error);
                match blanks.is_empty() {
                    true => BodyLayout::Text(masked(&text).into_owned()),
                    false => BodyLayout::Blanked(text),
                }
            }
            Err(_) => BodyLayout::Bytes(bytes.len()),
        },
    }
}

/// A value in lines; those beyond the first few hundred only where `is_of_interest`.
pub(super) fn json_lines(value: &Value, is_of_interest: &dyn Fn(&str) -> bool) -> Vec<BodyLine> {
    let mut lines = Vec::new();
    lay(value, "", "", 0, "", &mut lines);
    let total = lines.len();
    let kept = |at: usize, line: &BodyLine| {
        let marks = |location: &Option<String>| location.as_deref().is_some_and(is_of_interest);
        at < MOST_LINES || marks(&line.pointer) || at + 1 == total
    };
    let mut left_out = 0;
    let mut result = Vec::new();
    for (at, line) in lines.into_iter().enumerate() {
        if kept(at, &line) {
            if left_out > 0 {
                result.push(note(format!("… {left_out} lines are left out …")));
            }
            left_out = 0;
            result.push(line);
        } else {
            left_out += 1;
        }
    }
    result
}

/// Text in lines.
pub(super) fn text_lines(text: &str) -> Vec<BodyLine> {
    let count = text.lines().count();
    let mut lines: Vec<BodyLine> =
        text.lines().take(60).map(|line| note(cut(line).into_owned())).collect();
    if count > lines.len() {
        lines.push(note(format!("… {} more lines …", count - lines.len())));
    }
    lines
}

fn note(text: String) -> BodyLine {
    BodyLine { depth: 0, text, pointer: None, ends: None }
}

fn cut(text: &str) -> Cow<'_, str> {
    match text.char_indices().nth(MOST_TEXT) {
        Some((end, _)) => {
            let more = text.chars().count() - MOST_TEXT;
            Cow::Owned(format!("{}… ({more} more characters)", text.get(..end).unwrap_or_default()))
        }
        None => Cow::Borrowed(text),
    }
}

/// A value as it stands in a line, its secrets masked.
fn scalar(name: &str, value: &Value) -> String {
    match value {
        Value::String(_) | Value::Number(_) if is_secret_name(name) => "\"***\"".to_owned(),
        Value::String(text) => Value::from(cut(&masked(text)).as_ref()).to_string(),
        other => other.to_string(),
    }
}

fn lay(
    value: &Value,
    name: &str,
    location: &str,
    depth: usize,
    comma: &str,
    lines: &mut Vec<BodyLine>,
) {
    let key = if name.is_empty() { String::new() } else { format!("{}: ", Value::from(name)) };
    let line = |text: String, pointer: Option<&str>, ends: Option<&str>| BodyLine {
        depth,
        text,
        pointer: pointer.map(str::to_owned),
        ends: ends.map(str::to_owned),
    };
    match value {
        Value::Object(members) if !members.is_empty() => {
            lines.push(line(format!("{key}{{"), Some(location), None));
            for (at, (name, member)) in members.iter().enumerate() {
                let comma = if at + 1 < members.len() { "," } else { "" };
                lay(member, name, &join(location, name), depth + 1, comma, lines);
            }
            lines.push(line(format!("}}{comma}"), None, Some(location)));
        }
        Value::Array(items) if !items.is_empty() => {
            lines.push(line(format!("{key}["), Some(location), None));
            for (at, item) in items.iter().enumerate() {
                let comma = if at + 1 < items.len() { "," } else { "" };
                lay(item, "", &join_index(location, at), depth + 1, comma, lines);
            }
            lines.push(line(format!("]{comma}"), None, Some(location)));
        }
        other => {
            let text = format!("{key}{}{comma}", scalar(name, other));
            lines.push(line(text, Some(location), Some(location)));
        }
    }
}

/// The value with its secrets masked.
pub(super) fn masked_value(name: &str, value: &Value) -> Value {
    match value {
        Value::Object(members) => Value::Object(
            members
                .iter()
                .map(|(name, member)| (name.clone(), masked_value(name, member)))
                .collect(),
        ),
        Value::Array(items) => items.iter().map(|item| masked_value(name, item)).collect(),
        Value::String(_) | Value::Number(_) if is_secret_name(name) => Value::from("***"),
        Value::String(text) => Value::from(masked(text).as_ref()),
        other => other.clone(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn lines_know_their_places_and_secrets_are_masked() {
        let value = json!({"a": [1, {"token": "abc"}], "b": {}});
        let lines = json_lines(&value, &|_| false);
        let told: Vec<String> = lines
            .iter()
            .map(|line| format!("{} {} {:?}", line.depth, line.text, line.pointer.as_deref()))
            .collect();
        assert_eq!(
            told,
            [
                "0 { Some(\"\")",
                "1 \"a\": [ Some(\"/a\")",
                "2 1, Some(\"/a/0\")",
                "2 { Some(\"/a/1\")",
                "3 \"token\": \"***\" Some(\"/a/1/token\")",
                "2 } None",
                "1 ], None",
                "1 \"b\": {} Some(\"/b\")",
                "0 } None",
            ]
        );
    }

    #[test]
    fn a_long_list_is_shortened_but_not_where_something_is_found() {
        let value = Value::from((0..2000).collect::<Vec<u32>>());
        let lines = json_lines(&value, &|location| location == "/1500");
        assert!(lines.len() < MOST_LINES + 6);
        assert!(lines.iter().any(|line| line.text == "1500,"));
    }
}
