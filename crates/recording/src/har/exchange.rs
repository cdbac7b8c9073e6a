//! One entry of a HAR file becomes an exchange.
//!
//! Required of an entry are the request's method and URL and, where there is a response, its status.
//! Everything else may be missing or null. Unknown members are skipped, except for a recorder's private
//! members: on why a response did not come, or is truncated (`_error`), and on what a request was sent for (`_intended`).

use std::borrow::Cow;

use super::entry::{HarEntry, HarRequest, HarResponse, RawValue};
use super::parser;
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::{
    BodyContent, Exchange, Request, RequestBody, Response, ResponseBody, Timing,
};
use faithful_clerk_model::headers::Headers;

/// Reads one entry. Members that nobody reads are only checked for matching brackets and quotation marks.
///
/// # Errors
/// What is missing or wrong, with line and column counted from the start of the entry.
pub fn exchange(bytes: &[u8], address: Address) -> Result<Exchange<'_>, String> {
    // HAR 1.2: the file is UTF-8, so text can be borrowed from it.
    let text = std::str::from_utf8(bytes)
        .map_err(|error| format!("not UTF-8 at byte {} of the entry", error.valid_up_to()))?;
    let entry = match parser::parse(text) {
        Some(entry) => entry,
        None => serde_json::from_str(text).map_err(|error| error.to_string())?,
    };
    let HarEntry { request: har_request, response, time, timings, intended } = entry;
    let request = request(har_request);
    let (response, no_response) = match response {
        None => (None, None),
        Some(har) => match response_of(har, &request.method)? {
            Ok(response) => (Some(response), None),
            Err(reason) => (None, reason),
        },
    };
    let [whole, parts] = [time, timings].map(|raw| raw.map(|raw| raw.0));
    let time = Timing { whole, parts, known: None };
    let intended = intended.map(|raw| raw.0);
    Ok(Exchange { address, offset: 0, request, response, no_response, timing: time, intended })
}

/// Panics if the parser reads an entry otherwise than serde_json does, or reads one that serde_json refuses for more than
/// the syntax of skipped members.
#[cfg(fuzzing)]
pub fn parsers_agree(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let Some(parsed) = parser::parse(text) else { return };
    match serde_json::from_str::<HarEntry<'_>>(text) {
        Ok(entry) => assert_eq!(parsed, entry),
        Err(error) => assert!(error.is_syntax(), "{error}"),
    }
}

fn request(har: HarRequest<'_>) -> Request<'_> {
    let headers = as_recorded(har.headers, har.recorded);
    let size = number(har.body_size);
    let announced = size.is_some_and(|size| size > 0)
        || headers.content_length().is_some_and(|length| length > 0)
        || headers.has("transfer-encoding");
    // A content type without a body or a size of it: something was sent, who knows what.
    let hinted = size.is_none_or(|size| size < 0)
        && headers.content_length().is_none()
        && headers.has("content-type");
    let elsewhere =
        if announced || hinted { RequestBody::NotRecorded } else { RequestBody::Absent };
    let (body, recorded_media) = match har.post_data {
        None => (elsewhere, None),
        Some(data) => {
            let content = content(data.text, data.encoding.as_ref());
            let body = match content {
                Some(content) if content.first_byte().is_some() => RequestBody::Present(content),
                // Base64 that does not decode has no first byte, and is not blank.
                Some(content) if content.decode().is_err() => RequestBody::NotRecorded,
                Some(_) => RequestBody::Blank,
                None if data.has_params => RequestBody::NotRecorded,
                None if announced => RequestBody::NotRecorded,
                None => RequestBody::Absent,
            };
            (body, data.mime_type)
        }
    };
    Request { method: har.method, url: har.url, headers, body, recorded_media }
}

/// Header fields of which only those with some names were recorded, where the recorder says so.
fn as_recorded(headers: Headers<'_>, names: Option<Vec<String>>) -> Headers<'_> {
    match names {
        Some(names) => headers.recorded_only(names.into()),
        None => headers,
    }
}

/// A response, or else why none came, where the recorder says so.
type MaybeResponse<'a> = Result<Response<'a>, Option<Cow<'a, str>>>;

fn response_of<'a>(har: HarResponse<'a>, method: &str) -> Result<MaybeResponse<'a>, String> {
    let error = har.error;
    let status = number(Some(har.status))
        .ok_or_else(|| format!("the response's status is {}, not a whole number", har.status.0))?;
    // Recorders write 0 or -1 for a response that never came.
    if status <= 0 {
        let reason = error.and_then(|raw| serde_json::from_str::<String>(raw.0).ok());
        return Ok(Err(reason.map(Cow::Owned)));
    }
    let status = u16::try_from(status)
        .map_err(|_| format!("the response's status is {status}, which is not a status code"))?;
    let headers = as_recorded(har.headers, har.recorded);
    let har_content = har.content.unwrap_or_default();
    let sizes = Sizes {
        content: number(har_content.size),
        wire: number(har.body_size),
        announced: headers.content_length(),
        chunked: headers.has("transfer-encoding"),
    };
    let given = content(har_content.text, har_content.encoding.as_ref());
    let coding = headers.get("content-encoding");
    let given = given.map(|given| match given {
        // Text was decoded by whoever made it text.
        BodyContent::Base64(_) => given.coded(coding),
        given => given,
    });
    let bodiless = method == "HEAD" || matches!(status, 100..=199 | 204 | 205 | 304);
    let body = match given {
        // What a browser shows as the body of a 304 comes out of its own cache.
        Some(_) if status == 304 && sizes.wire.is_none_or(|wire| wire <= 0) => ResponseBody::Empty,
        Some(_) if error.is_some() => ResponseBody::Truncated,
        Some(content) => ResponseBody::Present(content),
        None if bodiless && sizes.content.is_none_or(|size| size <= 0) => ResponseBody::Empty,
        None if status == 304 => ResponseBody::Empty,
        None if error.is_some() => ResponseBody::Truncated,
        None => sizes.without_text(har_content.text.is_some()),
    };
    let recorded_media =
        har_content.mime_type.filter(|media| !media.is_empty() && media != "x-unknown");
    Ok(Ok(Response { status, headers, recorded_media, body }))
}

