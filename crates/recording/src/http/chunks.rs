//! A body in chunks (RFC 9112 section 7.1), followed in whatever pieces it comes: in a recording as a whole, at a recorder as it
//! passes.

use std::ops::Range;

/// A chunk's extensions and the trailer section are read no further than this.
const LONGEST_EXTRA: usize = 64 << 10;

/// Where in the chunks a reader is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChunkTracker {
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

/// Why a body is not one in chunks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChunkError(pub &'static str);

impl ChunkTracker {
    /// Before the first chunk.
    pub const START: Self = Self { step: ChunkState::Length { some: false }, left: 0, extra: 0 };

    /// Is the body at its end, behind the trailer section?
    #[must_use]
    pub fn is_done(&self) -> bool {
        self.step == ChunkState::Done
    }

    /// Is the content at its end? A trailer section may follow.
    #[must_use]
    pub fn is_past_content(&self) -> bool {
        matches!(self.step, ChunkState::Trailer { .. } | ChunkState::Done)
    }

    /// Goes over bytes that came. Gives how many of them are the body's; `content` gets the ranges in them that are
    /// content.
    ///
    /// # Errors
    /// Where they are no chunks.
    pub fn take(
        &mut self,
        bytes: &[u8],
        content: impl FnMut(Range<usize>),
    ) -> Result<usize, ChunkError> {
        self.take_with_trailers(bytes, content, |_| {})
    }

    /// The same; `trailers` gets the bytes of the trailer section, line ends and all.
    ///
    /// # Errors
    /// Where they are no chunks.
    pub fn take_with_trailers(
        &mut self,
        bytes: &[u8],
        mut content: impl FnMut(Range<usize>),
        mut trailers: impl FnMut(u8),
    ) -> Result<usize, ChunkError> {
        let mut at = 0;
        while let Some(byte) = bytes.get(at).filter(|_| self.step != ChunkState::Done) {
            if self.step == ChunkState::Data {
                let length = usize::try_from(self.left).unwrap_or(usize::MAX).min(bytes.len() - at);
                content(at..at + length);
                self.left -= length as u64;
                at += length;
                if self.left == 0 {
                    self.step = ChunkState::DataEnd;
                }
                continue;
            }
            if let ChunkState::Trailer { .. } = self.step {
                trailers(*byte);
            }
            self.byte(*byte)?;
            at += 1;
        }
        Ok(at)
    }

    fn byte(&mut self, byte: u8) -> Result<(), ChunkError> {
        self.step = match (self.step, byte) {
            (ChunkState::Length { .. }, byte) if byte.is_ascii_hexdigit() => {
                let digit = char::from(byte).to_digit(16).unwrap_or_default();
                let longer = self.left.checked_mul(16).ok_or(ChunkError("a chunk without end"))?;
                self.left = longer + u64::from(digit);
                ChunkState::Length { some: true }
            }
            (ChunkState::Length { some: true }, b'\n') => self.begun(),
            (ChunkState::Length { some: true }, b'\r' | b';' | b' ' | b'\t') => {
                ChunkState::Extension
            }
            (ChunkState::Length { .. }, _) => return Err(ChunkError("a chunk without a length")),
            (ChunkState::Extension, b'\n') => self.begun(),
            (ChunkState::Extension, _) => self.more(ChunkState::Extension)?,
            (ChunkState::DataEnd, b'\r') => ChunkState::DataEnd,
            (ChunkState::DataEnd, b'\n') => ChunkState::Length { some: false },
            (ChunkState::DataEnd, _) => {
                return Err(ChunkError("a chunk that is longer than it says"));
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

    fn more(&mut self, step: ChunkState) -> Result<ChunkState, ChunkError> {
        self.extra += 1;
        if self.extra > LONGEST_EXTRA {
            return Err(ChunkError("extensions or trailers without end"));
        }
        Ok(step)
    }
}

/// Where the content of a chunked body stands in it, if it is one from its start to its end.
#[must_use]
pub fn chunks_of(bytes: &[u8]) -> Option<Vec<Range<usize>>> {
    let (mut tracker, mut ranges) = (ChunkTracker::START, Vec::new());
    tracker.take(bytes, |range| ranges.push(range)).ok()?;
    tracker.is_past_content().then_some(ranges)
}

/// The content of a chunked body, if it is one.
pub(super) fn unchunked(bytes: &[u8]) -> Option<Vec<u8>> {
    let ranges = chunks_of(bytes)?.into_iter();
    Some(ranges.filter_map(|range| bytes.get(range)).flatten().copied().collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is read of these bytes in pieces of a size: how many are the body's, its content, and whether it is whole.
    fn read(bytes: &[u8], size: usize) -> Result<(usize, Vec<u8>, bool), ChunkError> {
        let (mut tracker, mut kept, mut taken) = (ChunkTracker::START, Vec::new(), 0);
        for piece in bytes.chunks(size) {
            let length = tracker.take(piece, |range| kept.extend_from_slice(&piece[range]))?;
            taken += length;
            if length < piece.len() {
                break;
            }
        }
        Ok((taken, kept, tracker.is_done()))
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
            assert_eq!(read(bytes, 1), Err(ChunkError(why)));
        }
        let endless = [b"0\r\n".to_vec(), vec![b'x'; LONGEST_EXTRA + 1]].concat();
        assert_eq!(read(&endless, 999), Err(ChunkError("extensions or trailers without end")));
    }

    #[test]
    fn chunks_come_apart_only_as_a_whole() {
        assert_eq!(unchunked(b"2\r\n{}\r\n0\r\n\r\n").unwrap(), b"{}");
        assert_eq!(unchunked(b"{\"not\": \"chunked\"}\n"), None);
        assert_eq!(unchunked(b"20\r\n{}\r\n"), None);
        assert_eq!(unchunked(b"fffffffff\r\n"), None);
    }
}
