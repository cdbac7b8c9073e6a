//! Errors inside of successes: a 200 that says that it failed.
//!
//! Most successes hold no error, and nobody wants to parse them all. So the raw text is searched for a
//! few words first, and only a body that has one of them is parsed.

use std::sync::LazyLock;

use memchr::memmem::Finder;
use serde_json::{Map, Value};

use super::Placed;
use crate::exchange::{Content, ResponseBody};
use crate::pointer::{from_tokens, join, resolve};

/// A success larger than this is data.
const LARGEST: usize = 256 << 10;

/// Without one of these words in it, a body tells of no error.
static WORDS: LazyLock<[Finder<'static>; 5]> =
    LazyLock::new(|| ["rror", "uccess", "fail", "xception", "ok\\\""].map(Finder::new));

/// An error that a success carries inside.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ErrorInside {
    /// Where it stands, as a JSON Pointer.
    pub pointer: String,
    /// What stands there.
    pub seen: String,
}

/// What a success flag says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Flag {
    /// That all went well.
    Success,
    /// That it did not.
    Failure,
}

pub(super) fn error_inside(placed: &Placed<'_>) -> Option<ErrorInside> {
    let response = placed.response().filter(|response| (200..300).contains(&response.status))?;
    let ResponseBody::Present(content) = &response.body else { return None };
    let raw: &[u8] = match content {
        Content::Bytes(bytes) => bytes,
        Content::Literal(raw) => raw.get().as_bytes(),
        Content::Base64(_) => return None,
    };
    let has_words = || WORDS.iter().any(|word| word.find(raw).is_some());
    let reads_flag = placed.contract.reading.success.is_some();
    if raw.len() > LARGEST || !(reads_flag || has_words()) {
        return None;
    }
    let body = placed.body().json()?;
    if let Some((pointer, Flag::Failure, seen)) = flag(placed, body) {
        return Some(ErrorInside { pointer, seen });
    }
    let allowed = placed.rules().partial.as_ref().map(|partial| partial.at.as_str());
    let members = body.as_object()?;
    let (name, value) = members.iter().find(|(name, value)| {
        is_error(name, value) && allowed != Some(join("", name).as_str()) && !is_data(members, name)
    })?;
    Some(ErrorInside { pointer: join("", name), seen: crate::json::in_brief(value) })
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

/// A report or a log may have errors among its data; an answer that is an error has little else.
fn is_data(members: &Map<String, Value>, name: &str) -> bool {
    let others = members.iter().filter(|(other, _)| *other != name);
    let rich = others.filter(|(_, value)| match value {
        Value::Object(inner) => !inner.is_empty(),
        Value::Array(items) => !items.is_empty(),
        _ => false,
    });
    rich.count() > 0 || members.len() > 6
}

/// The success flag of a body, where it has one: where the contract says, or under one of the usual names.
#[must_use]
pub fn flag(placed: &Placed<'_>, body: &Value) -> Option<(String, Flag, String)> {
    let (pointer, value) = match &placed.contract.reading.success {
        Some(steps) => (from_tokens(steps), resolve(body, steps)?),
        None => {
            let name = ["success", "ok", "succeeded"]
                .into_iter()
                .find(|name| body.get(*name).is_some_and(Value::is_boolean))?;
            (join("", name), body.get(name)?)
        }
    };
    let says = match value {
        Value::Bool(true) => Flag::Success,
        Value::Bool(false) => Flag::Failure,
        Value::String(text) if matches!(text.as_str(), "success" | "ok" | "OK" | "true") => {
            Flag::Success
        }
        Value::String(text)
            if matches!(text.as_str(), "error" | "fail" | "failed" | "failure" | "false") =>
        {
            Flag::Failure
        }
        _ => return None,
    };
    Some((pointer, says, value.to_string()))
}
