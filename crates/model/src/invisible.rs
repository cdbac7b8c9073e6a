//! Characters that hide, or change what a reader sees.

use std::fmt::Write as _;

/// A JSON document in which what hides is written as an escape (RFC 8259 section 7), so that it means the
/// same and can be looked at anywhere. Line ends between its members stay.
#[must_use]
pub fn escaped_json(document: String) -> String {
    let hides = |c: char| is_hidden(c) && c != '\n';
    if !document.contains(hides) {
        return document;
    }
    let mut safe = String::with_capacity(document.len() + 16);
    for c in document.chars() {
        if hides(c) {
            for unit in c.encode_utf16(&mut [0; 2]) {
                let _ = write!(safe, "\\u{unit:04x}");
            }
        } else {
            safe.push(c);
        }
    }
    safe
}

/// Is this a control character, one that has no width, or one that changes the direction of text?
#[must_use]
pub fn is_hidden(c: char) -> bool {
    c.is_control()
        || matches!(c,
            '\u{61c}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}'
            | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{fffe}' | '\u{ffff}')
}

#[cfg(test)]
mod tests {
    use super::escaped_json;

    #[test]
    fn escapes_mean_the_same() {
        let value = serde_json::json!({"a\u{202e}b": "\u{feff}\u{7f}\n\u{1b}x"});
        let text = escaped_json(serde_json::to_string_pretty(&value).unwrap());
        assert!(text.is_ascii(), "{text}");
        assert_eq!(serde_json::from_str::<serde_json::Value>(&text).unwrap(), value);
    }
}
