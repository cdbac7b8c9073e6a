//! The heads of messages: read for what matters, and passed on as they are but for four things.
//!
//! - The target gets the base path of the service in front.
//! - `Host` is the service's own name.
//! - What would ask for HTTP/2 on the connection (`Upgrade: h2c`, and what goes with it) is left out, which a
//!   server may always do (RFC 9110 section 7.8).
//! - What a client says to a proxy is for the proxy.

use super::framing::BodyFraming;
use super::target::{ForwardTarget, ResolvedTarget};

/// A head is no longer than this.
pub(super) const LONGEST_HEAD: usize = 64 << 10;

/// A head has no more fields than this.
pub(super) const MOST_FIELDS: usize = 256;

/// A header field, as text.
pub(super) type Field = (String, String);

/// A client's request.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct RequestHead {
    pub(super) method: String,
    pub(super) to: ResolvedTarget,
    pub(super) version: &'static str,
    pub(super) headers: Vec<Field>,
    pub(super) framing: BodyFraming,
    pub(super) closes: bool,
    /// The protocol that the client would rather speak, where it may.
    pub(super) upgrade: Option<String>,
    /// The head as it goes to the service.
    pub(super) bytes: Vec<u8>,
}

/// What the service responded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct ResponseHead {
    pub(super) status: u16,
    pub(super) phrase: String,
    pub(super) version: &'static str,
    pub(super) headers: Vec<Field>,
    pub(super) framing: BodyFraming,
    pub(super) closes: bool,
}

/// A head that was read, and how long it is; none where more has to come.
pub(super) type Reading<T> = Result<Option<(T, usize)>, HeadError>;

/// Why a head cannot be forwarded: a status to respond with, and words for it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct HeadError {
    pub(super) status: u16,
    pub(super) words: String,
}

fn refusal(status: u16, words: impl Into<String>) -> HeadError {
    HeadError { status, words: words.into() }
}

/// Reads a request's head, if all of it is there.
pub(super) fn asked(bytes: &[u8], goal: ForwardTarget<'_>) -> Reading<RequestHead> {
    if bytes.starts_with(b"PRI * HTTP/2.0") {
        return Err(refusal(505, "HTTP/1.1 is spoken here, and nothing else"));
    }
    let mut fields = [httparse::EMPTY_HEADER; MOST_FIELDS];
    let mut head = httparse::Request::new(&mut fields);
    let length = match head.parse(bytes) {
        Ok(httparse::Status::Complete(length)) => length,
        Ok(httparse::Status::Partial) if bytes.len() < LONGEST_HEAD => return Ok(None),
        Ok(httparse::Status::Partial) | Err(httparse::Error::TooManyHeaders) => {
            return Err(refusal(431, "the head of the request is too long"));
        }
        Err(error) => return Err(refusal(400, format!("this is not a request: {error}"))),
    };
    let method = head.method.unwrap_or_default().to_owned();
    let headers = texts(head.headers);
    let path = head.path.unwrap_or_default();
    let to = match (method.as_str(), goal) {
        ("CONNECT", ForwardTarget::Service { .. }) => {
            return Err(refusal(501, "tunnels are for a proxy, and this is none"));
        }
        // It names host and port alone (RFC 9112 section 3.2.3).
        ("CONNECT", ForwardTarget::Requested) => goal.of(&format!("http://{path}"))?,
        _ => goal.of(path)?,
    };
    if let Some((_, host)) = headers.iter().find(|(name, _)| name.eq_ignore_ascii_case("host")) {
        goal.admits(host)?;
    }
    let upgrade = upgrade(&headers);
    let version = version(head.version);
    let framing = match framing(&headers)? {
        Some(framing) => framing,
        None => BodyFraming::NONE,
    };
    let lines = bytes.get(..length).unwrap_or_default().split_inclusive(|byte| *byte == b'\n');
    let mut passed = format!("{method} {} {version}\r\n", to.target).into_bytes();
    let mut has_host = false;
    // Empty lines may stand before a request (RFC 9112 section 2.2).
    let mut lines = lines.skip_while(|line| line.trim_ascii().is_empty()).skip(1);
    for line in lines.by_ref().take_while(|line| !line.trim_ascii().is_empty()) {
        match field_line(line, upgrade.is_some()) {
            FieldLine::AsItIs => passed.extend_from_slice(line),
            FieldLine::Host if has_host => {}
            FieldLine::Host => {
                has_host = true;
                let name = line.get(..4).unwrap_or_default();
                passed.extend_from_slice(name);
                passed.extend_from_slice(format!(": {}\r\n", to.authority).as_bytes());
            }
            FieldLine::Other(other) => passed.extend_from_slice(&other),
        }
    }
    if !has_host {
        passed.extend_from_slice(format!("Host: {}\r\n", to.authority).as_bytes());
    }
    passed.extend_from_slice(b"\r\n");
    let closes = closes(&headers, version);
    let headers = recorded(&passed);
    Ok(Some((
        RequestHead { method, to, version, headers, framing, closes, upgrade, bytes: passed },
        length,
    )))
}

