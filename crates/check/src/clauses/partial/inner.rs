//! The failures inside of a success.

use serde_json::Value;

use crate::classify::{Classified, ParsedBody, StatusVerdict};
use faithful_clerk_contract::{Fault, PartialSuccess};
use faithful_clerk_model::json::pointer::{join_index, resolve, tokens};
use faithful_clerk_model::json::{MemberLookup as _, scalar_text};

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

/// An entry of a success that failed.
pub(super) struct FailedEntry<'p> {
    /// Where it is in the response.
    pub(super) pointer: String,
    /// The entry.
    pub(super) item: &'p Value,
    /// Its type, where it has one.
    pub(super) type_uri: Option<String>,
    /// Its application code, where it has one.
    pub(super) code: Option<String>,
}

/// The entries that failed, where their array is one. An array that holds what succeeded, too, tells them by status.
pub(super) fn failed<'p>(partial: &'p PartialSuccess, body: &'p Value) -> Vec<FailedEntry<'p>> {
    let array = at(body, &partial.failures).and_then(Value::as_array);
    let entry = |(index, item): (usize, &'p Value)| FailedEntry {
        pointer: join_index(&partial.failures, index),
        item,
        type_uri: item.member("type").and_then(scalar_text),
        code: resolve(item, &partial.code).and_then(scalar_text),
    };
    let is_failed = |(_, item): &(usize, &Value)| !is_mixed(partial) || has_failed(partial, item);
    array.into_iter().flatten().enumerate().filter(is_failed).map(entry).collect()
}

/// Does one array hold both what failed and what succeeded?
pub(super) fn is_mixed(partial: &PartialSuccess) -> bool {
    partial.succeeded.as_ref() == Some(&partial.failures)
}

fn has_failed(partial: &PartialSuccess, item: &Value) -> bool {
    status_of(partial, item).is_none_or(|status| !matches!(status.as_bytes(), [b'1'..=b'3', _, _]))
}

/// The status that an entry has, as text.
pub(super) fn status_of(partial: &PartialSuccess, item: &Value) -> Option<String> {
    resolve(item, partial.status.as_ref()?).and_then(scalar_text)
}

impl FailedEntry<'_> {
    /// The fault that it is, among those that may occur: by its type, else by its code.
    pub(super) fn fault<'a>(&self, faults: &[&'a Fault]) -> Option<&'a Fault> {
        let by_type =
            |fault: &&&'a Fault| self.type_uri.is_some() && fault.type_uri == self.type_uri;
        let by_code = |fault: &&&'a Fault| self.code.is_some() && fault.code == self.code;
        faults.iter().find(by_type).or_else(|| faults.iter().find(by_code)).copied()
    }

    /// The index of the requested entry that it is about.
    pub(super) fn index(&self, partial: &PartialSuccess, requested: &[Value]) -> Option<usize> {
        index_of(self.item, partial, requested)
    }
}

/// The index of the requested entry that an entry of the response is about: as it says, by a pointer into the request,
/// or by a member that both have.
pub(super) fn index_of(
    item: &Value,
    partial: &PartialSuccess,
    requested: &[Value],
) -> Option<usize> {
    if let Some(steps) = &partial.index {
        return resolve(item, steps)?.as_u64().and_then(|index| usize::try_from(index).ok());
    }
    if let Some(steps) = &partial.pointer {
        let into_request = tokens(resolve(item, steps)?.as_str()?)?;
        let array = tokens(partial.requested.as_ref()?)?;
        let below = into_request.strip_prefix(array.as_slice())?;
        return below.first()?.parse().ok();
    }
    let by = partial.match_by.as_ref()?;
    let key = |item: &Value| item.get(by).unwrap_or(item).clone();
    let own = item.get(by).cloned().or_else(|| item.as_str().map(Value::from))?;
    requested.iter().position(|entry| key(entry) == own)
}

/// The faults that may occur in an entry.
pub(super) fn allowed<'a>(classified: &Classified<'a>, partial: &PartialSuccess) -> Vec<&'a Fault> {
    partial.faults.iter().filter_map(|id| classified.contract.fault(*id)).collect()
}
