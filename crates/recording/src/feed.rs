//! Reads a recording piece by piece.

use std::io::{self, ErrorKind, Read};

use super::bytes::ReusableBuffer;

/// How much is read at a time. It stays in a core's own cache, together with what checking needs there.
pub(super) const READ: usize = 256 << 10;

/// What came of reading on.
#[derive(Debug)]
pub(super) enum ReadOutcome {
    /// As much as was asked for.
    More,
    /// The recording is at its end.
    End,
    /// Reading failed. Behind a damaged part of a compressed recording there may be more.
    Failed {
        /// Why.
        reason: String,
        /// What came just before is damaged, too.
        is_damage: bool,
    },
}

/// A source of bytes that may fail on the way.
#[derive(Debug)]
pub(super) struct ChunkReader<R> {
    source: R,
    failed: bool,
}

impl<R: Read> ChunkReader<R> {
    pub(super) fn new(source: R) -> Self {
        Self { source, failed: false }
    }

    /// Reads on, to the end of what is there already. A source that fails twice in a row is at its end.
    pub(super) fn more(&mut self, bytes: &mut ReusableBuffer) -> ReadOutcome {
        let had = bytes.len();
        let result = self.read(bytes);
        let failed_before = std::mem::take(&mut self.failed) && bytes.len() == had;
        match result {
            Ok(fed) => fed,
            Err(_) if failed_before => ReadOutcome::End,
            Err(error) => {
                self.failed = true;
                let is_damage = error.kind() == ErrorKind::InvalidData;
                ReadOutcome::Failed { reason: format!("reading failed: {error}"), is_damage }
            }
        }
    }

    fn read(&mut self, bytes: &mut ReusableBuffer) -> io::Result<ReadOutcome> {
        let mut left = READ;
        while left > 0 {
            match self.source.read(bytes.room(left)) {
                Ok(0) => return Ok(ReadOutcome::End),
                Ok(came) => {
                    bytes.grow(came.min(left));
                    left -= came.min(left);
                }
                Err(error) if error.kind() == ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
        Ok(ReadOutcome::More)
    }
}
