//! Writes an exchange as a HAR entry.

use std::fmt::Write as _;

use crate::chance::Chance;
use crate::exchange::MadeExchange;
use crate::stream::Mould;

/// Writes the value of a member.
type Value<'m> = Box<dyn Fn(&mut EntryWriter<'_>) + 'm>;
type HarMember<'m> = (&'static str, Value<'m>);

/// Where it is written to: compact, or each member on a line of its own.
pub(crate) struct EntryWriter<'t> {
    text: &'t mut String,
    /// The depth of nesting, where it is pretty.
    depth: Option<usize>,
    first: bool,
}

impl<'t> EntryWriter<'t> {
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

    fn text_value(&mut self, value: &str) {
        let _ = write!(self.text, "\"{value}\"");
    }

    fn raw_value(&mut self, value: &str) {
        self.text.push_str(value);
    }

    fn object(&mut self, members: Vec<HarMember<'_>>) {
        self.open('{');
        for (name, value) in members {
            self.name(name);
            value(self);
        }
        self.close('}');
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
        for location in 0..4 {
            let digit = (bits >> (18 - 6 * location) & 63) as usize;
            text.push(if location > three.len() { '=' } else { char::from(DIGITS[digit]) });
        }
    }
    text
}

/// Writes one entry, as software of that mould does.
pub(crate) fn write(
    it: &MadeExchange,
    mould: Mould,
    chance: &mut Chance,
    to: &mut EntryWriter<'_>,
) {
    let facts = ExchangeFacts::of(it, chance);
    let mut members: Vec<HarMember<'_>> = vec![
        ("startedDateTime", Box::new(|to| to.text_value(&facts.started))),
        ("time", Box::new(|to| to.raw_value(&facts.time))),
        ("request", Box::new(|to| request(it, &facts, mould, to))),
        ("response", Box::new(|to| response(it, &facts, mould, to))),
        ("cache", Box::new(|to| to.object(Vec::new()))),
        ("timings", Box::new(|to| timings(&facts, to))),
        ("serverIPAddress", Box::new(|to| to.text_value("192.0.2.10"))),
        ("connection", Box::new(|to| to.text_value("4100"))),
    ];
    match mould {
        Mould::Gateway => members.push(("pageref", Box::new(|to| to.text_value("page_1")))),
        Mould::DevTools => {
            members.push(("pageref", Box::new(|to| to.text_value("page_1"))));
            members.push(("_initiator", Box::new(|to| initiator(&facts, to))));
            members.push(("_priority", Box::new(|to| to.text_value("High"))));
            members.push(("_resourceType", Box::new(|to| to.text_value("fetch"))));
            members.sort_by_key(|(name, _)| *name);
        }
        Mould::Proxy => members.reverse(),
        Mould::Ragged => ragged(&mut members, &facts, 0),
    }
    to.object(members);
}

/// What differs from exchange to exchange beside the exchange itself.
struct ExchangeFacts {
    id: String,
    tag: String,
    date: String,
    started: String,
    time: String,
    wait: u64,
    url: String,
    /// Decides what a ragged entry has, and how deep the stack of an initiator is.
    seed: u64,
}

impl ExchangeFacts {
    fn of(it: &MadeExchange, chance: &mut Chance) -> Self {
        let minute = chance.below(60);
        let id = format!("{:016x}{:08x}", chance.next(), chance.below(1 << 32));
        let wait = chance.below(90);
        let (second, fraction) = (chance.below(60), chance.below(1000));
        Self {
            id,
            tag: format!("\\\"{:x}\\\"", chance.next()),
            date: format!("Mon, 08 Mar 2027 09:{minute:02}:03 GMT"),
            started: format!("2027-03-08T09:{minute:02}:{second:02}.{fraction:03}Z"),
            time: format!("{}.{}", wait + 3, chance.below(1_000_000)),
            wait,
            url: format!("https://harbour.example/v1{}", it.path),
            seed: chance.next(),
        }
    }
}

