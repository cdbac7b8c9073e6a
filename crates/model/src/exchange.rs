//! An exchange: one request and the response that it got, or did not get.
//!
//! Everything is borrowed from the recording where it can be, and a body is only decoded when
//! somebody looks at it: a success response that nobody doubts costs nothing.

use std::borrow::Cow;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;

use crate::address::Address;
use crate::coding::undo_codings;
use crate::headers::Headers;
use crate::intention::Intention;
use crate::json::scan::{unescape, unescape_bytes};

/// One request with the response.
#[derive(Debug, Clone)]
pub struct Exchange<'a> {
    /// Where it stands in the recordings of this run.
    pub address: Address,
    /// Where it starts in its recording, in bytes.
    pub offset: u64,
    /// The request.
    pub request: Request<'a>,
    /// What came back, if anything did.
    pub response: Option<Response<'a>>,
    /// Why no response came, in the recorder's own words, where it has some.
    pub no_response: Option<Cow<'a, str>>,
    /// How long the response took.
    pub timing: Timing<'a>,
    /// What a probe meant by the request, as the recording holds it.
    pub intended: Option<&'a str>,
}

impl Exchange<'_> {
    /// What a probe meant by the request, where one sent it.
    #[must_use]
    pub fn intention(&self) -> Option<Intention> {
        Intention::read(self.intended?)
    }
}

/// How long a response took, still in the form in which the recording holds it: few contracts ask.
#[derive(Debug, Clone, Copy, Default)]
pub struct Timing<'a> {
    /// All of it, in milliseconds.
    pub whole: Option<&'a str>,
    /// An object of its parts, in milliseconds, among them `wait` and `receive`.
    pub parts: Option<&'a str>,
    /// What it took, for an exchange that is from no recording.
    pub known: Option<f64>,
}

/// -1 where the recorder does not know.
#[derive(serde::Deserialize)]
struct TimingParts {
    #[serde(default)]
    wait: Option<f64>,
    #[serde(default)]
    receive: Option<f64>,
}

impl Timing<'_> {
    /// Waiting and receiving where the recording splits it, else the whole, in milliseconds. What a
    /// browser blocked or a connection took is not the service's time.
    #[must_use]
    pub fn milliseconds(&self) -> Option<f64> {
        let known = |time: &f64| time.is_finite() && *time >= 0.0;
        let parts = self.parts.and_then(|raw| serde_json::from_str::<TimingParts>(raw).ok());
        let split = parts.and_then(|parts| {
            Some(parts.wait.filter(known)? + parts.receive.filter(known).unwrap_or_default())
        });
        let whole = || self.whole.and_then(|raw| raw.parse().ok()).filter(known);
        self.known.or(split).or_else(whole)
    }
}

/// The request.
#[derive(Debug, Clone)]
pub struct Request<'a> {
    /// The method as it was sent; methods are case-sensitive (RFC 9110 section 9.1).
    pub method: Cow<'a, str>,
    /// The URL as it was recorded: absolute, or only a path.
    pub url: Cow<'a, str>,
    /// The header fields.
    pub headers: Headers<'a>,
    /// The body.
    pub body: RequestBody<'a>,
    /// The media type that the recording itself gives to the body, for where no header does.
    pub recorded_media: Option<Cow<'a, str>>,
}

/// The four things that a recorded request body can be.
#[derive(Debug, Clone)]
pub enum RequestBody<'a> {
    /// Nothing was sent.
    Absent,
    /// Only white space was sent.
    Blank,
    /// Something was sent, and here it is.
    Present(BodyContent<'a>),
    /// Something was sent, and the recording does not hold it. It is never checked.
    NotRecorded,
}

/// A response.
#[derive(Debug, Clone)]
pub struct Response<'a> {
    /// The status code as sent, whatever its range.
    pub status: u16,
    /// The header fields.
    pub headers: Headers<'a>,
    /// The media type that the recording itself gives to the body, for where no header does.
    pub recorded_media: Option<Cow<'a, str>>,
    /// The body.
    pub body: ResponseBody<'a>,
}

/// What a recorded response's body can be.
#[derive(Debug, Clone)]
pub enum ResponseBody<'a> {
    /// No content came.
    Empty,
    /// Content came, and here it is.
    Present(BodyContent<'a>),
    /// Less came than was announced; what is here, if anything, is not the whole.
    Truncated,
    /// Content came, and the recording does not hold it.
    NotRecorded,
}

