//! An exchange as HTTP/1.1 messages (RFC 9112).

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::io::{self, Write};

use super::omission::leave_out;
use super::record::ExchangeRecord;
use faithful_clerk_model::exchange::{BodyContent, RequestBody, Response, ResponseBody};
use faithful_clerk_model::headers::{Headers, is_token};

/// Header fields that have to fit what stands behind them.
const FRAMING: [&str; 2] = ["content-length", "transfer-encoding"];

/// Is the end of a message told by what stands around it, or has it to tell that itself?
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum MessageEnd {
    /// By what stands around it; its header fields stay as they were.
    Outside,
    /// By itself; its header fields are made to fit.
    Itself,
}

/// Writes both messages, one behind the other; `false` if that can't be, as there is no response.
pub(super) fn write(
    record: &ExchangeRecord<'_>,
    sink: &mut impl Write,
    left_out: &mut BTreeMap<&'static str, u64>,
) -> io::Result<bool> {
    let Some(response) = &record.exchange.response else {
        leave_out(left_out, "exchanges without a response");
        return Ok(false);
    };
    if record.started.is_some() {
        leave_out(left_out, "when it was");
    }
    if record.server.is_some() {
        leave_out(left_out, "the server's address");
    }
    if record.exchange.request.url.contains("://") {
        leave_out(left_out, "the scheme");
    }
    sink.write_all(&request(record, MessageEnd::Itself, left_out))?;
    sink.write_all(&response_bytes(record, response, MessageEnd::Itself, left_out))?;
    Ok(true)
}

/// The request.
pub(super) fn request(
    record: &ExchangeRecord<'_>,
    framed: MessageEnd,
    left_out: &mut BTreeMap<&'static str, u64>,
) -> Vec<u8> {
    let request = &record.exchange.request;
    let url = request.url.split('#').next().unwrap_or_default();
    let (host, target) = match url.split_once("//") {
        Some((_, rest)) => match rest.find(['/', '?']) {
            Some(at) => rest.split_at(at),
            None => (rest, "/"),
        },
        None => ("", url),
    };
    // What can't stand in a first line is left out of it.
    let is_odd = |c: char| c.is_control() || c == ' ';
    let plain = |text: &str| text.replace(is_odd, "%20");
    if framed == MessageEnd::Itself && (url.len() < request.url.len() || host.contains('@')) {
        leave_out(left_out, "fragments of URLs, and user information in them");
    }
    if target.contains(is_odd) {
        leave_out(left_out, "spaces and control characters in URLs, written as %20");
    }
    let slash = if target.starts_with('?') { "/" } else { "" };
    let mut head = format!("{} {slash}{} HTTP/1.1\r\n", plain(&request.method), plain(target));
    if !host.is_empty() && !request.headers.has("host") {
        let host = host.rsplit('@').next().unwrap_or_default();
        head.push_str(&format!("Host: {host}\r\n"));
    }
    let body = match &request.body {
        RequestBody::Present(content) => Some(wire(content)),
        RequestBody::Blank => Some(Cow::Borrowed(&b" "[..])),
        RequestBody::Absent => Some(Cow::Borrowed(&b""[..])),
        RequestBody::NotRecorded => None,
    };
    let is_empty = body.as_ref().is_some_and(|body| body.is_empty());
    let media = request.recorded_media.as_deref().filter(|_| !is_empty);
    fields(&mut head, request.headers.iter(), media, framed, left_out);
    match &body {
        None if framed == MessageEnd::Itself => {
            head.push_str(not_kept(&request.headers, left_out));
        }
        Some(body) if framed == MessageEnd::Itself && !is_empty => {
            head.push_str(&format!("Content-Length: {}\r\n", body.len()));
        }
        None | Some(_) => {}
    }
    let body = on_the_wire(body, &request.headers, framed);
    [head.as_bytes(), b"\r\n", &body].concat()
}

/// A body as its header fields say that it is: an archive keeps those of chunks, and so they have to be there.
fn on_the_wire<'b>(
    body: Option<Cow<'b, [u8]>>,
    headers: &Headers<'_>,
    framed: MessageEnd,
) -> Cow<'b, [u8]> {
    let codings = headers.all("transfer-encoding").last().unwrap_or_default();
    let is_chunked = codings.to_ascii_lowercase().ends_with("chunked");
    match body {
        Some(body) if framed == MessageEnd::Outside && is_chunked => {
            let last = b"0\r\n\r\n";
            let size = format!("{:x}\r\n", body.len());
            let chunk = [size.as_bytes(), &body, b"\r\n"].concat();
            Cow::Owned(if body.is_empty() { last.to_vec() } else { [&chunk, &last[..]].concat() })
        }
        body => body.unwrap_or_default(),
    }
}