/// Members that some recorder or other adds, and another order: no two entries alike.
fn ragged<'m>(members: &mut Vec<HarMember<'m>>, facts: &'m ExchangeFacts, salt: u64) {
    let mut chance = Chance::new(facts.seed ^ salt);
    for number in 0..chance.below(4) {
        let kind = chance.below(5);
        let value: Value<'m> = match kind {
            0 => Box::new(|to| to.raw_value("null")),
            1 => Box::new(|to| to.raw_value("true")),
            2 => Box::new(|to| to.raw_value("-0.5e3")),
            3 => Box::new(|to| initiator(facts, to)),
            _ => Box::new(|to| to.text_value(r#"a \"word\" and \u00e9"#)),
        };
        let names = ["comment", "_note", "_securityState", "_request_id", "_was_pushed", "_x"];
        let name = names[usize::try_from((number + chance.below(6)) % 6).unwrap_or_default()];
        if members.iter().all(|(known, _)| *known != name) {
            members.push((name, value));
        }
    }
    for at in (1..members.len()).rev() {
        let other = usize::try_from(chance.below(at as u64 + 1)).unwrap_or_default();
        members.swap(at, other);
    }
}

/// Who sent the request, as a browser tells it: frames of a stack, with the stack that called it, and so on.
fn initiator(facts: &ExchangeFacts, to: &mut EntryWriter<'_>) {
    fn stack(depth: u64, to: &mut EntryWriter<'_>) {
        to.open('{');
        to.name("callFrames");
        to.open('[');
        for frame in 0..=depth % 3 {
            to.item();
            to.open('{');
            to.string("functionName", "loadBerths");
            to.number("scriptId", 41 + frame);
            to.string("url", "https://harbour.example/office/app.js");
            to.number("lineNumber", 120 + depth * 7);
            to.number("columnNumber", 17 + frame);
            to.close('}');
        }
        to.close(']');
        if depth > 0 {
            to.name("parent");
            stack(depth - 1, to);
        }
        to.close('}');
    }
    to.open('{');
    to.string("type", "script");
    to.name("stack");
    stack(facts.seed % 4, to);
    to.close('}');
}

fn timings(facts: &ExchangeFacts, to: &mut EntryWriter<'_>) {
    to.open('{');
    for name in ["blocked", "dns", "connect", "ssl"] {
        to.name(name);
        to.raw_value("-1");
    }
    for (name, value) in [("send", 1), ("wait", facts.wait), ("receive", 2)] {
        to.number(name, value);
    }
    to.close('}');
}

/// Header fields as software of that mould writes them.
fn fields(fields: &[(&str, &str)], mould: Mould, to: &mut EntryWriter<'_>) {
    to.open('[');
    for (name, value) in fields {
        let name =
            if mould == Mould::Gateway { (*name).to_owned() } else { name.to_ascii_lowercase() };
        to.item();
        to.open('{');
        if mould == Mould::Proxy {
            to.string("value", value);
            to.string("name", &name);
        } else {
            to.string("name", &name);
            to.string("value", value);
        }
        to.close('}');
    }
    to.close(']');
}

fn request(it: &MadeExchange, facts: &ExchangeFacts, mould: Mould, to: &mut EntryWriter<'_>) {
    let id = &facts.id;
    let view = format!("view-{id}");
    let token = format!("Bearer {id}{id}");
    let cookies = format!("harbour_view={view}; harbour_units=metric");
    let mut headers = match mould {
        Mould::DevTools => vec![
            (":authority", "harbour.example"),
            (":method", it.method),
            (":path", it.path.as_str()),
            (":scheme", "https"),
        ],
        _ => vec![("Host", "harbour.example")],
    };
    headers.extend([
        ("Accept", "application/json, application/problem+json"),
        ("Accept-Encoding", "gzip, deflate, br"),
        ("Accept-Language", "en-GB,en;q=0.8"),
        (
            "User-Agent",
            "harbour-office/3.2.118 (quay terminal 7; north basin; 1280x800) tide/7.4.2 chart/2.0 (like a sextant)",
        ),
        ("Traceparent", "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01"),
        ("Cookie", &cookies),
    ]);
    if it.has_token {
        headers.push(("Authorization", &token));
    }
    if let Some((media, _)) = &it.sent {
        headers.push(("Content-Type", media));
    }
    let query = it.path.split_once('?').map_or("", |(_, query)| query);
    let parameters: Vec<_> = query.split('&').filter_map(|one| one.split_once('=')).collect();
    let sizes = [headers_size(&headers), it.sent.as_ref().map_or(0, |(_, text)| text.len() as u64)];
    let version = if mould == Mould::DevTools { "http/2.0" } else { "HTTP/1.1" };
    let cookies = [("harbour_view", view.as_str()), ("harbour_units", "metric")];
    let mut members: Vec<HarMember<'_>> = vec![
        ("method", Box::new(|to| to.text_value(it.method))),
        ("url", Box::new(|to| to.text_value(&facts.url))),
        ("httpVersion", Box::new(|to| to.text_value(version))),
        ("cookies", Box::new(|to| fields(&cookies, mould, to))),
        ("headers", Box::new(|to| fields(&headers, mould, to))),
        ("queryString", Box::new(|to| fields(&parameters, Mould::Gateway, to))),
        ("headersSize", Box::new(|to| size(sizes[0], mould, to))),
    ];
    if let Some((media, text)) = &it.sent {
        let text = escape(text);
        members.push((
            "postData",
            Box::new(move |to| {
                to.open('{');
                to.string("mimeType", media);
                to.string("text", &text);
                to.close('}');
            }),
        ));
    }
    members.push(("bodySize", Box::new(|to| to.raw_value(&sizes[1].to_string()))));
    if mould == Mould::Ragged {
        ragged(&mut members, facts, 1);
    }
    to.object(members);
}

