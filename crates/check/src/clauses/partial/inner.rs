//! The failures inside of a success.

use serde_json::Value;

use crate::classify::{Classified, ParsedBody, StatusVerdict};
use faithful_clerk_contract::PartialSuccess;
use faithful_clerk_model::json::pointer::{resolve, tokens};

/// What a success holds where failures may be inside.
pub(super) enum PartialFailures<'p> {
    /// What was expected, and the body.
    Found(&'p PartialSuccess, &'p Value),
    /// The body can't be read.
    Unknown,
    /// No failures may be inside, or it is no such success.
    None,
}

pub(super) fn inner<'p>(classified: &'p Classified<'_>) -> PartialFailures<'p> {
    let served = matches!(classified.verdict, StatusVerdict::Served);
    let Some(partial) = classified.rules().partial.as_ref().filter(|_| served) else {
        return PartialFailures::None;
    };
    match classified.body() {
        ParsedBody::Json(body) => PartialFailures::Found(partial, body),
        ParsedBody::Unknown(_) => PartialFailures::Unknown,
        _ => PartialFailures::None,
    }
}

/// The value at a JSON Pointer.
pub(super) fn at<'v>(body: &'v Value, pointer: &str) -> Option<&'v Value> {
    resolve(body, &tokens(pointer)?)
}
