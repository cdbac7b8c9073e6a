//! Recordings: bytes in, exchanges out, one at a time, whatever form they are in.
//!
//! A recording is never held as a whole. [`open`] unpacks it, recognises its [`Format`] and gives a
//! [`Splitter`], which finds where each exchange starts and ends and hands them over in batches;
//! [`Batch::exchange`] parses one. What can't be read is [`Unreadable`], and the rest goes on.

mod batch;
mod bytes;
mod cursor;
mod feed;
mod format;
pub mod har;
mod http;
mod jsonl;
mod map;
mod open;
mod parts;
mod traversal;
#[cfg(feature = "compression")]
mod unpack;
#[cfg(not(feature = "compression"))]
#[path = "no_unpack.rs"]
mod unpack;
mod unreadable;
mod warc;
mod window;
mod write;

pub use batch::{Batch, LARGEST_ENTRY, RawEntry, Splitter};
pub use format::Format;

pub use http::{ChunkError, ChunkTracker, Head, Start, chunks_of};
pub use map::LineMap;
pub use open::{ReadOptions, Source, open, recognise};
pub use parts::{RecordingPart, recording_parts};
pub use traversal::{Traversal, Visitor};
pub use unpack::unpack;
pub use unreadable::{MOST_UNREADABLE, Unreadable, UnreadableParts};
pub use write::{RecordingWriter, WriteSummary};

const BYTE_ORDER_MARK: &[u8] = b"\xef\xbb\xbf";

fn too_large(most: usize) -> String {
    format!("the entry is larger than {most} bytes, the most that is read")
}