/// What says that a body is not there, though there was one: chunks that don't come. Our reader takes a head without
/// anything behind it so.
fn not_kept(headers: &Headers<'_>, left_out: &mut BTreeMap<&'static str, u64>) -> &'static str {
    if headers.content_length().is_some() {
        leave_out(left_out, "the length of a body that was not recorded");
    }
    "Transfer-Encoding: chunked\r\n"
}

/// The response.
pub(super) fn response_bytes(
    record: &ExchangeRecord<'_>,
    response: &Response<'_>,
    framed: MessageEnd,
    left_out: &mut BTreeMap<&'static str, u64>,
) -> Vec<u8> {
    let phrase = record.phrase.as_deref().unwrap_or_default();
    let phrase: String = phrase.chars().filter(|c| !c.is_control()).collect();
    let mut head = format!("HTTP/1.1 {:03} {phrase}\r\n", response.status);
    let body = match &response.body {
        ResponseBody::Present(content) => Some(wire(content)),
        ResponseBody::Empty => Some(Cow::Borrowed(&b""[..])),
        ResponseBody::Truncated => {
            if framed == MessageEnd::Itself {
                leave_out(
                    left_out,
                    "that a response broke off: its body is written as not recorded",
                );
            }
            None
        }
        ResponseBody::NotRecorded => None,
    };
    let has_none = record.exchange.request.method == "HEAD"
        || matches!(response.status, 100..=199 | 204 | 304);
    let has_body = body.as_ref().is_none_or(|body| !body.is_empty());
    let media = response.recorded_media.as_deref().filter(|_| has_body);
    if has_none && framed == MessageEnd::Itself {
        if has_body {
            leave_out(left_out, "bodies of responses that can't have one");
        }
        fields(&mut head, response.headers.iter(), media, MessageEnd::Outside, left_out);
        return [head.as_bytes(), b"\r\n"].concat();
    }
    // What announces a body that never was would be read as one that is missing.
    let announced = response.headers.content_length().unwrap_or_default();
    let is_misfit = framed == MessageEnd::Outside
        && !has_none
        && announced > 0
        && body.as_ref().is_some_and(|body| body.is_empty());
    if is_misfit {
        leave_out(left_out, "the length of a body that is empty");
    }
    let headers = response.headers.iter();
    let kept =
        headers.filter(|(name, _)| !(is_misfit && name.eq_ignore_ascii_case("content-length")));
    fields(&mut head, kept, media, framed, left_out);
    match &body {
        None if framed == MessageEnd::Itself => {
            head.push_str(not_kept(&response.headers, left_out));
        }
        Some(body) if framed == MessageEnd::Itself => {
            head.push_str(&format!("Content-Length: {}\r\n", body.len()));
        }
        None | Some(_) => {}
    }
    let body = if has_none {
        body.unwrap_or_default()
    } else {
        on_the_wire(body, &response.headers, framed)
    };
    [head.as_bytes(), b"\r\n", &body].concat()
}

/// A body as it goes over the wire: codings that the recording still has are left.
fn wire<'c>(content: &'c BodyContent<'_>) -> Cow<'c, [u8]> {
    let content = match content {
        BodyContent::Coded(coded, _) => coded,
        content => content,
    };
    content.decode().unwrap_or_default()
}

fn fields<'h>(
    head: &mut String,
    headers: impl Iterator<Item = (&'h str, &'h str)>,
    media: Option<&str>,
    framed: MessageEnd,
    left_out: &mut BTreeMap<&'static str, u64>,
) {
    let mut has_media = false;
    for (name, value) in headers {
        let is_framing = FRAMING.iter().any(|framing| name.eq_ignore_ascii_case(framing));
        if !is_token(name) {
            leave_out(left_out, "header fields that HTTP/1.1 can't hold");
        } else if framed == MessageEnd::Itself && is_framing {
            if name.eq_ignore_ascii_case("transfer-encoding") {
                leave_out(left_out, "transfer codings");
            }
        } else {
            has_media |= name.eq_ignore_ascii_case("content-type");
            // Recorders join what sets cookies by line ends.
            let is_joined = name.eq_ignore_ascii_case("set-cookie");
            for value in value.split(|c| is_joined && c == '\n') {
                if value.contains(char::is_control) {
                    leave_out(left_out, "control characters in header fields");
                }
                let value: String =
                    value.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
                head.push_str(&format!("{name}: {value}\r\n"));
            }
        }
    }
    // A media type that only the recording told would be lost.
    if let Some(media) = media.filter(|media| !has_media && !media.contains(char::is_control)) {
        head.push_str(&format!("Content-Type: {media}\r\n"));
    }
}
