//! An exchange with what recordings hold beside it.

use std::collections::BTreeMap;

use serde_json::Value;

use super::omission::leave_out;
use crate::http::{Head, MessageRanges, Start};
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::intention;

/// An exchange with what its recording holds beside it.
#[derive(Debug)]
pub(super) struct ExchangeRecord<'a> {
    pub(super) exchange: Exchange<'a>,
    /// When the request was sent, as its recording writes it.
    pub(super) started: Option<String>,
    pub(super) request_version: Option<String>,
    pub(super) response_version: Option<String>,
    /// The reason phrase.
    pub(super) phrase: Option<String>,
    /// The address of the server.
    pub(super) server: Option<String>,
}

/// Members of an entry that only HAR holds, and what they are called when they are left out.
const ONLY_IN_HAR: [(&str, &str); 6] = [
    ("time", "how long it took"),
    ("timings", "how long its parts took"),
    ("cache", "what the cache did"),
    ("pageref", "the page it belongs to"),
    ("connection", "the connection"),
    ("comment", "comments"),
];

impl<'a> ExchangeRecord<'a> {
    pub(super) fn of_messages(
        exchange: Exchange<'a>,
        messages: &MessageRanges,
        bytes: &[u8],
    ) -> Self {
        let head = |range: &std::ops::Range<usize>| Head::read(bytes.get(range.clone())?);
        let version = |head: &Head<'_>| match head.start {
            Start::Request(_, _, version) | Start::Response(version, ..) => version.to_owned(),
        };
        let asked = head(&messages.request);
        let told = messages.response.as_ref().and_then(head);
        let phrase = told.as_ref().and_then(|head| match head.start {
            Start::Response(_, _, phrase) => Some(phrase.to_owned()),
            Start::Request(..) => None,
        });
        Self {
            exchange,
            started: messages.started.clone(),
            request_version: asked.as_ref().map(version),
            response_version: told.as_ref().map(version),
            phrase,
            server: messages.server.clone(),
        }
    }

    /// Counts what no form of messages can hold.
    pub(super) fn leave_out_of_messages(&self, left_out: &mut BTreeMap<&'static str, u64>) {
        let Exchange { request, response, timing, .. } = &self.exchange;
        let answered = response.as_ref().map(|response| &response.headers);
        if answered.into_iter().chain([&request.headers]).any(|of| of.recorded().is_some()) {
            leave_out(left_out, "that header fields were not recorded");
        }
        if timing.known.is_some() {
            leave_out(left_out, "how long it took");
        }
    }

    /// An exchange that a map read.
    pub(super) fn of_line(exchange: Exchange<'a>, started: Option<String>) -> Self {
        Self {
            exchange,
            started,
            request_version: None,
            response_version: None,
            phrase: None,
            server: None,
        }
    }

    /// An exchange of an entry, to be written in another form.
    pub(super) fn of_entry(
        exchange: Exchange<'a>,
        entry: &str,
        left_out: &mut BTreeMap<&'static str, u64>,
    ) -> Self {
        let entry: Value = serde_json::from_str(entry).unwrap_or_default();
        let is_empty = |value: &Value| match value {
            Value::Null => true,
            Value::Object(members) => members.is_empty(),
            Value::String(text) => text.is_empty(),
            _ => false,
        };
        for (name, what) in ONLY_IN_HAR {
            if entry.get(name).is_some_and(|value| !is_empty(value)) {
                leave_out(left_out, what);
            }
        }
        let own = |value: &Value| {
            let names = value.as_object().into_iter().flatten();
            names.into_iter().any(|(name, value)| {
                name.starts_with('_') && name != intention::MEMBER && !is_empty(value)
            })
        };
        let sides = [Some(&entry), entry.get("request"), entry.get("response")];
        if sides.into_iter().flatten().any(own) {
            leave_out(left_out, "the recorder's own members");
        }
        if exchange.intended.is_some() {
            leave_out(left_out, "what a probe meant by a request");
        }
        let text =
            |pointer: &str| entry.pointer(pointer).and_then(Value::as_str).map(str::to_owned);
        Self {
            exchange,
            started: text("/startedDateTime"),
            request_version: text("/request/httpVersion"),
            response_version: text("/response/httpVersion"),
            phrase: text("/response/statusText"),
            server: text("/serverIPAddress"),
        }
    }
}
