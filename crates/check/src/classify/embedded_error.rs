//! Errors inside of successes: a 200 that says that it failed.
//!
//! Most successes hold no error, and nobody wants to parse them all. So the raw text is searched for a
//! few words first, and only a body that has one of them is parsed.

use std::sync::LazyLock;

use aho_corasick::AhoCorasick;
use serde_json::{Map, Value};

use super::Classified;
use faithful_clerk_model::exchange::{BodyContent, ResponseBody};
use faithful_clerk_model::finding::Got;
use faithful_clerk_model::json::pointer::{from_tokens, join, resolve};
use faithful_clerk_model::json::{MemberLookup as _, folds_to};

/// A success larger than this is data.
const LARGEST: usize = 256 << 10;

/// Without one of these words in it, a body tells of no error.
static WORDS: LazyLock<Option<AhoCorasick>> = LazyLock::new(|| {
    AhoCorasick::new(["rror", "uccess", "fail", "xception", "ok\\\"", "ok\""]).ok()
});

/// An error that a success carries inside.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EmbeddedError {
    /// Where it stands, as a JSON Pointer.
    pub pointer: String,
    /// What stands there.
    pub evidence: Got,
}

/// What a success flag says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SuccessFlag {
    /// That all went well.
    Success,
    /// That it did not.
    Failure,
}

pub(super) fn error_inside(classified: &Classified<'_>) -> Option<EmbeddedError> {
    let response =
        classified.response().filter(|response| (200..300).contains(&response.status))?;
    let ResponseBody::Present(content) = &response.body else { return None };
    let raw: &[u8] = match content {
        BodyContent::Bytes(bytes) => bytes,
        BodyContent::Literal(raw) => raw.as_bytes(),
        BodyContent::Base64(_) | BodyContent::Coded(..) => return None,
    };
    let is_literal = matches!(content, BodyContent::Literal(_));
    let has_words = || WORDS.as_ref().is_none_or(|words| words.is_match(raw));
    let reads_flag = classified.style().envelope.success.is_some();
    if raw.len() > LARGEST || !(reads_flag || (may_be_envelope(raw, is_literal) && has_words())) {
        return None;
    }
    let body = classified.body().json()?;
    let is_agreed = classified.style().envelope.success.is_some();
    if let Some((pointer, SuccessFlag::Failure, seen)) = flag(classified, body)
        && (is_agreed || body.as_object().is_some_and(is_envelope))
    {
        return Some(EmbeddedError { pointer, evidence: seen });
    }
    let allowed = classified.rules().partial.as_ref().map(|partial| partial.failures.as_str());
    let members = body.as_object().filter(|members| is_envelope(members))?;
    let (name, value) = members
        .iter()
        .find(|(name, value)| is_error(name, value) && allowed != Some(join("", name).as_str()))?;
    Some(EmbeddedError { pointer: join("", name), evidence: Got::value(value) })
}

/// Members that go with an error, and say nothing of the thing that was asked for.
const ENVELOPE: [&str; 27] = [
    "success",
    "ok",
    "succeeded",
    "status",
    "statuscode",
    "httpstatus",
    "code",
    "errorcode",
    "error",
    "errors",
    "errormessage",
    "exception",
    "message",
    "msg",
    "detail",
    "details",
    "description",
    "reason",
    "title",
    "type",
    "instance",
    "timestamp",
    "time",
    "path",
    "traceid",
    "requestid",
    "meta",
];

/// Is this the name of such a member, in any naming style?
fn is_of_envelope(name: &str) -> bool {
    let first = name.bytes().find(|byte| !matches!(byte, b'_' | b'-'));
    let first = first.map(|byte| byte.to_ascii_lowercase());
    ENVELOPE.iter().any(|known| known.bytes().next() == first && folds_to(name, known))
}

/// May this be an object with nothing but what goes with an error, as far as its first member tells? In
/// most successes that one is data, and nothing else needs to be looked at.
fn may_be_envelope(raw: &[u8], is_literal: bool) -> bool {
    let (start, quote): (_, &[u8]) = match is_literal {
        true => (raw.get(1..).unwrap_or_default(), b"\\\""),
        false => (raw, b"\""),
    };
    let start = start.trim_ascii_start();
    let Some(inner) = start.strip_prefix(b"{") else {
        // White space may be escaped; anything else is no object.
        return start.starts_with(b"\\");
    };
    let Some(name) = inner.trim_ascii_start().strip_prefix(quote) else { return true };
    let length =
        name.iter().take_while(|byte| byte.is_ascii_alphanumeric() || **byte == b'_').count();
    let (name, rest) = name.split_at(length);
    let Some(rest) = rest.strip_prefix(quote) else { return true };
    let Some(value) = rest.trim_ascii_start().strip_prefix(b":") else { return true };
    let value = value.trim_ascii_start();
    let is_empty = value.starts_with(b"null")
        || matches!((value.first(), value.get(1)), (Some(b'['), Some(b']' | b' ' | b'\\')))
        || matches!((value.first(), value.get(1)), (Some(b'{'), Some(b'}' | b' ')))
        || (!is_literal && matches!(value.first(), Some(b'{' | b'[')))
        || value.starts_with(b"\\n")
        || value.starts_with(b"\\r")
        || value.starts_with(b"\\t");
    is_empty || std::str::from_utf8(name).is_ok_and(is_of_envelope)
}

/// Has the object nothing but what goes with an error? A job that failed, or a report with a list of
/// errors in it, is the very thing that was asked for.
fn is_envelope(members: &Map<String, Value>) -> bool {
    members.iter().all(|(name, value)| {
        let is_empty = match value {
            Value::Null => true,
            Value::Array(items) => items.is_empty(),
            Value::Object(inner) => inner.is_empty(),
            _ => false,
        };
        is_empty || is_of_envelope(name)
    })
}

/// Does this member tell of an error: by a name that nothing else has, and a value that says something?
fn is_error(name: &str, value: &Value) -> bool {
    let says = match value {
        Value::String(text) => !text.trim().is_empty(),
        Value::Array(items) => !items.is_empty(),
        Value::Object(members) => !members.is_empty(),
        Value::Bool(is_error) => *is_error,
        Value::Null | Value::Number(_) => false,
    };
    let names = ["error", "errors", "exception", "errorMessage", "error_message", "errorCode"];
    says && names.contains(&name)
}

/// The success flag of a body, where it has one: where the contract says, or under one of the usual names.
#[must_use]
pub fn flag(classified: &Classified<'_>, body: &Value) -> Option<(String, SuccessFlag, Got)> {
    let (pointer, value) = match &classified.style().envelope.success {
        Some(steps) => (from_tokens(steps), resolve(body, steps)?),
        None => {
            let name = ["success", "ok", "succeeded"]
                .into_iter()
                .find(|name| body.member(name).is_some_and(Value::is_boolean))?;
            (join("", name), body.member(name)?)
        }
    };
    let says = match value {
        Value::Bool(true) => SuccessFlag::Success,
        Value::Bool(false) => SuccessFlag::Failure,
        Value::String(text) if matches!(text.as_str(), "success" | "ok" | "OK" | "true") => {
            SuccessFlag::Success
        }
        Value::String(text)
            if matches!(text.as_str(), "error" | "fail" | "failed" | "failure" | "false") =>
        {
            SuccessFlag::Failure
        }
        _ => return None,
    };
    Some((pointer, says, Got::value(value)))
}
