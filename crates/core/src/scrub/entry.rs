//! An entry of HAR: each string in it is gone over as what it is.

use serde_json::Value;

use super::Scrubber;
use super::json::{DEEPEST, Side};
use super::layers::in_literal;
use crate::recording::string_end;
use crate::secret::Kind;

impl Scrubber<'_> {
    /// Replaces in an entry.
    pub(super) fn entry(&mut self, text: &str) -> Option<String> {
        let Ok(entry) = serde_json::from_str::<Value>(text) else {
            // What can't be read may hold secrets all the same.
            return self.json(text, Side::Asked, DEEPEST);
        };
        let (mut out, mut copied) = (String::new(), 0);
        for (path, range) in strings(text) {
            let inner = text.get(range.clone()).unwrap_or_default();
            let new = in_literal(inner, &mut |value| self.leaf(&entry, &path, value));
            if let Some(new) = new {
                out.push_str(text.get(copied..range.start).unwrap_or_default());
                out.push_str(&new);
                copied = range.end;
            }
        }
        if copied == 0 {
            return None;
        }
        out.push_str(text.get(copied..).unwrap_or_default());
        Some(out)
    }

    fn leaf(&mut self, entry: &Value, path: &[String], value: &str) -> Option<String> {
        let path: Vec<&str> = path.iter().map(String::as_str).collect();
        let text = |steps: &[&str]| {
            steps.iter().try_fold(entry, |value, step| match value {
                Value::Array(items) => items.get(step.parse::<usize>().ok()?),
                value => value.get(*step),
            })
        };
        let word = |steps: &[&str]| text(steps).and_then(Value::as_str).unwrap_or_default();
        let side = match text(&["response", "status"]).and_then(Value::as_u64) {
            Some(400..) => Side::Refused,
            _ => Side::Asked,
        };
        match path.as_slice() {
            [side, "headers", at, "value"] => {
                self.header(word(&[side, "headers", at, "name"]), value)
            }
            [side, "cookies", at, "value"] => {
                let name = word(&[side, "cookies", at, "name"]);
                self.secret(value, Kind::Cookie, &format!("cookie {name}"))
            }
            ["request", "queryString", at, "value"] => {
                self.parameter(word(&["request", "queryString", at, "name"]), value)
            }
            ["request", "postData", "params", at, "value"] => {
                self.parameter(word(&["request", "postData", "params", at, "name"]), value)
            }
            ["request", "url"] | ["response", "redirectURL"] => self.url(value),
            ["request", "postData", "text"] => {
                let media = word(&["request", "postData", "mimeType"]);
                match word(&["request", "postData", "encoding"]) {
                    "base64" => self.encoded(value, media, Side::Asked),
                    _ => self.body(value, media, Side::Asked),
                }
            }
            ["response", "content", "text"] => {
                let media = word(&["response", "content", "mimeType"]);
                match word(&["response", "content", "encoding"]) {
                    "base64" => self.encoded(value, media, side),
                    _ => self.body(value, media, side),
                }
            }
            // Dates, versions, media types and the like.
            [
                ..,
                "name" | "mimeType" | "encoding" | "startedDateTime" | "httpVersion" | "method",
            ] => None,
            path => {
                let name = path.iter().rev().find(|step| step.parse::<usize>().is_err());
                match name.and_then(|name| self.is_secret(name)) {
                    Some(kind) => self.secret(value, kind, "the recorder's own members"),
                    None => self.any(value, "the recorder's own members", DEEPEST),
                }
            }
        }
    }
}

/// The strings of a JSON document that are values, each with the names and numbers on the way to it, and
/// where it stands between its quotation marks.
fn strings(text: &str) -> Vec<(Vec<String>, std::ops::Range<usize>)> {
    let bytes = text.as_bytes();
    let mut found = Vec::new();
    let (mut path, mut lists): (Vec<String>, Vec<Option<usize>>) = (Vec::new(), Vec::new());
    let mut at = 0;
    while let Some(byte) = bytes.get(at) {
        match byte {
            b'{' | b'[' => {
                let list = (*byte == b'[').then_some(0);
                lists.push(list);
                path.push(list.map(|at| at.to_string()).unwrap_or_default());
            }
            b'}' | b']' => {
                lists.pop();
                path.pop();
            }
            b',' => {
                if let (Some(Some(index)), Some(step)) = (lists.last_mut(), path.last_mut()) {
                    *index += 1;
                    *step = index.to_string();
                }
            }
            b'"' => {
                let Some(end) = string_end(bytes, at + 1) else { return found };
                let range = at + 1..end - 1;
                let is_name = lists.last() == Some(&None)
                    && bytes.get(end..).unwrap_or_default().trim_ascii_start().starts_with(b":");
                if is_name {
                    let name = text.get(at..end).unwrap_or_default();
                    if let Some(step) = path.last_mut() {
                        *step = serde_json::from_str(name).unwrap_or_default();
                    }
                } else {
                    found.push((path.clone(), range));
                }
                at = end - 1;
            }
            _ => {}
        }
        at += 1;
    }
    found
}
