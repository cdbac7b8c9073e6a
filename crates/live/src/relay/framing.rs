//! Where a message's body ends (RFC 9112 section 6), told while it passes.

use faithful_clerk_recording::{ChunkError, ChunkTracker};

use super::body_buffer::KeptBody;

/// How a body ends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum BodyFraming {
    /// After so many bytes more.
    Length(u64),
    /// With its last chunk.
    Chunked(ChunkTracker),
    /// With the connection.
    UntilClose,
}

impl BodyFraming {
    /// No body at all.
    pub(super) const NONE: Self = Self::Length(0);

    /// A body in chunks, none of which was seen yet.
    pub(super) const CHUNKED: Self = Self::Chunked(ChunkTracker::START);

    /// Is the body at its end?
    pub(super) fn is_done(&self) -> bool {
        match self {
            Self::Length(left) => *left == 0,
            Self::Chunked(chunks) => chunks.is_done(),
            Self::UntilClose => false,
        }
    }

    /// Goes over bytes that came. Gives how many of them are the message's, and keeps its content.
    pub(super) fn take(&mut self, bytes: &[u8], kept: &mut KeptBody) -> Result<usize, ChunkError> {
        match self {
            Self::Length(left) => {
                let length = usize::try_from(*left).unwrap_or(usize::MAX).min(bytes.len());
                kept.add(bytes.get(..length).unwrap_or_default());
                *left -= length as u64;
                Ok(length)
            }
            Self::Chunked(chunks) => {
                chunks.take(bytes, |range| kept.add(bytes.get(range).unwrap_or_default()))
            }
            Self::UntilClose => {
                kept.add(bytes);
                Ok(bytes.len())
            }
        }
    }
}
