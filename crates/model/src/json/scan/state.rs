//! Where a scan stands: in a string or not, and which brackets are open.

use super::block::BlockMask;

/// Where a scan stands between two bytes.
#[derive(Debug, Clone, Default)]
pub struct ScanState {
    /// All ones within a string.
    in_string: u64,
    /// One where the next byte is escaped.
    escaped: u64,
    /// How many brackets are open.
    depth: usize,
    /// The kinds of the innermost up to 64, the innermost lowest: one for a square bracket.
    kinds: u64,
    /// The kinds of those further out, 64 at a time.
    outer: Vec<u64>,
}

impl ScanState {
    /// Outside of everything.
    pub fn reset(&mut self) {
        self.in_string = 0;
        self.escaped = 0;
        self.depth = 0;
        self.kinds = 0;
        self.outer.clear();
    }

    /// Is no bracket open?
    pub(super) fn is_outside(&self) -> bool {
        self.depth == 0
    }

    /// Does the next byte stand within a string?
    #[inline(always)]
    pub(super) fn is_in_string(&self) -> bool {
        self.in_string != 0
    }

    /// Within a string: goes on behind a block of 64 bytes, unless the string ends in it. Then its quotation marks are given, and
    /// the state is still that before it.
    #[inline(always)]
    pub(super) fn end_of_string(&mut self, marks: BlockMask) -> u64 {
        let escaped = self.escaped;
        let end = self.quotes(marks, 64);
        if end != 0 {
            self.escaped = escaped;
        }
        end
    }

    /// The quotation marks of a block that begin or end a string. The state is then that behind `length`
    /// bytes of it.
    #[inline(always)]
    pub(super) fn quotes(&mut self, marks: BlockMask, length: usize) -> u64 {
        marks.quotes & !self.escapes(marks.backslashes, length)
    }

    /// The bytes of a block that stand within strings, the opening quotation marks with them.
    #[inline(always)]
    pub(super) fn strings(&mut self, quotes: u64) -> u64 {
        let inside = spread(quotes) ^ self.in_string;
        self.in_string = (inside.cast_signed() >> 63).cast_unsigned();
        inside
    }

    /// The bytes of a block that stand behind a backslash which is not escaped itself.
    #[inline(always)]
    fn escapes(&mut self, backslashes: u64, length: usize) -> u64 {
        const EVEN: u64 = 0x5555_5555_5555_5555;
        if backslashes == 0 {
            return std::mem::take(&mut self.escaped);
        }
        let behind = backslashes << 1 | self.escaped;
        if backslashes & behind == 0 {
            // No two in a row: each escapes what comes behind it.
            self.escaped = match length {
                64 => backslashes >> 63,
                length => behind >> length & 1,
            };
            return behind;
        }
        let backslashes = backslashes & !self.escaped;
        let behind = backslashes << 1 | self.escaped;
        // A run of backslashes that starts at an odd place makes a carry ripple through to its end.
        let odd_starts = backslashes & !EVEN & !behind;
        let (odd_ends, carry) = odd_starts.overflowing_add(backslashes);
        let escapes = (EVEN ^ (odd_ends << 1)) & behind;
        self.escaped = match length {
            64 => u64::from(carry),
            length => escapes >> length & 1,
        };
        escapes
    }

    /// Enters a bracket.
    #[inline(always)]
    pub(super) fn opens(&mut self, bracket: u8) {
        if self.depth != 0 && self.depth.is_multiple_of(64) {
            self.outer.push(self.kinds);
        }
        self.kinds = self.kinds << 1 | is_square(bracket);
        self.depth += 1;
    }

    /// Leaves a bracket; `false` if it closes what it did not open.
    #[inline(always)]
    pub(super) fn closes(&mut self, bracket: u8) -> bool {
        if self.depth == 0 || self.kinds & 1 != is_square(bracket) {
            return false;
        }
        self.kinds >>= 1;
        self.depth -= 1;
        if self.depth != 0 && self.depth.is_multiple_of(64) {
            self.kinds = self.outer.pop().unwrap_or_default();
        }
        true
    }
}

/// `[` and `]` lack the bit that `{` and `}` have.
#[inline(always)]
fn is_square(bracket: u8) -> u64 {
    u64::from(bracket & 0x20 == 0)
}

/// Each bit is the parity of the bits up to it: ones from every odd one to the next even one.
#[inline(always)]
fn spread(bits: u64) -> u64 {
    let mut bits = bits;
    for by in [1, 2, 4, 8, 16, 32] {
        bits ^= bits << by;
    }
    bits
}
