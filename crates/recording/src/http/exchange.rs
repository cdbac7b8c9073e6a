//! Two messages, read into an exchange.

use std::borrow::Cow;

use super::chunks::unchunked;
use super::frame::{BodyLength, framing};
use super::head::{Head, Start};
use super::{BodyExtent, MessageRanges};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody, Timing,
};
use faithful_clerk_model::headers::Headers;

/// Reads the messages of one exchange.
///
/// # Errors
/// What they lack or have wrong.
pub(crate) fn exchange<'a>(
    messages: &MessageRanges,
    bytes: &'a [u8],
    address: Address,
) -> Result<Exchange<'a>, String> {
    let asked = bytes.get(messages.request.clone()).unwrap_or_default();
    let head = Head::read(asked).ok_or("the request's head can't be read")?;
    let Start::Request(method, target, _) = head.start else {
        return Err("a response where a request is expected".to_owned());
    };
    let url = match &messages.url {
        Some(url) => Cow::Owned(url.clone()),
        None => url(target, &head.headers),
    };
    let body = request_body(&head, asked, messages);
    let request = Request {
        method: Cow::Borrowed(method),
        url,
        headers: head.headers,
        body,
        recorded_media: None,
    };
    let told = messages.response.as_ref().and_then(|response| bytes.get(response.clone()));
    let response = match told {
        None | Some([]) => None,
        Some(told) => Some(response(told, method, messages)?),
    };
    let timing = Timing::default();
    Ok(Exchange {
        address,
        offset: 0,
        request,
        response,
        no_response: None,
        timing,
        intended: None,
    })
}

/// The URL of a request (RFC 9112 section 3.3). The scheme is not in the message: what follows it, from
/// `//` on, stands for both.
fn url<'a>(target: &'a str, headers: &Headers<'_>) -> Cow<'a, str> {
    match headers.get("host").filter(|host| !host.is_empty()) {
        Some(host) if target.starts_with('/') => Cow::Owned(format!("//{host}{target}")),
        Some(host) if target == "*" => Cow::Owned(format!("//{host}")),
        _ => Cow::Borrowed(target),
    }
}

fn request_body<'a>(
    head: &Head<'a>,
    message: &'a [u8],
    messages: &MessageRanges,
) -> RequestBody<'a> {
    if messages.request_body != BodyExtent::Whole {
        return RequestBody::NotRecorded;
    }
    match body(head, message, "", messages.is_enclosed) {
        None => RequestBody::Absent,
        Some(content) if content.first_byte().is_some() => RequestBody::Present(content),
        Some(content) if content.decode().is_err() => RequestBody::NotRecorded,
        Some(_) => RequestBody::Blank,
    }
}

fn response<'a>(
    told: &'a [u8],
    method: &str,
    messages: &MessageRanges,
) -> Result<Response<'a>, String> {
    let head = Head::read(told).ok_or("the head of the response can't be read")?;
    let Start::Response(_, status, _) = head.start else {
        return Err("a request where a response is expected".to_owned());
    };
    let body = match (messages.response_body, body(&head, told, method, messages.is_enclosed)) {
        (BodyExtent::BrokenOff, _) => ResponseBody::Truncated,
        (BodyExtent::NotKept, _) => ResponseBody::NotRecorded,
        (BodyExtent::Whole, None) => ResponseBody::Empty,
        (BodyExtent::Whole, Some(content)) => ResponseBody::Present(content),
    };
    Ok(Response { status, headers: head.headers, recorded_media: None, body })
}

/// The content of a message, its chunks put together.
///
/// Some crawlers leave `Transfer-Encoding` where they undid it: what is not chunked is content as it is.
fn body<'a>(
    head: &Head<'a>,
    message: &'a [u8],
    method: &str,
    is_enclosed: bool,
) -> Option<BodyContent<'a>> {
    let body = message.get(head.length..).filter(|body| !body.is_empty())?;
    let bytes = match framing(head, method) {
        // What stands in its own block was sent, whatever the rules say.
        BodyLength::Nothing if is_enclosed => Cow::Borrowed(body),
        BodyLength::Nothing => return None,
        BodyLength::Chunked => unchunked(body).map_or(Cow::Borrowed(body), Cow::Owned),
        BodyLength::Length(_) | BodyLength::UntilClose => Cow::Borrowed(body),
    };
    if bytes.is_empty() {
        return None;
    }
    Some(BodyContent::Bytes(bytes).coded(head.headers.get("content-encoding")))
}
