//! HTTP/1.1 messages as they stood on the wire (RFC 9112): `application/http`.
//!
//! Requests and answers stand in turns in one file, or in two files that belong together. `frame` finds
//! where a message ends, `cutter` and `pair` put answers to their requests, `exchange` reads both.

mod cutter;
mod exchange;
mod frame;
mod head;
mod pair;

use std::ops::Range;

pub(super) use cutter::HttpSplitter;
pub(super) use exchange::exchange;
pub use frame::chunks_of;
pub(super) use frame::{BodyLength, MessageFrame, frame, framing};
pub(super) use head::LONGEST_HEAD;
pub use head::{Head, Start};
pub(super) use pair::PairSplitter;

/// Does a message start with this line?
pub(super) fn is_start(line: &[u8]) -> bool {
    head::start_line(line).is_some()
}

/// The messages of one exchange: where they stand in a batch.
#[derive(Debug, Clone)]
pub(super) struct MessageRanges {
    pub(super) request: Range<usize>,
    /// Less of the request is there than it announces.
    pub(super) request_is_cut: bool,
    /// The final answer, if any came.
    pub(super) answer: Option<Range<usize>>,
    /// Less of the answer came than it announces.
    pub(super) answer_is_cut: bool,
    /// The response's content stands elsewhere.
    pub(super) answer_is_elsewhere: bool,
    /// Each message stands in a block of its own, which tells where it ends.
    pub(super) is_enclosed: bool,
    /// The URL, where it is known from elsewhere.
    pub(super) url: Option<String>,
    /// When the request was sent, where it is known from elsewhere.
    pub(super) started: Option<String>,
    /// The server's address, where it is known from elsewhere.
    pub(super) server: Option<String>,
}
