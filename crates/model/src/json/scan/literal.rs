//! The text that a JSON string literal stands for.

use std::borrow::Cow;

use super::block::{plain_prefix, plain_prefix_of_16};

/// Reads a string literal, quotation marks and all; `None` if it is none, or holds half of a surrogate pair.
#[must_use]
pub fn unescape(literal: &str) -> Option<Cow<'_, str>> {
    match unescape_bytes(literal)? {
        Cow::Borrowed(_) => literal.get(1..literal.len() - 1).map(Cow::Borrowed),
        Cow::Owned(bytes) => String::from_utf8(bytes).ok().map(Cow::Owned),
    }
}

/// The same, as bytes of UTF-8.
///
/// The escapes that texts are full of are undone here; one of a code point (`\\u00e9`) leaves the literal to
/// serde_json.
#[must_use]
pub fn unescape_bytes(literal: &str) -> Option<Cow<'_, [u8]>> {
    unescape_inner(literal.strip_prefix('"')?.strip_suffix('"')?)
}

/// The same of a literal without its quotation marks.
#[must_use]
pub fn unescape_inner(literal: &str) -> Option<Cow<'_, [u8]>> {
    let inner = literal.as_bytes();
    let mut at = plain_prefix(inner);
    if at == inner.len() {
        return Some(Cow::Borrowed(inner));
    }
    // What comes up to an escape is short: sixteen bytes are copied as they are, and what is too much is written over.
    let mut text = vec![0; inner.len() + 16];
    text.get_mut(..at)?.copy_from_slice(inner.get(..at)?);
    let mut end = at;
    while let Some(byte) = inner.get(at) {
        if *byte == b'\\' {
            *text.get_mut(end)? = match inner.get(at + 1)? {
                byte @ (b'"' | b'\\' | b'/') => *byte,
                b'n' => b'\n',
                b't' => b'\t',
                b'r' => b'\r',
                b'b' => 8,
                b'f' => 12,
                b'u' => {
                    let text: String = serde_json::from_str(&format!("\"{literal}\"")).ok()?;
                    return Some(Cow::Owned(text.into_bytes()));
                }
                _ => return None,
            };
            (at, end) = (at + 2, end + 1);
        }
        let rest = inner.get(at..)?;
        let plain = match rest.first_chunk::<16>() {
            Some(some) => {
                text.get_mut(end..end + 16)?.copy_from_slice(some);
                plain_prefix_of_16(some)
            }
            None => {
                let plain = plain_prefix(rest);
                text.get_mut(end..end + plain)?.copy_from_slice(rest.get(..plain)?);
                plain
            }
        };
        (at, end) = (at + plain, end + plain);
        // A string has no quotation mark in it, and no control character.
        if plain < 16 && inner.get(at).is_some_and(|byte| *byte != b'\\') {
            return None;
        }
    }
    text.truncate(end);
    Some(Cow::Owned(text))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn others(literal: &str) -> Option<String> {
        serde_json::from_str(literal).ok()
    }

    proptest! {
        #[test]
        fn texts_are_read_as_others_read_them(text in "[a\"\\\\/\n\r\t\u{1}\u{8}\u{c}é😀]{0,40}") {
            let literal = serde_json::to_string(&text).unwrap();
            prop_assert_eq!(unescape(&literal).unwrap(), text);
        }

        #[test]
        fn what_others_refuse_is_refused(inner in "[a\"\\\\/nrtbfu08d\n{}é]{0,12}") {
            let literal = format!("\"{inner}\"");
            prop_assert_eq!(unescape(&literal).map(Cow::into_owned), others(&literal), "{}", literal);
        }
    }

    #[test]
    fn what_is_no_literal_has_no_text() {
        for literal in ["", "\"", "a", "\"a", r#""a\""#, r#""\ud800""#, r#""\x""#] {
            assert_eq!(unescape(literal), None, "{literal}");
        }
        assert!(matches!(unescape("\"abc\""), Some(Cow::Borrowed("abc"))));
    }
}
