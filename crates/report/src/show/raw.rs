//! An exchange as the messages that were sent (RFC 9112), as far as the recording holds them.

use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::exchange::{BodyContent, RequestBody, ResponseBody};
use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_model::status;
use faithful_clerk_scrub::hidden_body;

use super::header_value;

/// Request and response, one after the other, an empty line between them. Secrets are masked, and bodies that are not text are told by
/// their length; all else is to the byte as the recording has it.
#[must_use]
pub fn raw(exchange: &Exchange<'_>) -> Vec<u8> {
    let request = &exchange.request;
    let mut bytes =
        format!("{} {} HTTP/1.1\r\n", request.method, masked(&request.url)).into_bytes();
    headers(&request.headers, &mut bytes);
    if let RequestBody::Present(content) = &request.body {
        body(content, request.media(), false, &mut bytes);
    }
    bytes.extend(b"\r\n");
    if let Some(response) = &exchange.response {
        let phrase = status::phrase(response.status).unwrap_or_default();
        bytes.extend(format!("\r\nHTTP/1.1 {} {phrase}\r\n", response.status).into_bytes());
        headers(&response.headers, &mut bytes);
        if let ResponseBody::Present(content) = &response.body {
            body(content, response.media(), response.status >= 400, &mut bytes);
        }
    }
    bytes
}

fn headers(headers: &Headers<'_>, bytes: &mut Vec<u8>) {
    for (name, value) in headers.iter() {
        bytes.extend(format!("{name}: {}\r\n", header_value(name, value)).into_bytes());
    }
    bytes.extend(b"\r\n");
}

/// A body; of one in which no secret can be looked for, as much as can be shown.
fn body(content: &BodyContent<'_>, media: Option<&str>, is_error: bool, bytes: &mut Vec<u8>) {
    let Ok(decoded) = content.decode() else { return };
    match std::str::from_utf8(&decoded) {
        Ok(text) => bytes.extend(masked(&hidden_body(text, media, is_error).0).as_bytes()),
        Err(_) => {
            bytes.extend(format!("({} bytes that are not text)", decoded.len()).into_bytes());
        }
    }
}