/// A browser does not say sizes of headers.
fn size(size: u64, mould: Mould, to: &mut EntryWriter<'_>) {
    match mould {
        Mould::DevTools => to.raw_value("-1"),
        _ => to.raw_value(&size.to_string()),
    }
}

fn headers_size(headers: &[(&str, &str)]) -> u64 {
    headers.iter().map(|(name, value)| name.len() + value.len() + 4).sum::<usize>() as u64
}

fn response(it: &MadeExchange, facts: &ExchangeFacts, mould: Mould, to: &mut EntryWriter<'_>) {
    let length = it.body.len().to_string();
    let mut headers = vec![
        ("Date", facts.date.as_str()),
        ("Server", "saltmarsh"),
        ("X-Request-Id", facts.id.as_str()),
        ("Cache-Control", "private, no-cache, no-store, max-age=0, must-revalidate"),
        ("Vary", "Accept, Accept-Language"),
        ("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'; base-uri 'none'"),
        ("Strict-Transport-Security", "max-age=31536000; includeSubDomains; preload"),
        ("ETag", facts.tag.as_str()),
    ];
    if !it.body.is_empty() {
        headers.extend([("Content-Type", it.media), ("Content-Length", length.as_str())]);
    }
    headers.extend(it.headers.iter().map(|(name, value)| (*name, value.as_str())));
    let headers_size = headers_size(&headers);
    let mut members: Vec<HarMember<'_>> = vec![
        ("status", Box::new(|to| to.raw_value(&it.status.to_string()))),
        ("statusText", Box::new(|to| to.text_value(it.phrase))),
        ("httpVersion", Box::new(|to| to.text_value("HTTP/1.1"))),
        ("cookies", Box::new(|to| fields(&[], mould, to))),
        ("headers", Box::new(|to| fields(&headers, mould, to))),
        ("content", Box::new(|to| content(it, mould, to))),
        ("redirectURL", Box::new(|to| to.text_value(""))),
        ("headersSize", Box::new(move |to| size(headers_size, mould, to))),
        ("bodySize", Box::new(|to| size(it.body.len() as u64, mould, to))),
    ];
    match mould {
        Mould::Gateway => {}
        Mould::DevTools => {
            members.push(("_transferSize", Box::new(|to| to.raw_value(&length))));
            members.push(("_error", Box::new(|to| to.raw_value("null"))));
            members.push(("_fetchedViaServiceWorker", Box::new(|to| to.raw_value("false"))));
        }
        Mould::Proxy => members.reverse(),
        Mould::Ragged => ragged(&mut members, facts, 2),
    }
    to.object(members);
}

fn content(it: &MadeExchange, mould: Mould, to: &mut EntryWriter<'_>) {
    to.open('{');
    to.number("size", it.body.len() as u64);
    to.string("mimeType", it.media);
    if it.encoded || (mould == Mould::Proxy && !it.body.is_empty()) {
        to.string("text", &base64(it.body.as_bytes()));
        to.string("encoding", "base64");
    } else if !it.body.is_empty() {
        to.string("text", &escape(&it.body));
    }
    to.close('}');
}