/// What becomes of a field's line.
enum FieldLine {
    AsItIs,
    Host,
    /// Another line, or none at all.
    Other(Vec<u8>),
}

fn field_line(line: &[u8], keeps_upgrade: bool) -> FieldLine {
    let colon = line.iter().position(|byte| *byte == b':').unwrap_or(line.len());
    let (name, value) = line.split_at(colon);
    let is = |known: &str| name.eq_ignore_ascii_case(known.as_bytes());
    if is("host") {
        return FieldLine::Host;
    }
    if is("proxy-connection") || is("proxy-authorization") {
        return FieldLine::Other(Vec::new());
    }
    if !keeps_upgrade && (is("upgrade") || is("http2-settings")) {
        return FieldLine::Other(Vec::new());
    }
    let value = value.get(1..).unwrap_or_default().trim_ascii();
    match (is("connection") && !keeps_upgrade).then(|| without_upgrade(value)).flatten() {
        None => FieldLine::AsItIs,
        Some(left) if left.is_empty() => FieldLine::Other(Vec::new()),
        Some(left) => FieldLine::Other([name, b": ", &left, b"\r\n"].concat()),
    }
}

/// The protocol that a client would switch to, if it can be one that passes through: not HTTP/2, of which nothing could be
/// recorded.
fn upgrade(headers: &[Field]) -> Option<String> {
    let is_asked = words(headers, "connection").any(|word| word == "upgrade");
    let protocols: Vec<String> = words(headers, "upgrade").collect();
    let is_http2 = |protocol: &String| protocol.split('/').next() == Some("h2c");
    let is_one = is_asked && !protocols.iter().any(is_http2);
    protocols.into_iter().next().filter(|_| is_one)
}

/// The fields of a head that was just written, as they are recorded: what was sent is what counts.
fn recorded(head: &[u8]) -> Vec<Field> {
    let mut fields = [httparse::EMPTY_HEADER; MOST_FIELDS + 1];
    let mut parsed = httparse::Request::new(&mut fields);
    match parsed.parse(head) {
        Ok(_) => texts(parsed.headers),
        Err(_) => Vec::new(),
    }
}

/// Reads a response's head, if all of it is there. `method` is the request's: a response to HEAD has no body.
pub(super) fn answered(bytes: &[u8], method: &str) -> Reading<ResponseHead> {
    let mut fields = [httparse::EMPTY_HEADER; MOST_FIELDS];
    let mut head = httparse::Response::new(&mut fields);
    let mut lenient = httparse::ParserConfig::default();
    lenient
        .allow_spaces_after_header_name_in_responses(true)
        .allow_obsolete_multiline_headers_in_responses(true);
    let length = match lenient.parse_response(&mut head, bytes) {
        Ok(httparse::Status::Complete(length)) => length,
        Ok(httparse::Status::Partial) if bytes.len() < LONGEST_HEAD => return Ok(None),
        Ok(httparse::Status::Partial) | Err(httparse::Error::TooManyHeaders) => {
            return Err(refusal(502, "the head of the response has no end"));
        }
        Err(error) => return Err(refusal(502, format!("this is not HTTP/1.1: {error}"))),
    };
    let status = head.code.unwrap_or_default();
    let (headers, version) = (texts(head.headers), version(head.version));
    let bodiless = method == "HEAD" || matches!(status, 100..=199 | 204 | 304);
    let framing = match framing(&headers) {
        _ if bodiless => BodyFraming::NONE,
        Ok(Some(framing)) => framing,
        Ok(None) => BodyFraming::UntilClose,
        Err(refused) => return Err(refusal(502, refused.words)),
    };
    let closes = framing == BodyFraming::UntilClose || closes(&headers, version);
    let phrase = head.reason.unwrap_or_default().to_owned();
    Ok(Some((ResponseHead { status, phrase, version, headers, framing, closes }, length)))
}

