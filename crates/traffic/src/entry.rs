//! Writes an exchange as a HAR entry.

use std::fmt::Write as _;

use crate::chance::Chance;
use crate::exchange::Exchange;

/// Where it is written to: compact, or each member on a line of its own.
pub(crate) struct Writer<'t> {
    text: &'t mut String,
    /// The depth of nesting, where it is pretty.
    depth: Option<usize>,
    first: bool,
}

impl<'t> Writer<'t> {
    pub(crate) fn new(text: &'t mut String, depth: Option<usize>) -> Self {
        Self { text, depth, first: true }
    }

    fn open(&mut self, bracket: char) {
        self.text.push(bracket);
        self.depth = self.depth.map(|depth| depth + 1);
        self.first = true;
    }

    fn close(&mut self, bracket: char) {
        self.depth = self.depth.map(|depth| depth.saturating_sub(1));
        if !self.first {
            self.line();
        }
        self.text.push(bracket);
        self.first = false;
    }

    fn line(&mut self) {
        if let Some(depth) = self.depth {
            self.text.push('\n');
            self.text.extend(std::iter::repeat_n("  ", depth));
        }
    }

    fn item(&mut self) {
        if !std::mem::take(&mut self.first) {
            self.text.push(',');
        }
        self.line();
    }

    fn name(&mut self, name: &str) {
        self.item();
        let space = if self.depth.is_some() { " " } else { "" };
        let _ = write!(self.text, "\"{name}\":{space}");
    }

    fn string(&mut self, name: &str, value: &str) {
        self.name(name);
        let _ = write!(self.text, "\"{value}\"");
    }

    fn number(&mut self, name: &str, value: u64) {
        self.name(name);
        let _ = write!(self.text, "{value}");
    }

    fn list(&mut self, name: &str, pairs: &[(&str, &str)]) {
        self.name(name);
        self.open('[');
        for (name, value) in pairs {
            self.item();
            self.open('{');
            self.string("name", name);
            self.string("value", value);
            self.close('}');
        }
        self.close(']');
    }
}

/// As a JSON string has it, without the quotation marks.
fn escape(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len() + text.len() / 4);
    for c in text.chars() {
        match c {
            '"' => escaped.push_str("\\\""),
            '\\' => escaped.push_str("\\\\"),
            '\n' => escaped.push_str("\\n"),
            c => escaped.push(c),
        }
    }
    escaped
}

fn base64(bytes: &[u8]) -> String {
    const DIGITS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut text = String::with_capacity(bytes.len() * 4 / 3 + 4);
    for three in bytes.chunks(3) {
        let at = |index: usize| u32::from(three.get(index).copied().unwrap_or_default());
        let bits = at(0) << 16 | at(1) << 8 | at(2);
        for place in 0..4 {
            let digit = (bits >> (18 - 6 * place) & 63) as usize;
            text.push(if place > three.len() { '=' } else { char::from(DIGITS[digit]) });
        }
    }
    text
}

/// Writes one entry.
pub(crate) fn write(it: &Exchange, chance: &mut Chance, to: &mut Writer<'_>) {
    let minute = chance.below(60);
    let id = format!("{:016x}{:08x}", chance.next(), chance.below(1 << 32));
    let url = format!("https://harbour.example/v1{}", it.path);
    let wait = chance.below(90);
    to.open('{');
    to.string(
        "startedDateTime",
        &format!("2027-03-08T09:{minute:02}:{:02}.{:03}Z", chance.below(60), chance.below(1000)),
    );
    to.number("time", wait + 3);
    to.name("request");
    request(it, &url, &id, to);
    to.name("response");
    response(it, &id, minute, chance, to);
    to.name("cache");
    to.open('{');
    to.close('}');
    to.name("timings");
    to.open('{');
    for name in ["blocked", "dns", "connect", "ssl"] {
        to.name(name);
        to.text.push_str("-1");
    }
    for (name, value) in [("send", 1), ("wait", wait), ("receive", 2)] {
        to.number(name, value);
    }
    to.close('}');
    to.string("serverIPAddress", "192.0.2.10");
    to.string("connection", "4100");
    to.string("pageref", "page_1");
    to.close('}');
}

