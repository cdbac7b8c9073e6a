//! What a response's body turns out to be when somebody looks.

use std::borrow::Cow;

use serde_json::Value;

use faithful_clerk_model::exchange::{Response, ResponseBody};
use faithful_clerk_model::finding::{BodyForm, Recorded};
use faithful_clerk_model::json::{self, Json, JsonType};
use faithful_clerk_model::media;
use faithful_clerk_model::snippet::snippet;

/// Why the body of a truncated response is not checked.
pub const CUT: &str = "the response is truncated";

/// A response's body.
#[derive(Debug)]
pub enum ParsedBody {
    /// There is none, or only white space.
    Empty,
    /// It can't be checked: cut, not kept, or beyond what is held.
    Unknown(&'static str),
    /// JSON, whatever the media type says.
    Json(Value),
    /// It sets out to be JSON and is not.
    BrokenJson {
        /// What is wrong with it, and where.
        reason: String,
        /// The text.
        text: String,
    },
    /// Markup.
    Html(String),
    /// Any other text.
    Text(String),
}

impl ParsedBody {
    /// The body of a response.
    #[must_use]
    pub fn read(response: &Response<'_>) -> Self {
        Self::of(response, decoded(response).as_ref().map(|decoded| decoded.as_deref()))
    }

    /// The same, where its content is decoded already.
    pub(crate) fn of(
        response: &Response<'_>,
        content: Option<Result<&[u8], &&'static str>>,
    ) -> Self {
        let bytes = match (&response.body, content) {
            (ResponseBody::Truncated, _) => return Self::Unknown(CUT),
            (ResponseBody::NotRecorded, _) => {
                return Self::Unknown("the recording does not hold the body");
            }
            (_, Some(Ok(bytes))) => bytes,
            (_, Some(Err(reason))) => return Self::Unknown(reason),
            (_, None) => return Self::Empty,
        };
        let bytes = &*media::in_utf_8(bytes, response.media().unwrap_or_default());
        let Some(first) = bytes.iter().copied().find(|byte| !byte.is_ascii_whitespace()) else {
            return Self::Empty;
        };
        if response.headers.has("content-encoding") && std::str::from_utf8(bytes).is_err() {
            return Self::Unknown("the content coding of the body was not undone");
        }
        let says_json =
            || response.media().map(media::essence).is_some_and(|media| media::is_json(&media));
        let text = || String::from_utf8_lossy(bytes).into_owned();
        if !matches!(first, b'{' | b'[' | 0xEF) && !says_json() {
            return match first {
                // Less came than was announced, and nobody knows how it goes on.
                _ if is_short(response, bytes.len()) => Self::Unknown(CUT),
                b'<' => Self::Html(text()),
                _ => Self::Text(text()),
            };
        }
        // That it is not UTF-8 is a finding of its own; what can be read of it is checked all the same.
        match Json::read(String::from_utf8_lossy(bytes).as_bytes()) {
            Json::Value(value) => Self::Json(value),
            Json::Beyond(bound) => Self::Unknown(bound.words()),
            // A recorder that masks a secret changes the length, but not into broken JSON.
            Json::Malformed(_) if is_short(response, bytes.len()) => Self::Unknown(CUT),
            Json::Malformed(_) if first == b'<' => Self::Html(text()),
            Json::Malformed(reason) if b"{[\"".contains(&first) => {
                Self::BrokenJson { reason, text: text() }
            }
            Json::Malformed(_) => Self::Text(text()),
        }
    }

    /// The value, where the body is JSON.
    #[must_use]
    pub fn json(&self) -> Option<&Value> {
        match self {
            Self::Json(value) => Some(value),
            _ => None,
        }
    }

    /// All text that a reader of the body would see: of JSON, its strings, a line each.
    #[must_use]
    pub fn words(&self) -> Option<String> {
        match self {
            Self::Json(value) => Some(json::strings(value)),
            Self::Html(text) | Self::Text(text) | Self::BrokenJson { text, .. } => {
                Some(text.clone())
            }
            Self::Empty | Self::Unknown(_) => None,
        }
    }

    /// What it turned out to be.
    #[must_use]
    pub fn form(&self) -> BodyForm {
        match self {
            Self::Empty => BodyForm::Empty,
            Self::Unknown(reason) => BodyForm::Unreadable((*reason).to_owned()),
            Self::Json(value) => BodyForm::Json(JsonType::of(value)),
            Self::BrokenJson { reason, .. } => BodyForm::BrokenJson(Recorded::text(reason)),
            Self::Html(_) => BodyForm::Html,
            Self::Text(text) => {
                BodyForm::Text(Recorded::text(format!("\"{}\"", snippet(text.trim(), 40))))
            }
        }
    }
}

/// The bytes of a body, or why they can't be had.
pub(crate) type Decoded<'a> = Result<Cow<'a, [u8]>, &'static str>;

/// The content of a response's body, where it has some.
pub(crate) fn decoded<'a>(response: &'a Response<'_>) -> Option<Decoded<'a>> {
    match &response.body {
        ResponseBody::Present(content) => Some(content.decode()),
        ResponseBody::Empty | ResponseBody::Truncated | ResponseBody::NotRecorded => None,
    }
}

/// Less came than was announced, and no content coding was undone on the way, nor another charset.
fn is_short(response: &Response<'_>, length: usize) -> bool {
    let is_wide =
        response.media().is_some_and(|media| media.to_ascii_lowercase().contains("utf-16"));
    !is_wide
        && !response.headers.has("content-encoding")
        && response.headers.content_length().is_some_and(|announced| announced > length as u64)
}
