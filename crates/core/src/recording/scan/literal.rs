//! The text that a JSON string literal stands for.

use std::borrow::Cow;

use super::marks::plain_run;

/// Reads a string literal, quotation marks and all; `None` if it is none, or holds half of a surrogate pair.
///
/// The escapes that texts are full of are undone here; one of a code point (`\\u00e9`) leaves the literal to
/// serde_json.
#[must_use]
pub(crate) fn unescape(literal: &str) -> Option<Cow<'_, str>> {
    let inner = literal.strip_prefix('"')?.strip_suffix('"')?;
    let plain = plain_run(inner.as_bytes());
    if plain == inner.len() {
        return Some(Cow::Borrowed(inner));
    }
    let mut text = String::with_capacity(inner.len());
    let mut rest = inner;
    loop {
        let (run, escape) = rest.split_at_checked(plain_run(rest.as_bytes()))?;
        text.push_str(run);
        let Some(escape) = escape.strip_prefix('\\') else {
            return escape.is_empty().then_some(Cow::Owned(text));
        };
        text.push(match escape.bytes().next()? {
            byte @ (b'"' | b'\\' | b'/') => char::from(byte),
            b'n' => '\n',
            b't' => '\t',
            b'r' => '\r',
            b'b' => '\u{8}',
            b'f' => '\u{c}',
            b'u' => return serde_json::from_str(literal).ok().map(Cow::Owned),
            _ => return None,
        });
        rest = escape.get(1..)?;
    }
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