struct Sizes {
    content: Option<i64>,
    wire: Option<i64>,
    announced: Option<u64>,
    chunked: bool,
}

impl Sizes {
    /// What a body is whose text is missing, or is there and empty.
    fn without_text(&self, empty_text: bool) -> ResponseBody<'static> {
        let counted = self.content.unwrap_or(-1);
        match self.announced {
            // Less came than was announced.
            Some(1..) if empty_text || counted == 0 => ResponseBody::Truncated,
            Some(0) => ResponseBody::Empty,
            _ if counted > 0 => ResponseBody::NotRecorded,
            _ if empty_text || counted == 0 => ResponseBody::Empty,
            // No size is known: empty only if nothing else speaks of content.
            None if !self.chunked && self.wire == Some(0) => ResponseBody::Empty,
            _ => ResponseBody::NotRecorded,
        }
    }
}

/// The content of a text member; `None` where it is missing, null or the empty string.
fn content<'a>(
    text: Option<RawValue<'a>>,
    encoding: Option<&Cow<'_, str>>,
) -> Option<BodyContent<'a>> {
    let raw = text.filter(|raw| raw.0.starts_with('"') && raw.0 != "\"\"")?;
    let base64 = encoding.is_some_and(|encoding| encoding.eq_ignore_ascii_case("base64"));
    Some(if base64 { BodyContent::Base64(raw.0) } else { BodyContent::Literal(raw.0) })
}

