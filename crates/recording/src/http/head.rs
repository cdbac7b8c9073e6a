//! The head of a message: its first line and its header fields (RFC 9112 sections 2 to 5).
//!
//! It is read leniently: a bare LF ends a line too, a field may be folded over several lines, and a line
//! that is no field is passed over. What a service sent is what people want to see.

use std::borrow::Cow;

use memchr::memchr;

use faithful_clerk_model::headers::{Headers, is_token};

/// A head is not longer than this.
pub(crate) const LONGEST_HEAD: usize = 1 << 20;

/// The first line of a message.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Start<'a> {
    /// Method, target, version.
    Request(&'a str, &'a str, &'a str),
    /// Version, status, reason phrase.
    Response(&'a str, u16, &'a str),
}

/// The head of a message.
#[derive(Debug, Clone)]
pub struct Head<'a> {
    pub start: Start<'a>,
    pub headers: Headers<'a>,
    /// How many bytes it has, with the empty line behind it.
    pub length: usize,
}

impl<'a> Head<'a> {
    /// Reads the head that stands at the start of `bytes`; `None` if it is no message, or not at its end.
    pub fn read(bytes: &'a [u8]) -> Option<Self> {
        let length = head_length(bytes)?;
        let head = bytes.get(..length)?;
        let mut lines = head.split(|byte| *byte == b'\n').map(|line| line.trim_ascii_end());
        let start = start_line(lines.next()?)?;
        let headers = fields(lines.take_while(|line| !line.is_empty())).into_iter().collect();
        Some(Self { start, headers, length })
    }
}

/// The fields that stand in some lines. One that is no field is passed over.
pub(crate) fn fields<'a>(
    lines: impl Iterator<Item = &'a [u8]>,
) -> Vec<(Cow<'a, str>, Cow<'a, str>)> {
    let mut fields: Vec<(Cow<'a, str>, Cow<'a, str>)> = Vec::new();
    for line in lines {
        if let (Some(b' ' | b'\t'), Some(last)) = (line.first(), fields.last_mut()) {
            last.1 = Cow::Owned(format!("{} {}", last.1, text(line.trim_ascii())));
            continue;
        }
        let Some(colon) = memchr(b':', line) else { continue };
        let name = text(line.get(..colon).unwrap_or_default().trim_ascii_end());
        if is_token(&name) {
            let value = text(line.get(colon + 1..).unwrap_or_default().trim_ascii());
            fields.push((name, value));
        }
    }
    fields
}

/// How long the head is that stands at the start of `bytes`, if it is there as a whole.
pub(super) fn head_length(bytes: &[u8]) -> Option<usize> {
    let mut at = 0;
    loop {
        let line = bytes.get(at..)?;
        let end = memchr(b'\n', line)?;
        let is_empty = line.get(..end)?.trim_ascii_end().is_empty();
        at += end + 1;
        if is_empty {
            return Some(at);
        }
    }
}

/// The first line of a request or of a response.
pub(crate) fn start_line(line: &[u8]) -> Option<Start<'_>> {
    let line = std::str::from_utf8(line).ok()?.trim_end();
    let is_version = |version: &str| {
        let digits = version.strip_prefix("HTTP/").unwrap_or_default();
        digits.starts_with(['1', '2', '3']) && digits.len() <= 3
    };
    if line.starts_with("HTTP/") {
        let mut parts = line.splitn(3, ' ');
        let (version, status) = (parts.next()?, parts.next()?);
        let is_status = status.len() == 3 && status.bytes().all(|byte| byte.is_ascii_digit());
        let status = status.parse().ok().filter(|_| is_status && is_version(version))?;
        return Some(Start::Response(version, status, parts.next().unwrap_or_default()));
    }
    let (method, rest) = line.split_once(' ')?;
    let (target, version) = rest.rsplit_once(' ')?;
    let is_request = is_token(method) && is_version(version) && !target.is_empty();
    is_request.then_some(Start::Request(method, target, version))
}

/// Header fields are ASCII; what else there is stands for itself if it is UTF-8, and is Latin-1 otherwise.
fn text(bytes: &[u8]) -> Cow<'_, str> {
    match std::str::from_utf8(bytes) {
        Ok(text) => Cow::Borrowed(text),
        Err(_) => Cow::Owned(bytes.iter().copied().map(char::from).collect()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_head_is_read_with_either_line_end_and_with_folds() {
        for text in [
            "GET /berths?a=b c HTTP/1.1\r\nHost: harbour.example\r\nX-Long: one\r\n  two\r\n\r\nrest",
            "GET /berths?a=b c HTTP/1.1\nHost:harbour.example\nno field\nX-Long: one\n\ttwo\n\nrest",
        ] {
            let head = Head::read(text.as_bytes()).unwrap();
            assert_eq!(head.start, Start::Request("GET", "/berths?a=b c", "HTTP/1.1"));
            let fields: Vec<_> = head.headers.iter().collect();
            assert_eq!(fields, [("Host", "harbour.example"), ("X-Long", "one two")]);
            assert_eq!(&text[head.length..], "rest");
        }
        assert!(Head::read(b"GET / HTTP/1.1\r\nHost: x\r\n").is_none());
    }

    #[test]
    fn a_first_line_is_one_of_two() {
        for (line, start) in [
            ("HTTP/1.1 404 Not Found", Some(Start::Response("HTTP/1.1", 404, "Not Found"))),
            ("HTTP/1.1 520 ", Some(Start::Response("HTTP/1.1", 520, ""))),
            ("HTTP/2 200", Some(Start::Response("HTTP/2", 200, ""))),
            ("HTTP/1.1 20", None),
            ("HTTP/1.1 0200 OK", None),
            ("OPTIONS * HTTP/1.1", Some(Start::Request("OPTIONS", "*", "HTTP/1.1"))),
            ("GET /", None),
            ("<p>GET / HTTP/1.1", None),
            ("", None),
        ] {
            assert_eq!(start_line(line.as_bytes()), start, "{line}");
        }
    }
}
