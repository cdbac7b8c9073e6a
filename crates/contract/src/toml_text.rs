//! How things are written in a contract's TOML.

use faithful_clerk_model::invisible::spelled;

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
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    let escape = |c: char| match u32::from(c) {
        code @ ..=0xffff => format!("\\u{code:04X}"),
        code => format!("\\U{code:08X}"),
    };
    spelled(&quoted, |c, safe| safe.push_str(&escape(c))).into_owned()
}

/// A name as a TOML key: bare where it can be.
pub fn key(name: &str) -> String {
    let is_bare = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_');
    let bare = !name.is_empty() && name.chars().all(is_bare);
    if bare { name.to_owned() } else { quoted(name) }
}

/// A name of ours: lower-case letters, digits and hyphens, and it starts with a letter.
#[must_use]
pub fn plain_name(name: &str) -> String {
    let mut plain = String::new();
    let mut last = ' ';
    for c in name.chars() {
        if c.is_ascii_alphanumeric() {
            if c.is_ascii_uppercase() && last.is_ascii_lowercase() {
                plain.push('-');
            }
            plain.push(c.to_ascii_lowercase());
        } else if !plain.is_empty() && !plain.ends_with('-') {
            plain.push('-');
        }
        last = c;
    }
    let plain = plain.trim_end_matches('-').to_owned();
    match plain.chars().next() {
        None => "other".to_owned(),
        Some(first) if first.is_ascii_digit() => format!("n{plain}"),
        Some(_) => plain.chars().take(60).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_made_plain() {
        for (name, made) in [
            ("No such berth", "no-such-berth"),
            ("berthTaken", "berth-taken"),
            ("4017", "n4017"),
            ("Größe!", "gr-e"),
            ("???", "other"),
        ] {
            assert_eq!(plain_name(name), made);
        }
    }
}
