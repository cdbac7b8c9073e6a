//! Follows brackets to the one that closes the first, and strings to their end.

use memchr::memrchr;

use super::marks::{Block, Job, Marks, plain_run, with_best};
use super::state::State;

/// Where following came to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(in crate::recording) enum Follow {
    /// The first bracket is closed, by the byte before this one.
    Ends(usize),
    /// The bracket at this place closes what it did not open.
    Torn(usize),
    /// The bytes are at an end before.
    More,
}

/// Follows strings and brackets from a place on, until no bracket is open any more. From outside of
/// everything, the first byte has to be an opening bracket.
pub(in crate::recording) fn follow(bytes: &[u8], from: usize, state: &mut State) -> Follow {
    with_best(Brackets { bytes, from, state })
}

/// The place behind the quotation mark that ends a string; `from` is behind the one that begins it.
#[inline]
pub(crate) fn string_end(bytes: &[u8], from: usize) -> Option<usize> {
    // Most strings are short and have no escapes.
    let plain = from + plain_run(bytes.get(from..)?);
    match bytes.get(plain) {
        Some(b'"') => Some(plain + 1),
        _ => with_best(Text { bytes, from: plain }),
    }
}

/// Fails if following with the best means comes elsewhere than with the scalar twin.
#[cfg(fuzzing)]
pub fn agree(bytes: &[u8]) {
    let (mut one, mut other) = (State::default(), State::default());
    let best = follow(bytes, 0, &mut one);
    let twin = Brackets { bytes, from: 0, state: &mut other };
    assert_eq!(best, twin.run(super::marks::scalar));
    assert_eq!(one.take_string(), other.take_string());
    assert_eq!(string_end(bytes, 0), Text { bytes, from: 0 }.run(super::marks::scalar));
    let plain = bytes.iter().position(|byte| matches!(byte, 0..0x20 | b'"' | b'\\'));
    assert_eq!(plain_run(bytes), plain.unwrap_or(bytes.len()));
    assert_eq!(super::Stops::of(bytes).next(0), plain);
}

struct Brackets<'b, 's> {
    bytes: &'b [u8],
    from: usize,
    state: &'s mut State,
}

impl Job for Brackets<'_, '_> {
    type Outcome = Follow;

    #[inline(always)]
    fn run(self, marks: impl Fn(&Block) -> Marks) -> Follow {
        let Self { bytes, from, state } = self;
        let (mut at, mut rest) = (from, Rest::default());
        while let Some((block, length)) = rest.block(bytes, at) {
            let quotes_and_brackets = marks(block);
            let quotes = state.quotes(quotes_and_brackets, length);
            if quotes == 0 && length == 64 && state.is_in_string() {
                at = string_goes_on(bytes, at, state, &marks);
                continue;
            }
            let mut brackets = quotes_and_brackets.brackets & !state.strings(quotes);
            while brackets != 0 {
                let bit = brackets.trailing_zeros() as usize;
                brackets &= brackets - 1;
                let bracket = block[bit & 63];
                // Both closing brackets lack the bit that both opening ones have.
                if bracket & 2 != 0 {
                    state.opens(bracket);
                } else if !state.closes(bracket) {
                    return Follow::Torn(at + bit);
                } else if state.is_outside() {
                    return Follow::Ends(at + bit + 1);
                }
            }
            at += 64;
        }
        Follow::More
    }
}

/// Passes over blocks that lie wholly within a string, in which nothing matters but its end. `from` is the first of them. Gives
/// the place of the block that has the end, or of the last bytes, and notes the string if its end was found.
#[inline(always)]
fn string_goes_on(
    bytes: &[u8],
    from: usize,
    state: &mut State,
    marks: &impl Fn(&Block) -> Marks,
) -> usize {
    let mut at = from + 64;
    while let Some(block) = bytes.get(at..).and_then(<[u8]>::first_chunk::<64>) {
        let end = state.end_of_string(marks(block));
        if end != 0 {
            note_string(bytes, from, at + end.trailing_zeros() as usize, state);
            break;
        }
        at += 64;
    }
    at
}

/// Notes the string that ends before the mark at `end`. It begins in the block before `inside`; where it does not, this is the
/// rest of a string that began in bytes before these, and is not noted.
#[inline(never)]
fn note_string(bytes: &[u8], inside: usize, end: usize, state: &mut State) {
    let start = inside.saturating_sub(64);
    let mut before = bytes.get(start..inside).unwrap_or_default();
    while let Some(mark) = memrchr(b'"', before) {
        before = before.get(..mark).unwrap_or_default();
        let backslashes = before.iter().rev().take_while(|byte| **byte == b'\\').count();
        // How many there are further back, nobody knows.
        if backslashes == mark && start > 0 {
            return;
        }
        if backslashes.is_multiple_of(2) {
            return state.passed_over(start + mark + 1..end);
        }
    }
}

