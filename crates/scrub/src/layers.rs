//! Text within text: what stands encoded in a JSON string, in a URL or in base64 is replaced character by
//! character, each in the very encoding that it had.

use std::borrow::Cow;
use std::fmt::Write as _;
use std::ops::Range;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use faithful_clerk_model::json::scan::unescape_inner;

/// A character, and where its encoding stands.
type Unit = (char, Range<usize>);

/// Replaces within the characters of a JSON string, given without its quotation pseudonyms. `f` gives a text of
/// the same length, or nothing.
pub(super) fn in_literal(
    literal: &str,
    f: &mut dyn FnMut(&str) -> Option<String>,
) -> Option<String> {
    if memchr::memchr(b'\\', literal.as_bytes()).is_none() {
        return f(literal);
    }
    let Some(inner) = undone(literal) else { return f(literal) };
    let encode = |new: char, old: &str, out: &mut String| {
        if !old.starts_with('\\') {
            return out.push(new);
        }
        for unit in new.encode_utf16(&mut [0; 2]) {
            let _ = write!(out, "\\u{unit:04x}");
        }
    };
    let new = f(&inner)?;
    Some(replaced(literal, literal_units(literal), &new, encode).unwrap_or_else(|| blank(literal)))
}

/// What the characters of a JSON string say, given without its quotation marks, as far as that can be said.
pub(super) fn plain(literal: &str) -> Cow<'_, str> {
    let escape = memchr::memchr(b'\\', literal.as_bytes());
    match escape.and_then(|_| undone(literal)) {
        Some(plain) => Cow::Owned(plain),
        None => Cow::Borrowed(literal),
    }
}

/// What takes the place of a text whose encoding has no room for what should: as many letters.
fn blank(text: &str) -> String {
    "x".repeat(text.len())
}

/// Replaces within percent-encoded text (RFC 3986 section 2.1); in a form, `+` is a space.
pub(super) fn in_percent(text: &str, f: &mut dyn FnMut(&str) -> Option<String>) -> Option<String> {
    if !text.contains(['%', '+']) {
        return f(text);
    }
    let units = percent_units(text);
    let inner: String = units.iter().map(|(c, _)| *c).collect();
    let encode = |new: char, old: &str, out: &mut String| {
        if !old.starts_with('%') {
            return out.push(new);
        }
        for byte in new.encode_utf8(&mut [0; 4]).bytes() {
            let _ = write!(out, "%{byte:02X}");
        }
    };
    let new = f(&inner)?;
    Some(replaced(text, units.into_iter(), &new, encode).unwrap_or_else(|| blank(text)))
}

/// What base64 encodes.
pub(super) fn of_base64(text: &str) -> Option<Vec<u8>> {
    if let Ok(bytes) = STANDARD.decode(text) {
        return Some(bytes);
    }
    let dense: Vec<u8> = text.bytes().filter(|byte| !byte.is_ascii_whitespace()).collect();
    STANDARD.decode(&dense).ok()
}

/// The same text of base64 with other bytes in it, as many.
pub(super) fn to_base64(text: &str, bytes: &[u8]) -> String {
    let encoded = STANDARD.encode(bytes);
    let mut digits = encoded.chars();
    let digit = |c: char| if c.is_ascii_whitespace() { c } else { digits.next().unwrap_or(c) };
    text.chars().map(digit).collect()
}

/// The text with each character that is a new one in the encoding of the old one.
fn replaced(
    text: &str,
    units: impl Iterator<Item = Unit>,
    new: &str,
    encode: impl Fn(char, &str, &mut String),
) -> Option<String> {
    let mut out = String::with_capacity(text.len());
    for ((old, range), new) in units.zip(new.chars()) {
        let encoded = text.get(range).unwrap_or_default();
        if old == new {
            out.push_str(encoded);
        } else {
            encode(new, encoded, &mut out);
        }
    }
    // A text that became shorter or longer has no place here.
    (out.len() == text.len()).then_some(out)
}

/// A literal with its escapes undone, if they are right.
fn undone(literal: &str) -> Option<String> {
    if let Some(bytes) = unescape_inner(literal) {
        return String::from_utf8(bytes.into_owned()).ok();
    }
    // Half of a surrogate pair, or a control character: some readers let them pass.
    let (mut plain, mut rest) = (String::with_capacity(literal.len()), literal);
    while let Some(at) = rest.find('\\') {
        let (before, escaped) = rest.split_at(at);
        let (c, length) = escape(escaped)?;
        plain.push_str(before);
        plain.push(c);
        rest = escaped.get(length..)?;
    }
    plain.push_str(rest);
    Some(plain)
}

