//! The failures inside of a success.

use serde_json::Value;

use crate::contract::Partial;
use crate::place::{AnswerBody, Placed, Verdict};
use crate::pointer::{resolve, tokens};

/// What a success holds where failures may be inside.
pub(super) enum Inner<'p> {
    /// What was agreed, and the body.
    Found(&'p Partial, &'p Value),
    /// The body can't be read.
    Unknown,
    /// No failures may be inside, or it is no such success.
    None,
}

pub(super) fn inner<'p>(placed: &'p Placed<'_>) -> Inner<'p> {
    let served = matches!(placed.verdict, Verdict::Served);
    let Some(partial) = placed.rules().partial.as_ref().filter(|_| served) else {
        return Inner::None;
    };
    match placed.body() {
        AnswerBody::Json(body) => Inner::Found(partial, body),
        AnswerBody::Unknown(_) => Inner::Unknown,
        _ => Inner::None,
    }
}

/// The value at a JSON Pointer.
pub(super) fn at<'v>(body: &'v Value, pointer: &str) -> Option<&'v Value> {
    resolve(body, &tokens(pointer)?)
}
