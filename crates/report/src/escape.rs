//! Makes text from outside harmless before it meets an output.

use std::borrow::Cow;
use std::fmt::Write as _;

use faithful_clerk_model::invisible::is_hidden;

/// Text for a terminal: control characters, line ends, and characters that change the direction or
/// hide are written as `\u{…}`. What is left can be printed in any terminal and pasted anywhere.
#[must_use]
pub fn terminal(text: &str) -> Cow<'_, str> {
    if !text.contains(is_hidden) {
        return Cow::Borrowed(text);
    }
    let mut safe = String::with_capacity(text.len() + 16);
    for c in text.chars() {
        match c {
            '\n' => safe.push_str("\\n"),
            '\r' => safe.push_str("\\r"),
            '\t' => safe.push_str("\\t"),
            c if is_hidden(c) => {
                let _ = write!(safe, "\\u{{{:x}}}", u32::from(c));
            }
            c => safe.push(c),
        }
    }
    Cow::Owned(safe)
}

/// A path, or an anchor, within a URI reference (RFC 3986 section 2).
pub(crate) fn uri_path(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for byte in text.bytes() {
        match byte {
            b'/' | b'-' | b'.' | b'_' | b'~' => safe.push(char::from(byte)),
            byte if byte.is_ascii_alphanumeric() => safe.push(char::from(byte)),
            byte => {
                let _ = write!(safe, "%{byte:02X}");
            }
        }
    }
    safe
}

/// Lines for a terminal: like [`terminal`], but line ends stay.
#[must_use]
pub fn lines(text: &str) -> String {
    let lines = text.split('\n').map(|line| terminal(line.strip_suffix('\r').unwrap_or(line)));
    lines.collect::<Vec<_>>().join("\n")
}

/// Text within a line of Markdown: what has a meaning there stands behind a backslash, and what would
/// harm a terminal is written out.
#[must_use]
pub fn markdown(text: &str) -> String {
    let mut safe = String::with_capacity(text.len() + 8);
    for c in terminal(text).chars() {
        if matches!(c, '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '|' | '~' | '#' | '&') {
            safe.push('\\');
        }
        safe.push(c);
    }
    safe
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn escapes_are_shown_and_plain_text_is_left() {
        assert_eq!(terminal("\u{1b}[2Jx\u{202e}y\n"), "\\u{1b}[2Jx\\u{202e}y\\n");
        assert_eq!(terminal("Größe ✓ 港"), "Größe ✓ 港");
    }

    proptest! {
        #[test]
        fn no_text_yields_anything_harmful(text in any::<String>()) {
            prop_assert!(!terminal(&text).contains(is_hidden));
        }
    }
}
