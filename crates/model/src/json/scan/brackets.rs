//! Finds the bracket that closes the first one, and the ends of strings.

use super::block::{Block, mask, plain_prefix};
use super::state::ScanState;

/// Where a scan for the closing bracket stopped.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BracketScan {
    /// The first bracket is closed by the byte before this index.
    Closed(usize),
    /// The bracket at this index closes none that is open.
    Mismatch(usize),
    /// The bytes end first.
    Incomplete,
}

/// Scans strings and brackets from an index until no bracket is open. When `state` is outside of all brackets, the
/// first byte has to be an opening one.
pub fn scan_brackets(bytes: &[u8], from: usize, state: &mut ScanState) -> BracketScan {
    let (mut at, mut padded) = (from, PaddedBlock::default());
    while let Some((block, length)) = padded.block(bytes, at) {
        let marks = mask(block);
        let quotes = state.quotes(marks, length);
        if quotes == 0 && length == 64 && state.is_in_string() {
            at = skip_string_blocks(bytes, at + 64, state);
            continue;
        }
        let mut brackets = marks.brackets & !state.strings(quotes);
        while brackets != 0 {
            let bit = brackets.trailing_zeros() as usize;
            brackets &= brackets - 1;
            let bracket = block[bit & 63];
            // Both closing brackets lack the bit that both opening ones have.
            if bracket & 2 != 0 {
                state.opens(bracket);
            } else if !state.closes(bracket) {
                return BracketScan::Mismatch(at + bit);
            } else if state.is_outside() {
                return BracketScan::Closed(at + bit + 1);
            }
        }
        at += 64;
    }
    BracketScan::Incomplete
}

/// Skips blocks that lie wholly within a string, where only its end matters. Gives the index of the block that holds the
/// end, or of the last, partial block.
#[inline(always)]
fn skip_string_blocks(bytes: &[u8], from: usize, state: &mut ScanState) -> usize {
    let mut at = from;
    while let Some(block) = bytes.get(at..).and_then(<[u8]>::first_chunk::<64>) {
        if state.end_of_string(mask(block)) != 0 {
            break;
        }
        at += 64;
    }
    at
}

/// The same as `string_end`, of a string without escapes and control characters.
#[inline]
#[must_use]
pub fn plain_string_end(bytes: &[u8], from: usize) -> Option<usize> {
    let plain = from + plain_prefix(bytes.get(from..)?);
    (bytes.get(plain) == Some(&b'"')).then_some(plain + 1)
}

/// The index behind the quotation mark that ends a string; `from` is behind the one that begins it.
#[inline]
pub fn string_end(bytes: &[u8], from: usize) -> Option<usize> {
    // Most strings are short and have no escapes.
    let plain = from + plain_prefix(bytes.get(from..)?);
    if bytes.get(plain) == Some(&b'"') {
        return Some(plain + 1);
    }
    let (mut at, mut state, mut padded) = (plain, ScanState::default(), PaddedBlock::default());
    while let Some((block, length)) = padded.block(bytes, at) {
        let quotes = state.quotes(mask(block), length);
        if quotes != 0 {
            return Some(at + quotes.trailing_zeros() as usize + 1);
        }
        at += 64;
    }
    None
}

/// Room for the last bytes, fewer than a block has.
struct PaddedBlock(Block);

impl Default for PaddedBlock {
    #[inline(always)]
    fn default() -> Self {
        Self([b' '; 64])
    }
}

impl PaddedBlock {
    /// The next 64 bytes, and how many of them there are; the rest is spaces.
    #[inline(always)]
    fn block<'r>(&'r mut self, bytes: &'r [u8], at: usize) -> Option<(&'r Block, usize)> {
        let rest = bytes.get(at..)?;
        if let Some(block) = rest.first_chunk::<64>() {
            return Some((block, 64));
        }
        if rest.is_empty() {
            return None;
        }
        self.0.get_mut(..rest.len())?.copy_from_slice(rest);
        Some((&self.0, rest.len()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The same, byte by byte, with nothing in common with the above.
    fn scan_bytewise(bytes: &[u8]) -> BracketScan {
        let (mut open, mut in_string, mut escaped) = (Vec::new(), false, false);
        for (at, byte) in bytes.iter().enumerate() {
            if std::mem::take(&mut escaped) && matches!(byte, b'"' | b'\\') {
                continue;
            }
            match byte {
                b'\\' => escaped = true,
                b'"' => in_string = !in_string,
                _ if in_string => {}
                b'{' => open.push(b'}'),
                b'[' => open.push(b']'),
                b'}' | b']' => match open.pop() {
                    Some(due) if due == *byte && open.is_empty() => {
                        return BracketScan::Closed(at + 1);
                    }
                    Some(due) if due == *byte => {}
                    _ => return BracketScan::Mismatch(at),
                },
                _ => {}
            }
        }
        BracketScan::Incomplete
    }

    fn json_like() -> impl Strategy<Value = Vec<u8>> {
        let entry = prop_oneof![
            Just("{".to_owned()),
            Just("}".to_owned()),
            Just("[".to_owned()),
            Just("]".to_owned()),
            Just("\"".to_owned()),
            (1..70usize).prop_map(|n| "\\".repeat(n)),
            "[a-z:, ]{0,70}",
            "\"[a-z:{ ]{0,200}\"",
        ];
        prop::collection::vec(entry, 0..40).prop_map(|pieces| pieces.concat().into_bytes())
    }

    proptest! {
        #[test]
        fn scanning_in_one_go_or_in_two_is_scanning_byte_by_byte(
            bytes in json_like(),
            split in any::<prop::sample::Index>(),
        ) {
            let expected = scan_bytewise(&bytes);
            prop_assert_eq!(scan_brackets(&bytes, 0, &mut ScanState::default()), expected);
            let split = split.index(bytes.len() + 1);
            let mut state = ScanState::default();
            let found = match scan_brackets(&bytes[..split], 0, &mut state) {
                BracketScan::Incomplete => scan_brackets(&bytes, split, &mut state),
                found => found,
            };
            prop_assert_eq!(found, expected);
        }

        #[test]
        fn a_string_ends_where_serde_ends_it(text in "[a\"\\\\\u{1}é]{0,200}") {
            let literal = serde_json::to_string(&text).unwrap();
            let bytes = format!("{literal},\"x\"").into_bytes();
            prop_assert_eq!(string_end(&bytes, 1), Some(literal.len()));
            prop_assert_eq!(string_end(&bytes[..literal.len() - 1], 1), None);
        }
    }

    #[test]
    fn any_depth_is_scanned() {
        for depth in [1, 63, 64, 65, 128, 129, 1000] {
            let text = format!("{}{}", "[{".repeat(depth), "}]".repeat(depth));
            let mut state = ScanState::default();
            let found = scan_brackets(text.as_bytes(), 0, &mut state);
            assert_eq!(found, BracketScan::Closed(text.len()));
            let wrong = format!("{}]", "[{".repeat(depth));
            state.reset();
            let found = scan_brackets(wrong.as_bytes(), 0, &mut state);
            assert_eq!(found, BracketScan::Mismatch(2 * depth));
        }
    }
}
