//! An exchange that passed, and its entry in a recording.

use std::time::Duration;

use jiff::Timestamp;
use serde_json::Value;

use super::body_buffer::KeptBody;
use super::head::{Field, RequestHead, ResponseHead};
use crate::entry::{EntryBody, ReceivedResponse, SentRequest, entry};

/// An exchange that passed, or the part of it that did.
#[derive(Debug)]
pub struct ForwardedExchange {
    pub(super) at: Timestamp,
    pub(super) request: RequestHead,
    pub(super) sent: KeptBody,
    pub(super) response: Option<ResponseHead>,
    pub(super) came: KeptBody,
    /// Until the response's head was there, and until all of it was.
    pub(super) waited: Duration,
    pub(super) whole: Duration,
    /// Why no more of it came.
    pub(super) broken: Option<String>,
    /// The trailers of the request and of the response.
    pub(super) trailers: [Vec<Field>; 2],
}

impl ForwardedExchange {
    /// The exchange as an entry of HAR. A body that was larger than what is kept is left out, and its size is told.
    #[must_use]
    pub fn entry(&self) -> Value {
        let sent = SentRequest {
            comment: self.comment(),
            intention: None,
            at: self.at,
            method: &self.request.method,
            url: &self.request.to.url,
            version: self.request.version,
            headers: &self.request.headers,
            body: body(&self.sent),
            trailers: &self.trailers[0],
        };
        let none = Vec::new();
        let answered = self.response.as_ref();
        let came = ReceivedResponse {
            status: answered.map_or(0, |answered| answered.status),
            phrase: answered.map_or("", |answered| &answered.phrase),
            version: answered.map_or("", |answered| answered.version),
            headers: answered.map_or(&none, |answered| &answered.headers),
            body: body(&self.came),
            trailers: &self.trailers[1],
            waited: self.waited,
            whole: self.whole,
            broken: self.broken.as_deref(),
        };
        entry(&sent, &came)
    }

    /// The protocol that the connection was switched to, if it was.
    pub(super) fn switched_to(&self) -> Option<&str> {
        let has_switched = self.response.as_ref().is_some_and(|reply| reply.status == 101);
        self.request.upgrade.as_deref().filter(|_| has_switched)
    }

    fn comment(&self) -> Option<String> {
        let left_out = [(&self.sent, "request"), (&self.came, "response")];
        let left_out = left_out.into_iter().filter(|(kept, _)| kept.bytes().is_none());
        let mut words: Vec<String> = left_out
            .map(|(kept, whose)| {
                format!("the body of the {whose} was not recorded; it had {} bytes", kept.count())
            })
            .collect();
        if let Some(protocol) = self.switched_to() {
            words.push(format!("what passed after the switch to {protocol} was not recorded"));
        }
        (!words.is_empty()).then(|| words.join("; "))
    }
}

fn body(kept: &KeptBody) -> EntryBody<'_> {
    match kept.bytes() {
        None => EntryBody::NotRecorded(kept.count()),
        Some([]) => EntryBody::None,
        Some(bytes) => EntryBody::Here(bytes),
    }
}
