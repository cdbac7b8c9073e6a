//! Characters that hide, or change what a reader sees, and texts that a program which reads along takes for commands.

use std::borrow::Cow;
use std::fmt::Write as _;

use memchr::memmem;

/// A JSON document in which what hides or commands is written as an escape (RFC 8259 section 7), so that it means the
/// same and can be looked at anywhere. Line ends between its members stay.
#[must_use]
pub fn escaped_json(document: String) -> String {
    // Most are made of ASCII alone, and are as they should be.
    let is_plain = document.bytes().all(|byte| matches!(byte, b' '..=b'~' | b'\n'));
    if is_plain && commands(&document).is_empty() {
        return document;
    }
    let escape = |c: char, safe: &mut String| match c {
        '\n' => safe.push(c),
        c => {
            for unit in c.encode_utf16(&mut [0; 2]) {
                let _ = write!(safe, "\\u{unit:04x}");
            }
        }
    };
    match spelled(&document, escape) {
        Cow::Borrowed(_) => document,
        Cow::Owned(safe) => safe,
    }
}

/// The text with each character written by `spell` that hides, or that makes a command of what is around it.
#[must_use]
pub fn spelled(text: &str, mut spell: impl FnMut(char, &mut String)) -> Cow<'_, str> {
    let commands = commands(text);
    if commands.is_empty() && !text.contains(is_hidden) {
        return Cow::Borrowed(text);
    }
    let mut safe = String::with_capacity(text.len() + 16);
    let mut commands = commands.into_iter().peekable();
    for (at, c) in text.char_indices() {
        let is_command = commands.next_if_eq(&at).is_some();
        if is_command || is_hidden(c) {
            spell(c, &mut safe);
        } else {
            safe.push(c);
        }
    }
    Cow::Owned(safe)
}

/// Is this a control character, one that has no width or is to be ignored by default (Unicode Standard, section 5.21), a tag, or
/// one that changes the direction of text?
#[must_use]
pub fn is_hidden(c: char) -> bool {
    c.is_control()
        || matches!(c,
            '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}'..='\u{1160}' | '\u{17b4}'..='\u{17b5}'
            | '\u{180b}'..='\u{180f}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{fe00}'..='\u{fe0f}' | '\u{feff}' | '\u{ffa0}'
            | '\u{fff0}'..='\u{fffb}' | '\u{fffe}' | '\u{ffff}' | '\u{1bca0}'..='\u{1bca3}'
            | '\u{1d173}'..='\u{1d17a}' | '\u{e0000}'..='\u{e0fff}')
}

/// What a runner of continuous integration does where a line of its log has `::name` in it.
const COMMANDS: [&str; 16] = [
    "add-mask",
    "add-matcher",
    "add-path",
    "debug",
    "echo",
    "endgroup",
    "error",
    "group",
    "notice",
    "remove-matcher",
    "save-state",
    "set-env",
    "set-output",
    "set-secret",
    "stop-commands",
    "warning",
];

/// Where the characters stand without which no runner of continuous integration takes anything in the text for a command: of
/// `##[…]` and `##name[…]` anywhere, and of `::name` where a line may begin, or where the name is one of theirs.
fn commands(text: &str) -> Vec<usize> {
    let bytes = text.as_bytes();
    let mut found = Vec::new();
    for at in memmem::find_iter(bytes, b"##") {
        let rest = bytes.get(at + 2..).unwrap_or_default();
        let signs = rest.iter().take_while(|byte| **byte == b'#').count();
        let rest = rest.get(signs..).unwrap_or_default().trim_ascii_start();
        let name = rest.iter().take_while(|byte| byte.is_ascii_alphanumeric()).count();
        if rest.get(name) == Some(&b'[') {
            found.push(at + 1);
        }
    }
    for at in memmem::find_iter(bytes, b"::") {
        let rest = text.get(at + 2..).unwrap_or_default().trim_start_matches(':');
        let before = text.get(..at).and_then(|before| before.chars().next_back());
        let is_start = before.is_none_or(char::is_whitespace);
        let is_name = rest.starts_with(|c: char| c.is_ascii_alphabetic());
        let is_command = |name: &&str| {
            rest.get(..name.len()).is_some_and(|start| start.eq_ignore_ascii_case(name))
        };
        if is_start && is_name || COMMANDS.iter().any(is_command) {
            found.push(at);
        }
    }
    found.sort_unstable();
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn escapes_mean_the_same() {
        let value = serde_json::json!({"a\u{202e}b": "\u{feff}\u{7f}\n\u{1b}x ##vso[a]\u{e0041}"});
        let text = escaped_json(serde_json::to_string_pretty(&value).unwrap());
        assert!(text.is_ascii() && !text.contains("##"), "{text}");
        assert_eq!(serde_json::from_str::<serde_json::Value>(&text).unwrap(), value);
    }

    #[test]
    fn commands_are_found_wherever_a_runner_finds_them() {
        for (text, at) in [
            ("::error file=a::x", vec![0]),
            ("x ::set-output name=a::b", vec![2]),
            ("a\n  ::anything::x", vec![4]),
            ("Harbour::Error::Tide", vec![7]),
            (":::error::", vec![0]),
            ("x##[error]y", vec![2]),
            ("###vso[task]", vec![1]),
            ("##teamcity[x]", vec![1]),
            ("## vso[task.setvariable]", vec![1]),
            ("## Heading", vec![]),
            ("std::vec::Vec::new", vec![]),
            ("::1 and fe80::1", vec![]),
            ("#[derive] ## a", vec![]),
        ] {
            assert_eq!(commands(text), at, "{text}");
        }
    }
}