/// A whole number, where there is one. Recorders write sizes as `12`, `12.0`, `-1` and `null`.
fn number(raw: Option<RawValue<'_>>) -> Option<i64> {
    let text = raw?.0;
    text.parse().ok().or_else(|| text.strip_suffix(".0")?.parse().ok())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(request: &str, response: &str) -> String {
        let entry = format!(r#"{{"request":{request},"response":{response}}}"#);
        match exchange(entry.as_bytes(), Address::default()) {
            Err(error) => error,
            Ok(exchange) => {
                let request = match exchange.request.body {
                    RequestBody::Absent => "absent",
                    RequestBody::Blank => "blank",
                    RequestBody::Present(_) => "present",
                    RequestBody::NotRecorded => "not recorded",
                };
                let response = match exchange.response {
                    None => format!("missing {}", exchange.no_response.unwrap_or_default()),
                    Some(response) => match response.body {
                        ResponseBody::Empty => "empty".to_owned(),
                        ResponseBody::Truncated => "cut".to_owned(),
                        ResponseBody::NotRecorded => "not kept".to_owned(),
                        ResponseBody::Present(content) => {
                            String::from_utf8_lossy(&content.decode().unwrap()).into_owned()
                        }
                    },
                };
                format!("{request}, {response}")
            }
        }
    }

    const GET: &str = r#"{"method":"GET","url":"/"}"#;

    #[test]
    fn a_request_body_is_one_of_four_things() {
        let ok = r#"{"status":204}"#;
        for (members, body) in [
            ("", "absent"),
            (r#","bodySize":-1"#, "absent"),
            (r#","postData":null,"bodySize":0"#, "absent"),
            (r#","postData":{"mimeType":"application/json","text":"","params":[]}"#, "absent"),
            (r#","postData":{"text":" \n"}"#, "blank"),
            (r#","postData":{"text":"null"}"#, "present"),
            (r#","postData":{"text":"e30=","encoding":"base64"}"#, "present"),
            (r#","postData":{"text":"?","encoding":"base64"}"#, "not recorded"),
            (r#","bodySize":12"#, "not recorded"),
            (r#","headers":[{"name":"Content-Length","value":"12"}]"#, "not recorded"),
            (r#","headers":[{"name":"Content-Type","value":"application/json"}]"#, "not recorded"),
            (r#","postData":{"params":[{"name":"a","value":"b"}]}"#, "not recorded"),
        ] {
            let request = format!(r#"{{"method":"POST","url":"/"{members}}}"#);
            assert_eq!(read(&request, ok), format!("{body}, empty"), "{members}");
        }
    }

    #[test]
    fn no_answer_is_written_in_several_ways() {
        for (response, why) in [
            (r#"{"status":0,"_error":"net::ERR_EMPTY_RESPONSE"}"#, "net::ERR_EMPTY_RESPONSE"),
            (r#"{"status":-1,"_failureText":"reset"}"#, "reset"),
            (r#"{"status":-1,"headers":[],"content":{"size":-1}}"#, ""),
            ("null", ""),
        ] {
            assert_eq!(read(GET, response), format!("absent, missing {why}"));
        }
    }

    #[test]
    fn a_cut_or_missing_body_is_never_called_empty() {
        let length = r#""headers":[{"name":"content-length","value":"400"}]"#;
        for (members, body) in [
            (r#""content":{"size":0}"#.to_owned(), "empty"),
            (r#""content":{"size":0,"text":"","encoding":"base64"}"#.to_owned(), "empty"),
            (r#""content":{"size":-1},"bodySize":0"#.to_owned(), "empty"),
            (r#""content":{"size":-1},"bodySize":-1"#.to_owned(), "not kept"),
            (r#""content":{"size":59}"#.to_owned(), "not kept"),
            (r#""bodySize":-1"#.to_owned(), "not kept"),
            (format!(r#"{length},"content":{{"size":59}},"_error":"cut""#), "cut"),
            (format!(r#"{length},"content":{{"size":0,"text":""}}"#), "cut"),
            (format!(r#"{length},"content":{{"size":400}}"#), "not kept"),
            (r#""content":{"size":32},"_error":"chunks""#.to_owned(), "cut"),
            (r#""content":{"text":"{}"},"_error":null"#.to_owned(), "{}"),
            (r#""content":{"text":"e30=","encoding":"base64"}"#.to_owned(), "{}"),
        ] {
            assert_eq!(
                read(GET, &format!(r#"{{"status":422,{members}}}"#)),
                format!("absent, {body}"),
                "{members}"
            );
        }
    }

    #[test]
    fn answers_that_have_no_content_by_rule_are_empty() {
        let head = r#"{"method":"HEAD","url":"/"}"#;
        let length = r#"{"status":200,"headers":[{"name":"Content-Length","value":"9"}],"content":{"size":0,"text":""}}"#;
        assert_eq!(read(head, length), "absent, empty");
        let cached = r#"{"status":304,"bodySize":0,"content":{"size":9,"text":"from cache"}}"#;
        assert_eq!(read(GET, cached), "absent, empty");
        let rude = r#"{"status":204,"content":{"size":2,"text":"{}"}}"#;
        assert_eq!(read(GET, rude), "absent, {}");
    }

    #[test]
    fn an_entry_that_lacks_what_it_must_have_says_so() {
        for (request, response, words) in [
            (r#"{"url":"/"}"#, "null", "missing field `method`"),
            (r#"{"method":"GET"}"#, "null", "missing field `url`"),
            (GET, "{}", "missing field `status`"),
            (GET, r#"{"status":"200"}"#, "not a whole number"),
            (GET, r#"{"status":70000}"#, "not a status code"),
            (GET, r#"{"status":200,"headers":{}}"#, "invalid type"),
        ] {
            let said = read(request, response);
            assert!(said.contains(words), "{said}");
        }
        assert!(exchange(b"null", Address::default()).is_err());
        assert!(exchange(b"{\"a\":\"\xff\"}", Address::default()).unwrap_err().contains("UTF-8"));
    }
}
