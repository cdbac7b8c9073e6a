//! Bytes that are read, used and dropped, over and over.

use std::ops::Deref;

/// Bytes in memory that is made ready once: what is dropped leaves room that can be read into as it is.
#[derive(Debug, Default)]
pub(super) struct ReusableBuffer {
    held: Vec<u8>,
    /// So many of those held are meant.
    length: usize,
}

impl Deref for ReusableBuffer {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        self.held.get(..self.length).unwrap_or_default()
    }
}

impl ReusableBuffer {
    /// Room for so many bytes behind those that are there; what stands in it means nothing.
    pub(super) fn room(&mut self, length: usize) -> &mut [u8] {
        let end = self.length.saturating_add(length);
        if self.held.len() < end {
            self.held.resize(end, 0);
        }
        self.held.get_mut(self.length..end).unwrap_or_default()
    }

    /// Takes in so many bytes that were put into the room.
    pub(super) fn grow(&mut self, length: usize) {
        self.length = self.held.len().min(self.length.saturating_add(length));
    }

    pub(super) fn extend_from_slice(&mut self, bytes: &[u8]) {
        self.room(bytes.len()).copy_from_slice(bytes);
        self.grow(bytes.len());
    }

    /// Drops the first so many.
    pub(super) fn drop_first(&mut self, count: usize) {
        let count = count.min(self.length);
        self.held.copy_within(count..self.length, 0);
        self.length -= count;
    }

    pub(super) fn truncate(&mut self, length: usize) {
        self.length = self.length.min(length);
    }

    pub(super) fn clear(&mut self) {
        self.length = 0;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bytes_come_and_go_like_those_of_a_vector() {
        let (mut bytes, mut like) = (ReusableBuffer::default(), Vec::new());
        for round in 0..40_usize {
            bytes.extend_from_slice(&[7; 5]);
            like.extend_from_slice(&[7; 5]);
            let text = format!("{round}, and more");
            bytes.room(text.len() + 3)[..text.len()].copy_from_slice(text.as_bytes());
            bytes.grow(text.len());
            like.extend_from_slice(text.as_bytes());
            match round % 4 {
                0 => {
                    bytes.drop_first(round);
                    like.drain(..round.min(like.len()));
                }
                1 => {
                    bytes.truncate(20);
                    like.truncate(20);
                }
                2 => {}
                _ => {
                    bytes.clear();
                    like.clear();
                }
            }
            assert_eq!(*bytes, *like);
        }
        bytes.drop_first(1000);
        assert_eq!(*bytes, *b"");
    }
}
