//! How things are written in a contract's TOML.

use faithful_clerk_model::invisible::is_hidden;

/// A text as a TOML string.
#[must_use]
pub fn quoted(text: &str) -> String {
    let mut quoted = String::with_capacity(text.len() + 2);
    quoted.push('"');
    for c in text.chars() {
        match c {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            '\n' => quoted.push_str("\\n"),
            '\t' => quoted.push_str("\\t"),
            '\r' => quoted.push_str("\\r"),
            c if is_hidden(c) => quoted.push_str(&format!("\\u{:04X}", u32::from(c))),
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    quoted
}

/// A name as a TOML key: bare where it can be.
pub fn key(name: &str) -> String {
    let is_bare = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_');
    let bare = !name.is_empty() && name.chars().all(is_bare);
    if bare { name.to_owned() } else { quoted(name) }
}