fn request(it: &Exchange, url: &str, id: &str, to: &mut Writer<'_>) {
    to.open('{');
    to.string("method", it.method);
    to.string("url", url);
    to.string("httpVersion", "HTTP/1.1");
    let view = format!("view-{id}");
    to.list("cookies", &[("harbour_view", &view), ("harbour_units", "metric")]);
    let token = format!("Bearer {id}{id}");
    let cookies = format!("harbour_view={view}; harbour_units=metric");
    let mut headers = vec![
        ("Host", "harbour.example"),
        ("Accept", "application/json, application/problem+json"),
        ("Accept-Encoding", "gzip, deflate, br"),
        ("Accept-Language", "en-GB,en;q=0.8"),
        (
            "User-Agent",
            "harbour-office/3.2.118 (quay terminal 7; north basin; 1280x800) tide/7.4.2 chart/2.0 (like a sextant)",
        ),
        ("Traceparent", "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01"),
        ("Cookie", &cookies),
    ];
    if it.has_token {
        headers.push(("Authorization", &token));
    }
    if let Some((media, _)) = &it.sent {
        headers.push(("Content-Type", media));
    }
    to.list("headers", &headers);
    let query = it.path.split_once('?').map_or("", |(_, query)| query);
    let parameters: Vec<_> = query.split('&').filter_map(|one| one.split_once('=')).collect();
    to.list("queryString", &parameters);
    to.number(
        "headersSize",
        headers.iter().map(|(name, value)| name.len() + value.len() + 4).sum::<usize>() as u64,
    );
    if let Some((media, text)) = &it.sent {
        to.name("postData");
        to.open('{');
        to.string("mimeType", media);
        to.string("text", &escape(text));
        to.close('}');
    }
    to.number("bodySize", it.sent.as_ref().map_or(0, |(_, text)| text.len() as u64));
    to.close('}');
}

fn response(it: &Exchange, id: &str, minute: u64, chance: &mut Chance, to: &mut Writer<'_>) {
    to.open('{');
    to.number("status", u64::from(it.status));
    to.string("statusText", it.phrase);
    to.string("httpVersion", "HTTP/1.1");
    to.list("cookies", &[]);
    let (length, tag) = (it.body.len().to_string(), format!("\\\"{:x}\\\"", chance.next()));
    let date = format!("Mon, 08 Mar 2027 09:{minute:02}:03 GMT");
    let mut headers = vec![
        ("Date", date.as_str()),
        ("Server", "saltmarsh"),
        ("X-Request-Id", id),
        ("Cache-Control", "private, no-cache, no-store, max-age=0, must-revalidate"),
        ("Vary", "Accept, Accept-Language"),
        ("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'; base-uri 'none'"),
        ("Strict-Transport-Security", "max-age=31536000; includeSubDomains; preload"),
        ("ETag", tag.as_str()),
    ];
    if !it.body.is_empty() {
        headers.extend([("Content-Type", it.media), ("Content-Length", length.as_str())]);
    }
    headers.extend(it.headers.iter().map(|(name, value)| (*name, value.as_str())));
    to.list("headers", &headers);
    to.name("content");
    to.open('{');
    to.number("size", it.body.len() as u64);
    to.string("mimeType", it.media);
    if it.encoded {
        to.string("text", &base64(it.body.as_bytes()));
        to.string("encoding", "base64");
    } else if !it.body.is_empty() {
        to.string("text", &escape(&it.body));
    }
    to.close('}');
    to.string("redirectURL", "");
    to.number(
        "headersSize",
        headers.iter().map(|(name, value)| name.len() + value.len() + 4).sum::<usize>() as u64,
    );
    to.number("bodySize", it.body.len() as u64);
    to.close('}');
}
