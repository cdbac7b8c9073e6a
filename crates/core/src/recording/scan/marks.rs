//! Where quotation marks, backslashes and brackets stand in 64 bytes.
//!
//! The only module with `unsafe`: vector loads, and calls of functions that need a feature of the
//! processor which was asked for just before. [`scalar`] is what the others have to agree with.
#![allow(unsafe_code, reason = "vector loads; see the comments at each of them")]

/// A bit for each of 64 bytes, the first byte the lowest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Marks {
    /// `"`
    pub(super) quotes: u64,
    /// `\`
    pub(super) backslashes: u64,
    /// `{`, `[`, `}` and `]`
    pub(super) brackets: u64,
}

/// Sixty-four bytes.
pub(super) type Block = [u8; 64];

/// Something that is done block by block. Written once, compiled for every kind of processor.
pub(super) trait Job {
    /// What comes of it.
    type Outcome;
    /// Does it, with the means that are given to mark blocks. Implementations are `inline(always)`, so that
    /// they are compiled together with these means.
    fn run(self, marks: impl Fn(&Block) -> Marks) -> Self::Outcome;
}

/// Does a job with the best means that this processor has.
#[inline]
pub(super) fn with_best<J: Job>(job: J) -> J::Outcome {
    #[cfg(target_arch = "x86_64")]
    {
        if std::arch::is_x86_feature_detected!("avx2") {
            // SAFETY: the processor has AVX2, as was asked just now.
            return unsafe { x86::with_avx2(job) };
        }
        job.run(x86::with_sse2)
    }
    #[cfg(not(target_arch = "x86_64"))]
    job.run(scalar)
}

/// Byte by byte: for processors of other kinds, and what the others are tested against.
#[cfg_attr(target_arch = "x86_64", allow(dead_code, reason = "the twin for tests"))]
#[inline(always)]
pub(super) fn scalar(block: &Block) -> Marks {
    let mut marks = Marks::default();
    for (at, byte) in block.iter().enumerate() {
        let bit = 1 << at;
        match byte {
            b'"' => marks.quotes |= bit,
            b'\\' => marks.backslashes |= bit,
            b'{' | b'[' | b'}' | b']' => marks.brackets |= bit,
            _ => {}
        }
    }
    marks
}

/// How many bytes there are before the first quotation mark, backslash or control character.
#[inline]
pub(in crate::recording) fn plain_run(bytes: &[u8]) -> usize {
    let mut length = 0;
    #[cfg(target_arch = "x86_64")]
    while let Some(sixteen) = bytes.get(length..).and_then(<[u8]>::first_chunk::<16>) {
        let found = x86::not_plain(sixteen);
        if found != 0 {
            return length + found.trailing_zeros() as usize;
        }
        length += 16;
    }
    let rest = bytes.get(length..).unwrap_or_default();
    length + rest.iter().position(is_stop).unwrap_or(rest.len())
}

/// How many of sixteen bytes come before the first of these.
#[inline(always)]
pub(super) fn plain_start(bytes: &[u8; 16]) -> usize {
    #[cfg(target_arch = "x86_64")]
    {
        (x86::not_plain(bytes) | 1 << 16).trailing_zeros() as usize
    }
    #[cfg(not(target_arch = "x86_64"))]
    {
        bytes.iter().position(is_stop).unwrap_or(bytes.len())
    }
}

/// Is this a byte that no plain string has in it, or the one that ends it?
fn is_stop(byte: &u8) -> bool {
    matches!(byte, 0..0x20 | b'"' | b'\\')
}

/// Where these stand among 64 bytes.
#[inline(always)]
pub(super) fn stops(block: &Block) -> u64 {
    #[cfg(target_arch = "x86_64")]
    {
        let (quarters, _) = block.as_chunks::<16>();
        let found = quarters.iter().enumerate();
        found.fold(0, |all, (at, quarter)| all | u64::from(x86::not_plain(quarter)) << (at * 16))
    }
    #[cfg(not(target_arch = "x86_64"))]
    {
        let found = block.iter().enumerate().filter(|(_, byte)| is_stop(byte));
        found.fold(0, |all, (at, _)| all | 1 << at)
    }
}

#[cfg(target_arch = "x86_64")]
mod x86 {
    use std::arch::x86_64::{
        __m128i, __m256i, _mm_cmpeq_epi8, _mm_loadu_si128, _mm_min_epu8, _mm_movemask_epi8,
        _mm_or_si128, _mm_set1_epi8, _mm256_cmpeq_epi8, _mm256_loadu_si256, _mm256_movemask_epi8,
        _mm256_or_si256, _mm256_set1_epi8,
    };

    use super::{Block, Job, Marks};

    // The four brackets differ from one another in these ways: `[` and `{`, `]` and `}` only in the bit 0x20.
    const CASE: i8 = 0x20;
    const OPENS: i8 = b'{'.cast_signed();
    const CLOSES: i8 = b'}'.cast_signed();
    const QUOTE: i8 = b'"'.cast_signed();
    const BACKSLASH: i8 = b'\\'.cast_signed();

