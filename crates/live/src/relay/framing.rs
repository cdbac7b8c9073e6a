//! Where a message's body ends (RFC 9112 section 6), told while it passes.

use super::body_buffer::KeptBody;

/// A chunk's extensions and the trailer section are read no further than this.
const LONGEST_EXTRA: usize = 64 << 10;

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

/// Where in the chunks a reader is (RFC 9112 section 7.1).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct ChunkTracker {
    step: ChunkState,
    /// What is left of the chunk, or its length as far as it was read.
    left: u64,
    /// How much was read of what is neither length nor data.
    extra: usize,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum ChunkState {
    /// In the length; has a digit come yet?
    Length {
        some: bool,
    },
    /// In what stands behind the length, up to the end of its line.
    Extension,
    Data,
    /// Behind the data, up to the end of the line.
    DataEnd,
    /// In the trailer section; has the line anything in it?
    Trailer {
        some: bool,
    },
    Done,
}

/// Why a body cannot be followed any further.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct FramingError(pub(super) &'static str);

impl BodyFraming {
    /// No body at all.
    pub(super) const NONE: Self = Self::Length(0);

    /// A body in chunks, none of which was seen yet.
    pub(super) const CHUNKED: Self =
        Self::Chunked(ChunkTracker { step: ChunkState::Length { some: false }, left: 0, extra: 0 });

    /// Is the body at its end?
    pub(super) fn is_done(&self) -> bool {
        match self {
            Self::Length(left) => *left == 0,
            Self::Chunked(chunks) => chunks.step == ChunkState::Done,
            Self::UntilClose => false,
        }
    }

    /// Goes over bytes that came. Gives how many of them are the message's, and keeps its content.
    pub(super) fn take(
        &mut self,
        bytes: &[u8],
        kept: &mut KeptBody,
    ) -> Result<usize, FramingError> {
        match self {
            Self::Length(left) => {
                let length = usize::try_from(*left).unwrap_or(usize::MAX).min(bytes.len());
                kept.add(bytes.get(..length).unwrap_or_default());
                *left -= length as u64;
                Ok(length)
            }
            Self::Chunked(chunks) => chunks.take(bytes, kept),
            Self::UntilClose => {
                kept.add(bytes);
                Ok(bytes.len())
            }
        }
    }
}

impl ChunkTracker {
    fn take(&mut self, bytes: &[u8], kept: &mut KeptBody) -> Result<usize, FramingError> {
        let mut at = 0;
        while let Some(byte) = bytes.get(at).filter(|_| self.step != ChunkState::Done) {
            if self.step == ChunkState::Data {
                let length = usize::try_from(self.left).unwrap_or(usize::MAX).min(bytes.len() - at);
                kept.add(bytes.get(at..at + length).unwrap_or_default());
                self.left -= length as u64;
                at += length;
                if self.left == 0 {
                    self.step = ChunkState::DataEnd;
                }
                continue;
            }
            self.byte(*byte)?;
            at += 1;
        }
        Ok(at)
    }

    fn byte(&mut self, byte: u8) -> Result<(), FramingError> {
        self.step = match (self.step, byte) {
            (ChunkState::Length { .. }, byte) if byte.is_ascii_hexdigit() => {
                let digit = char::from(byte).to_digit(16).unwrap_or_default();
                let longer =
                    self.left.checked_mul(16).ok_or(FramingError("a chunk without end"))?;
                self.left = longer + u64::from(digit);
                ChunkState::Length { some: true }
            }
            (ChunkState::Length { some: true }, b'\n') => self.begun(),
            (ChunkState::Length { some: true }, b'\r' | b';' | b' ' | b'\t') => {
                ChunkState::Extension
            }
            (ChunkState::Length { .. }, _) => return Err(FramingError("a chunk without a length")),
            (ChunkState::Extension, b'\n') => self.begun(),
            (ChunkState::Extension, _) => self.more(ChunkState::Extension)?,
            (ChunkState::DataEnd, b'\r') => ChunkState::DataEnd,
            (ChunkState::DataEnd, b'\n') => ChunkState::Length { some: false },
            (ChunkState::DataEnd, _) => {
                return Err(FramingError("a chunk that is longer than it says"));
            }
            (ChunkState::Trailer { some: false }, b'\n') => ChunkState::Done,
            (ChunkState::Trailer { .. }, b'\n') => ChunkState::Trailer { some: false },
            (ChunkState::Trailer { some }, b'\r') => ChunkState::Trailer { some },
            (ChunkState::Trailer { .. }, _) => self.more(ChunkState::Trailer { some: true })?,
            (step @ (ChunkState::Data | ChunkState::Done), _) => step,
        };
        Ok(())
    }

    /// The line of a chunk's length is at its end.
    fn begun(&self) -> ChunkState {
        if self.left == 0 { ChunkState::Trailer { some: false } } else { ChunkState::Data }
    }

    fn more(&mut self, step: ChunkState) -> Result<ChunkState, FramingError> {
        self.extra += 1;
        if self.extra > LONGEST_EXTRA {
            return Err(FramingError("extensions or trailers without end"));
        }
        Ok(step)
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::super::body_buffer::MemoryBudget;
    use super::*;

    /// What is read of these bytes in pieces of a size: how many are the message's, and its content.
    fn read(bytes: &[u8], size: usize) -> Result<(usize, Vec<u8>, bool), FramingError> {
        let (mut framing, mut kept) =
            (BodyFraming::CHUNKED, KeptBody::new(1000, Arc::new(MemoryBudget::new(1000))));
        let mut taken = 0;
        for entry in bytes.chunks(size) {
            let length = framing.take(entry, &mut kept)?;
            taken += length;
            if length < entry.len() {
                break;
            }
        }
        Ok((taken, kept.bytes().unwrap_or_default().to_vec(), framing.is_done()))
    }

    #[test]
    fn chunks_are_followed_however_they_come() {
        let whole = b"4\r\nWiki\r\n6;name=\"x\"\r\npedia \r\nA\r\nin chunks.\r\n0\r\nDigest: x\r\n\r\nGET /";
        for size in 1..whole.len() {
            let (taken, content, done) = read(whole, size).unwrap();
            assert_eq!((taken, done), (whole.len() - 5, true), "{size}");
            assert_eq!(content, b"Wikipedia in chunks.", "{size}");
        }
        assert_eq!(read(b"2\n{}\n0\n\n", 3), Ok((8, b"{}".to_vec(), true)));
        assert_eq!(read(b"2\r\n{}\r\n0\r\n", 3), Ok((10, b"{}".to_vec(), false)));
    }

    #[test]
    fn what_is_no_chunk_is_said_to_be_none() {
        for (bytes, why) in [
            (&b"zz\r\n"[..], "a chunk without a length"),
            (b"\r\n", "a chunk without a length"),
            (b"2\r\nabc\r\n", "a chunk that is longer than it says"),
            (b"fffffffffffffffff\r\n", "a chunk without end"),
        ] {
            assert_eq!(read(bytes, 1), Err(FramingError(why)));
        }
        let endless = [b"0\r\n".to_vec(), vec![b'x'; LONGEST_EXTRA + 1]].concat();
        assert_eq!(read(&endless, 999), Err(FramingError("extensions or trailers without end")));
    }
}