pub(super) fn texts(fields: &[httparse::Header<'_>]) -> Vec<Field> {
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    fields.iter().map(|field| (field.name.to_owned(), text(field.value))).collect()
}

fn version(minor: Option<u8>) -> &'static str {
    if minor == Some(0) { "HTTP/1.0" } else { "HTTP/1.1" }
}

/// All values of a field that is a list, in lower case.
fn words<'f>(headers: &'f [Field], name: &'f str) -> impl Iterator<Item = String> + 'f {
    let named = headers.iter().filter(move |(known, _)| known.eq_ignore_ascii_case(name));
    let split = named.flat_map(|(_, value)| value.split(','));
    split.map(|word| word.trim().to_ascii_lowercase()).filter(|word| !word.is_empty())
}

/// How the body ends, where the head says it (RFC 9112 section 6.3).
fn framing(headers: &[Field]) -> Result<Option<BodyFraming>, HeadError> {
    if let Some(last) = words(headers, "transfer-encoding").last() {
        return match last.as_str() {
            "chunked" => Ok(Some(BodyFraming::CHUNKED)),
            other => Err(refusal(400, format!("the end of a body in {other} can't be determined"))),
        };
    }
    let mut lengths: Vec<String> = words(headers, "content-length").collect();
    lengths.dedup();
    match lengths.as_slice() {
        [] => Ok(None),
        [length] => match length.parse() {
            Ok(length) if !length_is_odd(lengths.first()) => Ok(Some(BodyFraming::Length(length))),
            _ => Err(refusal(400, "Content-Length is not a number")),
        },
        _ => Err(refusal(400, "Content-Length says two different things")),
    }
}

/// `+5` is a number for a parser, and none for HTTP.
fn length_is_odd(text: Option<&String>) -> bool {
    text.is_none_or(|text| !text.bytes().all(|byte| byte.is_ascii_digit()))
}

/// Will the connection be closed behind this message (RFC 9112 section 9.3)?
fn closes(headers: &[Field], version: &str) -> bool {
    let mut connection = words(headers, "connection");
    if version == "HTTP/1.0" {
        !connection.any(|word| word == "keep-alive")
    } else {
        connection.any(|word| word == "close")
    }
}