struct Text<'b> {
    bytes: &'b [u8],
    from: usize,
}

impl Job for Text<'_> {
    type Outcome = Option<usize>;

    #[inline(always)]
    fn run(self, marks: impl Fn(&Block) -> Marks) -> Option<usize> {
        let (mut at, mut state, mut rest) = (self.from, State::default(), Rest::default());
        while let Some((block, length)) = rest.block(self.bytes, at) {
            let quotes = state.quotes(marks(block), length);
            if quotes != 0 {
                return Some(at + quotes.trailing_zeros() as usize + 1);
            }
            at += 64;
        }
        None
    }
}

/// Room for the last bytes, fewer than a block has.
struct Rest(Block);

impl Default for Rest {
    #[inline(always)]
    fn default() -> Self {
        Self([b' '; 64])
    }
}

impl Rest {
    /// The next 64 bytes, and how many of them there are; what lacks is filled with spaces.
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
    use super::super::marks::scalar;
    use super::*;
    use proptest::prelude::*;

    /// The same, byte by byte, with nothing in common with the above.
    fn plainly(bytes: &[u8]) -> Follow {
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
                    Some(due) if due == *byte && open.is_empty() => return Follow::Ends(at + 1),
                    Some(due) if due == *byte => {}
                    _ => return Follow::Torn(at),
                },
                _ => {}
            }
        }
        Follow::More
    }

    fn json_like() -> impl Strategy<Value = Vec<u8>> {
        let piece = prop_oneof![
            Just("{".to_owned()),
            Just("}".to_owned()),
            Just("[".to_owned()),
            Just("]".to_owned()),
            Just("\"".to_owned()),
            (1..70usize).prop_map(|n| "\\".repeat(n)),
            "[a-z:, ]{0,70}",
        ];
        prop::collection::vec(piece, 0..40).prop_map(|pieces| pieces.concat().into_bytes())
    }

    proptest! {
        /// In one go, in two, and with the scalar twin: always as byte by byte.
        #[test]
        fn following_is_the_same_in_any_pieces(bytes in json_like(), cut in any::<prop::sample::Index>()) {
            let plain = plainly(&bytes);
            prop_assert_eq!(follow(&bytes, 0, &mut State::default()), plain);
            let mut state = State::default();
            let twin = Brackets { bytes: &bytes, from: 0, state: &mut state };
            prop_assert_eq!(twin.run(scalar), plain);
            let cut = cut.index(bytes.len() + 1);
            let mut state = State::default();
            let found = match follow(&bytes[..cut], 0, &mut state) {
                Follow::More => follow(&bytes, cut, &mut state),
                found => found,
            };
            prop_assert_eq!(found, plain);
        }

        /// A long string that is noted is one.
        #[test]
        fn what_is_noted_is_a_string(bytes in json_like(), text in "[a\"\\\\]{0,200}") {
            let literal = serde_json::to_string(&text).unwrap();
            let bytes = [b"{[", bytes.as_slice(), literal.as_bytes(), b"]}"].concat();
            let mut state = State::default();
            follow(&bytes, 0, &mut state);
            if let Some(string) = state.take_string() {
                let quotes = |bytes: &[u8]| {
                    let mut escaped = false;
                    bytes.iter().filter(|byte| {
                        let is_quote = **byte == b'"' && !escaped;
                        escaped = **byte == b'\\' && !escaped;
                        is_quote
                    }).count()
                };
                prop_assert_eq!(bytes[string.start - 1], b'"');
                prop_assert_eq!(quotes(&bytes[..string.start]) % 2, 1);
                prop_assert_eq!(string_end(&bytes, string.start), Some(string.end + 1));
            }
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
    fn the_longest_of_the_long_strings_is_noted() {
        let long = r#"a\"\\"#.repeat(40);
        let text =
            format!(r#"{{"a":"{}","b":"{long}","c":"{}"}}"#, "x".repeat(150), "y".repeat(20));
        let mut state = State::default();
        assert_eq!(follow(text.as_bytes(), 0, &mut state), Follow::Ends(text.len()));
        let start = text.find(&long).unwrap();
        assert_eq!(state.take_string(), Some(start..start + long.len()));
        assert_eq!(state.take_string(), None);
    }

    #[test]
    fn any_depth_is_followed() {
        for depth in [1, 63, 64, 65, 128, 129, 1000] {
            let text = format!("{}{}", "[{".repeat(depth), "}]".repeat(depth));
            let mut state = State::default();
            assert_eq!(follow(text.as_bytes(), 0, &mut state), Follow::Ends(text.len()));
            let torn = format!("{}]", "[{".repeat(depth));
            state.reset();
            assert_eq!(follow(torn.as_bytes(), 0, &mut state), Follow::Torn(2 * depth));
        }
    }
}
