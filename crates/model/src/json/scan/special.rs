//! Goes from string to string through a text, 64 bytes at a time.

use super::block::{plain_prefix, special_mask};

/// Finds where plain strings end. What was seen of the last 64 bytes is kept, so that a reader who goes from one
/// string to the next looks at each byte once.
#[derive(Debug)]
pub struct SpecialBytes<'b> {
    bytes: &'b [u8],
    /// Where the 64 bytes begin.
    base: usize,
    mask: u64,
}

impl<'b> SpecialBytes<'b> {
    pub fn new(bytes: &'b [u8]) -> Self {
        // Of no bytes, nothing was seen yet.
        Self { bytes, base: usize::MAX, mask: 0 }
    }

    /// The place of the first quotation mark, backslash or control character from a place on, where there is one.
    #[inline]
    pub fn next(&mut self, from: usize) -> Option<usize> {
        let mut base = from;
        if let Some(behind) = from.checked_sub(self.base).filter(|behind| *behind < 64) {
            let mask = self.mask & (u64::MAX << behind);
            if mask != 0 {
                return Some(self.base + mask.trailing_zeros() as usize);
            }
            base = self.base + 64;
        }
        self.look(base)
    }

    /// The same, where nothing is known of these bytes.
    #[inline]
    fn look(&mut self, mut base: usize) -> Option<usize> {
        while let Some(block) = self.bytes.get(base..)?.first_chunk() {
            (self.base, self.mask) = (base, special_mask(block));
            if self.mask != 0 {
                return Some(base + self.mask.trailing_zeros() as usize);
            }
            base += 64;
        }
        let rest = self.bytes.get(base..)?;
        let length = plain_prefix(rest);
        (length < rest.len()).then_some(base + length)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Asked for any places in any order, it finds what a look at each byte finds.
        #[test]
        fn stops_are_found_from_anywhere(
            text in "[abc\"\\\\\u{1}é]{0,3}[a-zé]{0,100}[a\"\\\\]{0,3}[a-z]{0,70}",
            locations in prop::collection::vec(any::<prop::sample::Index>(), 1..20),
        ) {
            let bytes = text.as_bytes();
            let mut stops = SpecialBytes::new(bytes);
            for location in locations {
                let from = location.index(bytes.len() + 1);
                let is_stop = |at: &usize| matches!(bytes[*at], 0..0x20 | b'"' | b'\\');
                prop_assert_eq!(stops.next(from), (from..bytes.len()).find(is_stop));
            }
        }
    }
}