/// The characters of a literal, up to an escape that is wrong.
fn literal_units(literal: &str) -> impl Iterator<Item = Unit> {
    let mut at = 0;
    std::iter::from_fn(move || {
        let rest = literal.get(at..)?;
        let (c, length) = match rest.chars().next()? {
            '\\' => escape(rest)?,
            c => (c, c.len_utf8()),
        };
        let start = at;
        at += length;
        Some((c, start..at))
    })
}

/// The character that a text starts with as an escape, and how long that is.
fn escape(text: &str) -> Option<(char, usize)> {
    let hex = |at: usize| {
        let digits = text.get(at..at + 6)?.strip_prefix("\\u")?;
        u16::from_str_radix(digits, 16).ok()
    };
    if let Some(unit) = hex(0) {
        let pair = || char::decode_utf16([unit, hex(6)?]).next()?.ok();
        return Some(match (char::from_u32(u32::from(unit)), pair()) {
            (Some(c), _) => (c, 6),
            (None, Some(c)) => (c, 12),
            (None, None) => (char::REPLACEMENT_CHARACTER, 6),
        });
    }
    let c = match text.as_bytes().get(1)? {
        b'n' => '\n',
        b'r' => '\r',
        b't' => '\t',
        b'b' => '\u{8}',
        b'f' => '\u{c}',
        byte @ (b'"' | b'\\' | b'/') => char::from(*byte),
        _ => return None,
    };
    Some((c, 2))
}

fn percent_units(text: &str) -> Vec<Unit> {
    let mut units = Vec::with_capacity(text.len());
    let mut at = 0;
    while let Some(c) = text.get(at..).and_then(|rest| rest.chars().next()) {
        let byte = |at: usize| {
            let digits = text.get(at..at + 3)?.strip_prefix('%')?;
            u8::from_str_radix(digits, 16).ok()
        };
        let decoded = byte(at).and_then(|first| {
            let length = match first {
                0..0x80 => 1,
                0xc0..0xe0 => 2,
                0xe0..0xf0 => 3,
                _ => 4,
            };
            let bytes: Option<Vec<u8>> = (0..length).map(|n| byte(at + 3 * n)).collect();
            let text = String::from_utf8(bytes?).ok()?;
            Some((text.chars().next()?, 3 * length))
        });
        let (c, length) = match decoded {
            Some(decoded) => decoded,
            None if c == '+' => (' ', 1),
            None => (c, c.len_utf8()),
        };
        units.push((c, at..at + length));
        at += length;
    }
    units
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Replaces the letters of `quay` by others.
    fn quay(text: &str) -> Option<String> {
        text.contains("quay").then(|| text.replace("quay", "mill"))
    }

    #[test]
    fn each_character_keeps_its_encoding() {
        for (literal, new) in [
            (r"a quay", r"a mill"),
            (r#"\"quay\"\n\u00e9"#, r#"\"mill\"\n\u00e9"#),
            (r"\u0071ua\u0079\/", r"\u006dil\u006c\/"),
        ] {
            assert_eq!(in_literal(literal, &mut quay).as_deref(), Some(new));
        }
        for (text, new) in [("x%20quay+y", "x%20mill+y"), ("%71ua%79%c3%a9", "%6Dil%6C%c3%a9")] {
            assert_eq!(in_percent(text, &mut quay).as_deref(), Some(new));
        }
        assert_eq!(of_base64("YSBx\ndWF5\n").as_deref(), Some(&b"a quay"[..]));
        assert_eq!(to_base64("YSBx\ndWF5\n", b"a mill"), "YSBt\naWxs\n");
        assert_eq!(
            in_literal(r"quay\n", &mut |_| Some("quays\n".to_owned())).as_deref(),
            Some("xxxxxx")
        );
        assert_eq!(in_literal(r"nothing \n here", &mut quay), None);
        for wrong in [r"\ud800", r"\ud800\u0041", r"\x", r"\u12g4", r"\é"] {
            let literal = |word: &str| format!("{wrong} {word}");
            assert_eq!(in_literal(&literal("quay"), &mut quay), Some(literal("mill")));
        }
        assert_eq!(in_literal(r"quay \", &mut quay).as_deref(), Some(r"mill \"));
    }

    proptest! {
        #[test]
        fn a_literal_is_read_as_json_reads_it(text in "\\PC{0,8}[\"\\\\/\n\u{1}\u{1f400}é]{0,4}\\PC{0,8}", escaped: bool) {
            let mut literal = serde_json::to_string(&text).unwrap();
            if escaped {
                let units = text.encode_utf16().map(|unit| format!("\\u{unit:04X}"));
                literal = format!("\"{}\"", units.collect::<String>());
            }
            let inner = &literal[1..literal.len() - 1];
            prop_assert_eq!(undone(inner), Some(text.clone()));
            prop_assert_eq!(literal_units(inner).map(|(c, _)| c).collect::<String>(), text);
        }
    }
}