    /// # Safety
    /// The processor must have AVX2.
    #[target_feature(enable = "avx2")]
    pub(super) unsafe fn with_avx2<J: Job>(job: J) -> J::Outcome {
        job.run(
            #[inline(always)]
            |block| avx2(block),
        )
    }

    #[inline]
    #[target_feature(enable = "avx2")]
    fn avx2(block: &Block) -> Marks {
        let mut marks = Marks::default();
        for half in 0..2 {
            // SAFETY: 32 bytes from 0 or 32 on lie within the block's 64; the load may be unaligned.
            let bytes: __m256i =
                unsafe { _mm256_loadu_si256(block.as_ptr().add(half * 32).cast()) };
            let equal = |byte: i8, bytes: __m256i| _mm256_cmpeq_epi8(bytes, _mm256_set1_epi8(byte));
            let bits = |found: __m256i| {
                u64::from(_mm256_movemask_epi8(found).cast_unsigned()) << (half * 32)
            };
            let cased = _mm256_or_si256(bytes, _mm256_set1_epi8(CASE));
            marks.quotes |= bits(equal(QUOTE, bytes));
            marks.backslashes |= bits(equal(BACKSLASH, bytes));
            marks.brackets |= bits(_mm256_or_si256(equal(OPENS, cased), equal(CLOSES, cased)));
        }
        marks
    }

    /// The quotation marks, backslashes and control characters among sixteen bytes, a bit each.
    #[inline(always)]
    pub(super) fn not_plain(bytes: &[u8; 16]) -> u32 {
        // SAFETY: SSE2 is part of x86-64; the load is of all sixteen bytes, and may be unaligned.
        unsafe {
            let bytes = _mm_loadu_si128(bytes.as_ptr().cast());
            let quotes = _mm_cmpeq_epi8(bytes, _mm_set1_epi8(QUOTE));
            let backslashes = _mm_cmpeq_epi8(bytes, _mm_set1_epi8(BACKSLASH));
            let control = _mm_cmpeq_epi8(_mm_min_epu8(bytes, _mm_set1_epi8(0x1f)), bytes);
            let found = _mm_or_si128(_mm_or_si128(quotes, backslashes), control);
            _mm_movemask_epi8(found).cast_unsigned()
        }
    }

    #[inline(always)]
    pub(super) fn with_sse2(block: &Block) -> Marks {
        // SAFETY: SSE2 is part of x86-64.
        unsafe { sse2(block) }
    }

    #[inline]
    #[target_feature(enable = "sse2")]
    fn sse2(block: &Block) -> Marks {
        let mut marks = Marks::default();
        for quarter in 0..4 {
            // SAFETY: 16 bytes from 0, 16, 32 or 48 on lie within the block's 64; the load may be unaligned.
            let bytes: __m128i =
                unsafe { _mm_loadu_si128(block.as_ptr().add(quarter * 16).cast()) };
            let equal = |byte: i8, bytes: __m128i| _mm_cmpeq_epi8(bytes, _mm_set1_epi8(byte));
            let bits = |found: __m128i| {
                u64::from(_mm_movemask_epi8(found).cast_unsigned()) << (quarter * 16)
            };
            let cased = _mm_or_si128(bytes, _mm_set1_epi8(CASE));
            marks.quotes |= bits(equal(QUOTE, bytes));
            marks.backslashes |= bits(equal(BACKSLASH, bytes));
            marks.brackets |= bits(_mm_or_si128(equal(OPENS, cased), equal(CLOSES, cased)));
        }
        marks
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Gives back the marks of one block.
    struct Once<'b>(&'b Block);

    impl Job for Once<'_> {
        type Outcome = Marks;
        #[inline(always)]
        fn run(self, marks: impl Fn(&Block) -> Marks) -> Marks {
            marks(self.0)
        }
    }

    #[test]
    fn every_byte_at_every_place_is_marked_alike() {
        for byte in 0..=255u8 {
            for at in 0..64 {
                let mut block = [b' '; 64];
                block[at] = byte;
                assert_eq!(with_best(Once(&block)), scalar(&block), "{byte} at {at}");
                #[cfg(target_arch = "x86_64")]
                assert_eq!(x86::with_sse2(&block), scalar(&block), "{byte} at {at}");
            }
        }
    }

    proptest! {
        #[test]
        fn a_plain_run_ends_where_it_does(bytes in proptest::collection::vec(prop_oneof![Just(b'a'), any::<u8>()], 0..60)) {
            let stop = bytes.iter().position(|b| *b < 0x20 || *b == b'"' || *b == b'\\');
            prop_assert_eq!(plain_run(&bytes), stop.unwrap_or(bytes.len()));
        }

        #[test]
        fn any_block_is_marked_alike(block in proptest::collection::vec(any::<u8>(), 64)) {
            let block: Block = block.try_into().unwrap();
            prop_assert_eq!(with_best(Once(&block)), scalar(&block));
            #[cfg(target_arch = "x86_64")]
            prop_assert_eq!(x86::with_sse2(&block), scalar(&block));
        }
    }
}
