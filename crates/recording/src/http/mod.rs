//! HTTP/1.1 messages as they stood on the wire (RFC 9112): `application/http`.
//!
//! Requests and responses alternate in one file, or are in two files that belong together. `frame` finds
//! where a message ends, `splitter` and `pair` match responses to their requests, `exchange` parses both.

mod chunks;
mod exchange;
mod extent;
mod frame;
mod head;
mod message;
mod pair;
mod splitter;

pub use chunks::{ChunkError, ChunkTracker, chunks_of};
pub(super) use exchange::exchange;
pub(crate) use extent::BodyExtent;
pub(super) use frame::{MessageFrame, frame};
pub(super) use head::LONGEST_HEAD;
pub use head::{Head, Start};
pub(crate) use head::{fields, start_line};
pub(crate) use message::{MessageRanges, is_start};
pub(super) use pair::PairSplitter;
pub(super) use splitter::HttpSplitter;
