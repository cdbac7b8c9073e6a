//! What is kept of a body that passes.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

/// How much all bodies that are under way may take together.
#[derive(Debug)]
pub(super) struct MemoryBudget(AtomicUsize);

impl MemoryBudget {
    pub(super) fn new(bytes: usize) -> Self {
        Self(AtomicUsize::new(bytes))
    }

    fn take(&self, bytes: usize) -> bool {
        let less = |left: usize| left.checked_sub(bytes);
        self.0.fetch_update(Ordering::Relaxed, Ordering::Relaxed, less).is_ok()
    }

    fn give(&self, bytes: usize) {
        self.0.fetch_add(bytes, Ordering::Relaxed);
    }
}

/// A body as it passes: its bytes, up to a limit, and how many there were.
#[derive(Debug)]
pub(super) struct KeptBody {
    bytes: Vec<u8>,
    count: u64,
    is_whole: bool,
    limit: usize,
    budget: Arc<MemoryBudget>,
}

impl KeptBody {
    pub(super) fn new(limit: usize, budget: Arc<MemoryBudget>) -> Self {
        Self { bytes: Vec::new(), count: 0, is_whole: true, limit, budget }
    }

    /// Some more came. Beyond the limit, nothing of the body is kept.
    pub(super) fn add(&mut self, bytes: &[u8]) {
        self.count += bytes.len() as u64;
        if !self.is_whole {
            return;
        }
        if self.bytes.len() + bytes.len() > self.limit || !self.budget.take(bytes.len()) {
            self.drop_bytes();
            return;
        }
        self.bytes.extend_from_slice(bytes);
    }

    /// Nothing of the body is kept: it did not come whole.
    pub(super) fn drop_bytes(&mut self) {
        self.is_whole = false;
        self.budget.give(self.bytes.len());
        self.bytes = Vec::new();
    }

    /// All bytes that came, if they were kept.
    pub(super) fn bytes(&self) -> Option<&[u8]> {
        self.is_whole.then_some(self.bytes.as_slice())
    }

    /// How many bytes came.
    pub(super) fn count(&self) -> u64 {
        self.count
    }
}

impl Drop for KeptBody {
    fn drop(&mut self) {
        self.budget.give(self.bytes.len());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_body_is_kept_whole_or_not_at_all_and_gives_back_what_it_took() {
        let budget = Arc::new(MemoryBudget::new(10));
        let mut one = KeptBody::new(6, Arc::clone(&budget));
        one.add(b"abcdef");
        assert_eq!(one.bytes(), Some(&b"abcdef"[..]));
        let mut other = KeptBody::new(6, Arc::clone(&budget));
        other.add(b"gh");
        other.add(b"ijk");
        // The limit would allow it, the budget does not.
        assert_eq!((other.bytes(), other.count()), (None, 5));
        one.add(b"g");
        assert_eq!((one.bytes(), one.count()), (None, 7));
        drop((one, other));
        assert!(budget.take(10));
    }
}
