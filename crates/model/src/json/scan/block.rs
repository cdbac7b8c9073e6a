//! Where quotation marks, backslashes and brackets stand in 64 bytes.
//!
//! One vector width, sixteen bytes, which every processor we build for has; `wide` falls back to scalar code elsewhere. The
//! tests hold it to a scalar twin.

use wide::u8x16;

/// Sixty-four bytes.
pub(super) type Block = [u8; 64];

/// A bit for each of 64 bytes, the first byte the lowest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct BlockMask {
    /// `"`
    pub(super) quotes: u64,
    /// `\`
    pub(super) backslashes: u64,
    /// `{`, `[`, `}` and `]`
    pub(super) brackets: u64,
}

/// The bit that tells `{` from `[` and `}` from `]`.
const CASE: u8 = 0x20;

/// One bit for each byte that `matches` finds, sixteen bytes at a time.
#[inline(always)]
fn bits(block: &Block, matches: impl Fn(u8x16) -> u8x16) -> u64 {
    let (quarters, _) = block.as_chunks::<16>();
    quarters.iter().enumerate().fold(0, |bits, (index, quarter)| {
        bits | u64::from(matches(u8x16::from(*quarter)).to_bitmask()) << (index * 16)
    })
}

#[inline(always)]
fn equals(bytes: u8x16, byte: u8) -> u8x16 {
    bytes.simd_eq(u8x16::splat(byte))
}

/// Bytes that no JSON string holds as they are: quotation marks, backslashes, control characters.
#[inline(always)]
fn specials(bytes: u8x16) -> u8x16 {
    let is_control = bytes.min(u8x16::splat(0x1f)).simd_eq(bytes);
    equals(bytes, b'"') | equals(bytes, b'\\') | is_control
}

/// Marks quotation marks, backslashes and brackets.
#[inline(always)]
pub(super) fn mask(block: &Block) -> BlockMask {
    BlockMask {
        quotes: bits(block, |bytes| equals(bytes, b'"')),
        backslashes: bits(block, |bytes| equals(bytes, b'\\')),
        brackets: bits(block, |bytes| {
            let folded = bytes | u8x16::splat(CASE);
            equals(folded, b'{') | equals(folded, b'}')
        }),
    }
}

/// Marks the bytes that end a run of plain string text.
#[inline(always)]
pub(super) fn special_mask(block: &Block) -> u64 {
    bits(block, specials)
}

/// How many of sixteen bytes come before the first special one.
#[inline(always)]
pub(super) fn plain_prefix_of_16(bytes: &[u8; 16]) -> usize {
    (specials(u8x16::from(*bytes)).to_bitmask() | 1 << 16).trailing_zeros() as usize
}

/// How many bytes come before the first quotation mark, backslash or control character.
#[inline]
pub(super) fn plain_prefix(bytes: &[u8]) -> usize {
    let mut length = 0;
    while let Some(sixteen) = bytes.get(length..).and_then(<[u8]>::first_chunk::<16>) {
        let plain = plain_prefix_of_16(sixteen);
        length += plain;
        if plain < 16 {
            return length;
        }
    }
    let rest = bytes.get(length..).unwrap_or_default();
    length + rest.iter().position(is_special).unwrap_or(rest.len())
}

fn is_special(byte: &u8) -> bool {
    matches!(byte, 0..0x20 | b'"' | b'\\')
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The scalar twin.
    fn scalar_mask(block: &Block) -> BlockMask {
        let mut mask = BlockMask::default();
        for (index, byte) in block.iter().enumerate() {
            let bit = 1 << index;
            match byte {
                b'"' => mask.quotes |= bit,
                b'\\' => mask.backslashes |= bit,
                b'{' | b'[' | b'}' | b']' => mask.brackets |= bit,
                _ => {}
            }
        }
        mask
    }

    fn scalar_specials(block: &Block) -> u64 {
        let special = block.iter().enumerate().filter(|(_, byte)| is_special(byte));
        special.fold(0, |bits, (index, _)| bits | 1 << index)
    }

    #[test]
    fn every_byte_at_every_index_is_marked_as_the_scalar_twin_does() {
        for byte in 0..=255u8 {
            for index in 0..64 {
                let mut block = [b' '; 64];
                block[index] = byte;
                assert_eq!(mask(&block), scalar_mask(&block), "{byte} at {index}");
                assert_eq!(special_mask(&block), scalar_specials(&block), "{byte} at {index}");
            }
        }
    }

    proptest! {
        #[test]
        fn any_block_is_marked_as_the_scalar_twin_does(block in proptest::collection::vec(any::<u8>(), 64)) {
            let block: Block = block.try_into().unwrap();
            prop_assert_eq!(mask(&block), scalar_mask(&block));
            prop_assert_eq!(special_mask(&block), scalar_specials(&block));
        }

        #[test]
        fn a_plain_prefix_ends_at_the_first_special_byte(
            bytes in proptest::collection::vec(prop_oneof![Just(b'a'), any::<u8>()], 0..60),
        ) {
            let special = bytes.iter().position(is_special);
            prop_assert_eq!(plain_prefix(&bytes), special.unwrap_or(bytes.len()));
        }
    }
}
