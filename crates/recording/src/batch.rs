//! What splitters hand over: whole exchanges, unread, with the bytes that they stand in.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use super::bytes::ReusableBuffer;
use super::http::{self, MessageRanges};
use super::{LineMap, Unreadable, har};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::Exchange;

/// The largest entry that is read; a larger one is named and skipped.
pub const LARGEST_ENTRY: usize = 64 << 20;

/// Cuts a recording into its exchanges.
///
/// It is used by several threads in turn, so it does no more than to find where things start and end.
pub trait Splitter: Send {
    /// Fills the batch with what comes next. `false` once there is nothing more.
    fn next(&mut self, batch: &mut Batch) -> bool;
}

/// Whole exchanges, with the bytes that they stand in. Reused from batch to batch.
#[derive(Debug, Default)]
pub struct Batch {
    pub(super) bytes: ReusableBuffer,
    pub(super) entries: Vec<RawEntry>,
    /// What could not be read on the way.
    pub unreadable: Vec<Unreadable>,
    /// What reads those of its exchanges that need a map.
    pub(super) map: Option<Arc<LineMap>>,
}

/// One exchange of a batch, unread.
#[derive(Debug)]
pub struct RawEntry {
    /// Its number in the recording, from 1.
    pub number: u64,
    /// Where it starts in the recording, in bytes.
    pub offset: u64,
    pub(super) parts: RawParts,
}

/// How an exchange stands in a recording.
#[derive(Debug)]
pub(super) enum RawParts {
    /// As an entry of a HAR file, at this range of the batch's bytes.
    Entry(Range<usize>),
    /// As JSON that a map reads, at this range of the batch's bytes, in that line of the recording.
    Mapped(Range<usize>, u64),
    /// As HTTP messages.
    Messages(MessageRanges),
}

impl Batch {
    /// The exchanges.
    #[must_use]
    pub fn entries(&self) -> &[RawEntry] {
        &self.entries
    }

    /// The bytes of one of its pieces, where they stand in one place.
    #[must_use]
    pub fn entry(&self, piece: &RawEntry) -> Option<&[u8]> {
        match &piece.parts {
            RawParts::Entry(range) => self.bytes.get(range.clone()),
            RawParts::Mapped(..) | RawParts::Messages(_) => None,
        }
    }

    /// Reads one of its pieces.
    ///
    /// # Errors
    /// What it lacks or has wrong.
    pub fn exchange(&self, piece: &RawEntry, recording: u32) -> Result<Exchange<'_>, String> {
        let address = Address { recording, number: piece.number };
        let mut exchange = match &piece.parts {
            RawParts::Entry(range) => {
                har::exchange(self.bytes.get(range.clone()).unwrap_or_default(), address)
            }
            RawParts::Mapped(range, line) => self
                .map
                .as_ref()
                .ok_or_else(|| "no map says what is in it".to_owned())
                .and_then(|map| {
                    map.exchange(self.bytes.get(range.clone()).unwrap_or_default(), address)
                })
                .map_err(|why| format!("line {line}: {why}")),
            RawParts::Messages(messages) => http::exchange(messages, &self.bytes, address),
        }?;
        exchange.offset = piece.offset;
        // An interim response announces one that never came (RFC 9110 section 15.2); 101 is the last of its protocol.
        let status = exchange.response.as_ref().map(|response| response.status);
        if let Some(status @ (100 | 102..=199)) = status {
            exchange.response = None;
            exchange.no_response = Some(Cow::Owned(format!("only an interim response, {status}")));
        }
        Ok(exchange)
    }

    pub(super) fn clear(&mut self) {
        self.bytes.clear();
        self.entries.clear();
        self.unreadable.clear();
    }

    pub(super) fn is_empty(&self) -> bool {
        self.entries.is_empty() && self.unreadable.is_empty()
    }

    /// Adds a copy of some bytes.
    pub(super) fn keep(&mut self, bytes: &[u8]) -> Range<usize> {
        let start = self.bytes.len();
        self.bytes.extend_from_slice(bytes);
        start..self.bytes.len()
    }
}