/// The content of a body, still in the form in which the recording holds it.
#[derive(Debug, Clone)]
pub enum BodyContent<'a> {
    /// The bytes themselves.
    Bytes(Cow<'a, [u8]>),
    /// A JSON string literal, quotes and escapes included.
    Literal(&'a str),
    /// A JSON string literal that holds base64.
    Base64(&'a str),
    /// Content with content codings (RFC 9110 section 8.4.1), as a header field lists them.
    Coded(Box<Self>, String),
}

impl BodyContent<'_> {
    /// The same, with the codings that a header field lists, if it is there.
    #[must_use]
    pub fn coded(self, codings: Option<&str>) -> Self {
        match codings {
            Some(codings) => Self::Coded(Box::new(self), codings.to_owned()),
            None => self,
        }
    }

    /// The bytes of the content.
    ///
    /// # Errors
    /// A short reason, when the recording's own encoding of the content is broken.
    pub fn decode(&self) -> Result<Cow<'_, [u8]>, &'static str> {
        match self {
            Self::Bytes(bytes) => Ok(Cow::Borrowed(bytes)),
            Self::Literal(raw) => unescape_bytes(raw).ok_or(HALF),
            Self::Base64(raw) => {
                let text = unescape(raw).ok_or(HALF)?;
                // Some recorders wrap base64 in lines.
                let dense: Vec<u8> = text.bytes().filter(|b| !b.is_ascii_whitespace()).collect();
                STANDARD.decode(dense).map(Cow::Owned).map_err(|_| "its base64 is not valid")
            }
            Self::Coded(content, codings) => {
                let bytes = content.decode()?;
                Ok(undo_codings(&bytes, codings)?.map_or(bytes, Cow::Owned))
            }
        }
    }

    /// No more bytes than that, known without decoding; none where nobody knows.
    #[must_use]
    pub fn at_most(&self) -> Option<usize> {
        match self {
            Self::Bytes(bytes) => Some(bytes.len()),
            // An escape is longer than what it stands for.
            Self::Literal(raw) => Some(raw.len().saturating_sub(2)),
            Self::Base64(raw) => Some(raw.len().saturating_sub(2) / 4 * 3 + 3),
            Self::Coded(..) => None,
        }
    }

    /// The first byte that is not white space, without decoding the whole where that can be helped.
    #[must_use]
    pub fn first_byte(&self) -> Option<u8> {
        let dark = |bytes: &[u8]| bytes.iter().copied().find(|b| !b.is_ascii_whitespace());
        match self {
            Self::Bytes(bytes) => dark(bytes),
            Self::Literal(raw) => {
                let inner = raw.as_bytes().get(1..)?;
                match dark(inner) {
                    // An escape stands first, such as `\n`: look at the decoded text.
                    Some(b'\\') => self.decode().ok().and_then(|bytes| dark(&bytes)),
                    Some(b'"') => None,
                    first => first,
                }
            }
            Self::Base64(raw) => match base64_start(raw) {
                Some(start) if dark(&start).is_some() => dark(&start),
                _ => self.decode().ok().and_then(|bytes| dark(&bytes)),
            },
            Self::Coded(..) => self.decode().ok().and_then(|bytes| dark(&bytes)),
        }
    }
}

/// The first bytes of base64 that stands in a literal in the usual way.
fn base64_start(raw: &str) -> Option<Vec<u8>> {
    STANDARD.decode(raw.as_bytes().get(1..=64)?).ok()
}

/// A lone surrogate (`"\ud800"`) has no form in UTF-8, so such a literal can't be decoded.
const HALF: &str = "its recorded text has a lone surrogate";

impl Request<'_> {
    /// The media type of the body: the header's, else the recording's own.
    #[must_use]
    pub fn media(&self) -> Option<&str> {
        said(&self.headers, self.recorded_media.as_deref())
    }
}

impl Response<'_> {
    /// The media type of the body: the header's. What a recorder made of the content counts only where it kept no
    /// headers at all, or not that one.
    #[must_use]
    pub fn media(&self) -> Option<&str> {
        let is_all =
            self.headers.iter().next().is_none() || self.headers.is_unknown("content-type");
        said(&self.headers, self.recorded_media.as_deref().filter(|_| is_all))
    }
}

/// The header beats the recording's own word; an empty one says nothing.
fn said<'s>(headers: &'s Headers<'_>, recorded: Option<&'s str>) -> Option<&'s str> {
    let header = headers.content_type().or(recorded);
    header.filter(|media| !media.trim().is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_byte_is_found_behind_white_space_and_escapes() {
        for (literal, first) in [
            (r#""{\"a\":1}""#, Some(b'{')),
            (r#""  <html>""#, Some(b'<')),
            (r#""\n\t[1]""#, Some(b'[')),
            (r#""""#, None),
            (r#""   ""#, None),
        ] {
            assert_eq!(BodyContent::Literal(literal).first_byte(), first, "{literal}");
        }
        assert_eq!(BodyContent::Base64(r#""eyJhIjoxfQ==""#).first_byte(), Some(b'{'));
    }

    #[test]
    fn what_cannot_be_decoded_says_why() {
        assert!(BodyContent::Base64(r#""!!""#).decode().is_err());
        assert!(BodyContent::Literal(r#""\ud800""#).decode().is_err());
        assert_eq!(&*BodyContent::Base64("\"e30=\\n\"").decode().unwrap(), b"{}");
    }
}