/// What is left of a `Connection` field without an upgrade; none if it asks for none.
fn without_upgrade(value: &[u8]) -> Option<Vec<u8>> {
    let text = String::from_utf8_lossy(value);
    let asks = |word: &str| {
        word.eq_ignore_ascii_case("upgrade") || word.eq_ignore_ascii_case("http2-settings")
    };
    let words: Vec<&str> = text.split(',').map(str::trim).collect();
    if !words.iter().any(|word| asks(word)) {
        return None;
    }
    let left: Vec<&str> = words.into_iter().filter(|word| !asks(word)).collect();
    Some(left.join(", ").into_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

    const GOAL: ForwardTarget<'_> = ForwardTarget::Service {
        authority: "harbour.example",
        path: "/v1",
        origin: "https://harbour.example",
        is_local: false,
    };

    fn of(head: &str) -> RequestHead {
        asked(head.as_bytes(), GOAL).unwrap().unwrap().0
    }

    #[test]
    fn a_request_goes_on_as_it_is_but_for_three_things() {
        let head = "GET /berths?a=%20 HTTP/1.1\r\nhost: 127.0.0.1:1\r\nX-Odd:  two  words \r\nUpgrade: h2c\r\n\
                    Connection: Upgrade, HTTP2-Settings, keep-alive\r\nHTTP2-Settings: AAM\r\n\r\n";
        let passed = "GET /v1/berths?a=%20 HTTP/1.1\r\nhost: harbour.example\r\nX-Odd:  two  words \r\n\
                      Connection: keep-alive\r\n\r\n";
        assert_eq!(String::from_utf8_lossy(&of(head).bytes), passed);
        assert_eq!(
            of("GET http://other/x HTTP/1.0\r\n\r\n").bytes,
            b"GET /v1/x HTTP/1.0\r\nHost: harbour.example\r\n\r\n"
        );
        assert_eq!(of("OPTIONS * HTTP/1.1\r\nHost: a\r\n\r\n").to.target, "*");
        assert_eq!(asked(b"GET / HTTP/1.1\r\nHost: a\r\n", GOAL), Ok(None));
    }

    #[test]
    fn another_protocol_is_asked_for_unless_it_is_http_2() {
        let head = |upgrade: &str| {
            of(&format!(
                "GET / HTTP/1.1\r\nHost: a\r\nConnection: keep-alive, Upgrade\r\nUpgrade: {upgrade}\r\n\r\n"
            ))
        };
        let socket = head("websocket");
        assert_eq!(socket.upgrade.as_deref(), Some("websocket"));
        let passed = String::from_utf8(socket.bytes).unwrap();
        assert!(passed.contains("Connection: keep-alive, Upgrade\r\nUpgrade: websocket\r\n"));
        for http2 in ["h2c", "websocket, h2c"] {
            let without = head(http2);
            let passed = String::from_utf8(without.bytes).unwrap();
            assert_eq!((without.upgrade, passed.contains("pgrade")), (None, false), "{passed}");
        }
        let proxied = "GET http://a/x HTTP/1.1\r\nProxy-Authorization: Basic x\r\nProxy-Connection: close\r\n\r\n";
        let (proxied, _) = asked(proxied.as_bytes(), ForwardTarget::Requested).unwrap().unwrap();
        assert_eq!(proxied.bytes, b"GET /x HTTP/1.1\r\nHost: a\r\n\r\n");
    }

    #[test]
    fn where_a_body_ends_is_told_or_the_message_is_refused() {
        let framing = |fields: &str| {
            let head = format!("POST / HTTP/1.1\r\n{fields}\r\n");
            asked(head.as_bytes(), GOAL).map(|read| read.unwrap().0.framing)
        };
        assert_eq!(framing(""), Ok(BodyFraming::NONE));
        assert_eq!(framing("Content-Length: 12\r\n"), Ok(BodyFraming::Length(12)));
        assert_eq!(framing("Content-Length: 12, 12\r\n"), Ok(BodyFraming::Length(12)));
        assert_eq!(
            framing("Transfer-Encoding: gzip, chunked\r\nContent-Length: 3\r\n"),
            Ok(BodyFraming::CHUNKED)
        );
        for fields in ["Content-Length: 1\r\nContent-Length: 2\r\n", "Content-Length: +5\r\n"] {
            assert_eq!(framing(fields).unwrap_err().status, 400, "{fields}");
        }
        assert_eq!(framing("Transfer-Encoding: gzip\r\n").unwrap_err().status, 400);
        let answer = |head: &str, method| answered(head.as_bytes(), method).unwrap().unwrap().0;
        let long = "HTTP/1.1 200 OK\r\nContent-Length: 9\r\n\r\n";
        assert_eq!(answer(long, "GET").framing, BodyFraming::Length(9));
        assert_eq!(answer(long, "HEAD").framing, BodyFraming::NONE);
        let bare = answer("HTTP/1.1 200\r\n\r\n", "GET");
        assert_eq!((bare.framing, bare.closes), (BodyFraming::UntilClose, true));
        assert_eq!(answer("HTTP/1.1 204 No Content\r\n\r\n", "GET").framing, BodyFraming::NONE);
    }

    #[test]
    fn what_is_no_head_is_refused() {
        for (head, status) in [
            ("nonsense\r\n\r\n", 400),
            ("CONNECT a:1 HTTP/1.1\r\n\r\n", 501),
            ("PRI * HTTP/2.0\r\n\r\nSM\r\n\r\n", 505),
        ] {
            assert_eq!(asked(head.as_bytes(), GOAL).unwrap_err().status, status, "{head}");
        }
        let endless = format!("GET / HTTP/1.1\r\nA: {}", "x".repeat(LONGEST_HEAD));
        assert_eq!(asked(endless.as_bytes(), GOAL).unwrap_err().status, 431);
        assert!(answered(b"\x00\xff\r\n\r\n", "GET").is_err());
    }
}
