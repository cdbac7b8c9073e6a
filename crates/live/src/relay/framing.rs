//! Where a message's body ends (RFC 9112 section 6), told while it passes.

use faithful_clerk_recording::{ChunkError, ChunkTracker};

use super::body_buffer::KeptBody;
use super::head::{Field, LONGEST_HEAD, MOST_FIELDS, texts};

/// How a body ends.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum BodyFraming {
    /// After so many bytes more.
    Length(u64),
    /// With its last chunk, and the trailer section behind it, as far as it came.
    Chunked(ChunkTracker, Vec<u8>),
    /// With the connection.
    UntilClose,
}

impl BodyFraming {
    /// No body at all.
    pub(super) const NONE: Self = Self::Length(0);

    /// A body in chunks, none of which was seen yet.
    pub(super) const CHUNKED: Self = Self::Chunked(ChunkTracker::START, Vec::new());

    /// Is the body at its end?
    pub(super) fn is_done(&self) -> bool {
        match self {
            Self::Length(left) => *left == 0,
            Self::Chunked(chunks, _) => chunks.is_done(),
            Self::UntilClose => false,
        }
    }

    /// The trailer section's fields (RFC 9112 section 7.1.2), as far as they are some.
    pub(super) fn trailers(&self) -> Vec<Field> {
        let Self::Chunked(_, section) = self else { return Vec::new() };
        let mut fields = [httparse::EMPTY_HEADER; MOST_FIELDS];
        match httparse::parse_headers(section, &mut fields) {
            Ok(httparse::Status::Complete((_, fields))) => texts(fields),
            Ok(httparse::Status::Partial) | Err(_) => Vec::new(),
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
            Self::Chunked(chunks, trailers) => chunks.take_with_trailers(
                bytes,
                |range| kept.add(bytes.get(range).unwrap_or_default()),
                |byte| {
                    if trailers.len() < LONGEST_HEAD {
                        trailers.push(byte);
                    }
                },
            ),
            Self::UntilClose => {
                kept.add(bytes);
                Ok(bytes.len())
            }
        }
    }
}
