//! The forms of recordings, and how they are told apart.

use std::fmt;
use std::str::FromStr;

use super::BYTE_ORDER_MARK;
use super::http::is_start;
use faithful_clerk_model::json::scan::{BracketScan, ScanState, scan_brackets, string_end};

/// The format of a recording.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// HAR 1.2: one JSON document.
    Har,
    /// JSON Lines of HAR entries: an entry of HAR a line.
    JsonLines,
    /// HTTP/1.1 messages as on the wire, requests and responses in turns (RFC 9112, `application/http`).
    Http,
    /// A web archive, WARC 1.0 or 1.1 (ISO 28500).
    Warc,
}

impl Format {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Har, Self::JsonLines, Self::Http, Self::Warc];

    /// Its name in calls.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Har => "har",
            Self::JsonLines => "jsonl",
            Self::Http => "http",
            Self::Warc => "warc",
        }
    }

    /// What a recording is that begins with these bytes, if that is beyond doubt.
    #[must_use]
    pub fn certain(bytes: &[u8]) -> Option<Self> {
        let format = Self::of(bytes).ok()?;
        let start = bytes.strip_prefix(BYTE_ORDER_MARK).unwrap_or(bytes).trim_ascii_start();
        let is_object = matches!(format, Self::Har | Self::JsonLines);
        (!is_object || told_by_names(start).is_some()).then_some(format)
    }

    /// What a recording is that begins with these bytes.
    ///
    /// # Errors
    /// What it begins with instead.
    pub fn of(bytes: &[u8]) -> Result<Self, String> {
        let bytes = bytes.strip_prefix(BYTE_ORDER_MARK).unwrap_or(bytes).trim_ascii_start();
        if bytes.starts_with(b"WARC/") {
            return Ok(Self::Warc);
        }
        if bytes.is_empty() {
            return Ok(Self::Har);
        }
        if bytes.starts_with(b"{") {
            return Ok(of_object(bytes));
        }
        let line = bytes.split(|byte| *byte == b'\n').next().unwrap_or_default();
        if is_start(line) {
            return Ok(Self::Http);
        }
        let begin: String = String::from_utf8_lossy(bytes).chars().take(12).collect();
        Err(format!(
            "this is not a recording: it begins with `{begin}`, which is neither HAR, JSON Lines of HAR entries, HTTP messages nor WARC"
        ))
    }
}

/// HAR has all in its member `log`; an entry has members of its own.
fn told_by_names(bytes: &[u8]) -> Option<Format> {
    let entry = [
        "startedDateTime",
        "time",
        "request",
        "response",
        "cache",
        "timings",
        "pageref",
        "serverIPAddress",
        "connection",
    ];
    for name in names(bytes) {
        if name == b"log" {
            return Some(Format::Har);
        }
        if entry.iter().any(|known| known.as_bytes() == name) {
            return Some(Format::JsonLines);
        }
    }
    None
}

fn of_object(bytes: &[u8]) -> Format {
    if let Some(format) = told_by_names(bytes) {
        return format;
    }
    // An object that is over in its line, with another behind it.
    match scan_brackets(bytes, 0, &mut ScanState::default()) {
        BracketScan::Closed(end)
            if bytes.get(end..).unwrap_or_default().trim_ascii_start().starts_with(b"{") =>
        {
            Format::JsonLines
        }
        _ => Format::Har,
    }
}

/// The names of an object's members, as far as the bytes go.
fn names(bytes: &[u8]) -> Vec<&[u8]> {
    let mut names = Vec::new();
    let mut at = 1;
    let skip_space = |at: usize| {
        let rest = bytes.get(at..).unwrap_or_default();
        at + rest.len() - rest.trim_ascii_start().len()
    };
    loop {
        at = skip_space(at);
        if bytes.get(at) != Some(&b'"') {
            return names;
        }
        let Some(end) = string_end(bytes, at + 1) else { return names };
        names.extend(bytes.get(at + 1..end - 1));
        at = skip_space(end);
        if bytes.get(at) != Some(&b':') {
            return names;
        }
        at = skip_space(at + 1);
        at = match bytes.get(at) {
            Some(b'"') => match string_end(bytes, at + 1) {
                Some(end) => end,
                None => return names,
            },
            Some(b'{' | b'[') => match scan_brackets(bytes, at, &mut ScanState::default()) {
                BracketScan::Closed(end) => end,
                BracketScan::Mismatch(_) | BracketScan::Incomplete => return names,
            },
            Some(_) => {
                let rest = bytes.get(at..).unwrap_or_default();
                let end = rest.iter().position(|byte| matches!(byte, b',' | b'}'));
                at + end.unwrap_or(rest.len())
            }
            None => return names,
        };
        at = skip_space(at);
        if bytes.get(at) != Some(&b',') {
            return names;
        }
        at += 1;
    }
}

impl fmt::Display for Format {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl FromStr for Format {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        let found = Self::ALL.into_iter().find(|format| format.name() == text);
        found.ok_or_else(|| {
            format!("`{text}` is not one of {}", Self::ALL.map(Self::name).join(", "))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forms_are_told_by_what_is_in_them() {
        for (text, format) in [
            (r#"{"log":{"entries":[]}}"#, Format::Har),
            ("\u{feff} {\"_made\": [\"{\", {}], \"comment\": 1, \"log\" : {", Format::Har),
            (r#"{"startedDateTime":"2027","request":{}}"#, Format::JsonLines),
            (r#"{"_id":7,"_tags":["a"],"response":{"content":{"text":"long"#, Format::JsonLines),
            ("{\"request\":{}}\n{\"request\":{}}", Format::JsonLines),
            ("{\"a\":1}\n{\"a\":2}", Format::JsonLines),
            ("{}", Format::Har),
            ("", Format::Har),
            ("GET /berths HTTP/1.1\r\nHost: x\r\n\r\n", Format::Http),
            ("\r\nHTTP/1.1 200 OK\r\n", Format::Http),
            ("WARC/1.0\r\n", Format::Warc),
        ] {
            assert_eq!(Format::of(text.as_bytes()), Ok(format), "{text}");
        }
        for text in ["<html>", "[1]", "berth,quay\nA-3,north", "\0\0\0\0"] {
            assert!(Format::of(text.as_bytes()).unwrap_err().contains("not a recording"), "{text}");
        }
    }
}
