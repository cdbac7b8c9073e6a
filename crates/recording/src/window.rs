//! A source seen through a window: the bytes that were read and are not done with.

use std::io::Read;

use super::bytes::ReusableBuffer;
use super::feed::{ChunkReader, ReadOutcome};

/// The bytes in work of a source that is read as they are needed.
#[derive(Debug)]
pub(super) struct Window<R> {
    feed: ChunkReader<R>,
    bytes: ReusableBuffer,
    /// Up to there everything is done.
    at: usize,
    /// Where `bytes` starts in the source.
    before: u64,
    is_end: bool,
}

impl<R: Read> Window<R> {
    pub(super) fn new(source: R) -> Self {
        Self {
            feed: ChunkReader::new(source),
            bytes: ReusableBuffer::default(),
            at: 0,
            before: 0,
            is_end: false,
        }
    }

    /// What is not done with, as far as it was read.
    pub(super) fn rest(&self) -> &[u8] {
        self.bytes.get(self.at..).unwrap_or_default()
    }

    /// Where [`Window::rest`] starts in the source.
    pub(super) fn offset(&self) -> u64 {
        self.before + self.at as u64
    }

    /// Where it ends.
    pub(super) fn end(&self) -> u64 {
        self.before + self.bytes.len() as u64
    }

    /// Is there nothing behind it?
    pub(super) fn is_end(&self) -> bool {
        self.is_end
    }

    /// Is done with so many bytes.
    pub(super) fn pass(&mut self, length: usize) {
        self.at = self.bytes.len().min(self.at.saturating_add(length));
    }

    /// Is done with empty lines.
    pub(super) fn pass_blank(&mut self) {
        self.pass(self.rest().iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count());
    }

    /// Reads on, and gives back the memory of what is done.
    pub(super) fn read_on(&mut self) -> ReadOutcome {
        self.before += self.at as u64;
        self.bytes.drop_first(std::mem::take(&mut self.at));
        let fed = self.feed.more(&mut self.bytes);
        self.is_end |= matches!(fed, ReadOutcome::End);
        fed
    }
}
