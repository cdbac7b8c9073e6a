//! What can't be looked into is blanked: better nothing than a secret.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt;

use faithful_clerk_model::secret::looks_random;
use serde::{Deserialize, Serialize};

/// The place of what is no entry; its number is that of the entry before.
pub const BETWEEN: &str = "a part of the recording";

/// So many entries are named for each place and reason.
const MOST_NAMED: usize = 10;

/// Why something can't be looked into.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum BlankReason {
    /// It is no part of a recording that can be read: broken off, too large, of no known form.
    Unreadable,
    /// Its bytes are no text.
    NotText,
    /// It is declared as JSON, or begins as JSON, and is not JSON.
    NotJson,
    /// What its content coding is can't be undone.
    Coding,
    /// A secret is in it, and in its content coding there is no room for a pseudonym.
    Packed,
}

impl fmt::Display for BlankReason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Unreadable => "it can't be read",
            Self::NotText => "its bytes are not text",
            Self::NotJson => "it looks like JSON and is not valid JSON",
            Self::Coding => "its content coding can't be undone",
            Self::Packed => "a secret in it could not be replaced within its content coding",
        })
    }
}

/// How often something was blanked, and in which entries first.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BlankedPlaces {
    /// How often.
    pub count: u64,
    /// The numbers of the first entries; what stands before the first has 0.
    pub first: Vec<u64>,
}

/// What was blanked, by place and reason.
pub type Blanks = BTreeMap<(Cow<'static, str>, BlankReason), BlankedPlaces>;

/// Notes that something was blanked in this entry.
pub(super) fn note(blanks: &mut Blanks, place: &'static str, reason: BlankReason, entry: u64) {
    let places = blanks.entry((Cow::Borrowed(place), reason)).or_default();
    places.count += 1;
    if places.first.len() < MOST_NAMED && places.first.last() != Some(&entry) {
        places.first.push(entry);
    }
}

/// Adds what was blanked later in the same recording.
pub(super) fn add(blanks: &mut Blanks, later: Blanks) {
    for (key, BlankedPlaces { count, first }) in later {
        let places = blanks.entry(key).or_default();
        places.count += count;
        for entry in first {
            if places.first.len() < MOST_NAMED && places.first.last() != Some(&entry) {
                places.first.push(entry);
            }
        }
    }
}

/// Bytes that are no text, as many.
pub(super) fn no_text(bytes: &[u8]) -> Vec<u8> {
    vec![0xff; bytes.len()]
}

/// The same with no letter, digit or character beyond ASCII left: what is broken stays broken, and lines stay lines.
pub(super) fn unread(bytes: &[u8]) -> Vec<u8> {
    let blank = |byte: &u8| match byte {
        byte if byte.is_ascii_alphanumeric() || !byte.is_ascii() => b'x',
        byte => *byte,
    };
    bytes.iter().map(blank).collect()
}

/// Broken JSON without its values: it stays as broken as it was, at the same place. Names stay that are some beyond doubt.
pub(super) fn broken_json(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let (mut in_string, mut is_escaped) = (false, false);
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        if !in_string
            && out.trim_end().ends_with(['{', ','])
            && let Some(name) = plain_name(rest)
        {
            out.push_str(name);
            rest = rest.get(name.len()..).unwrap_or_default();
            continue;
        }
        if !in_string
            && let Some(word) =
                ["true", "false", "null"].iter().find(|word| rest.starts_with(**word))
        {
            out.push_str(word);
            rest = rest.get(word.len()..).unwrap_or_default();
            continue;
        }
        rest = rest.get(c.len_utf8()..).unwrap_or_default();
        match c {
            'u' if is_escaped
                && rest.get(..4).is_some_and(|code| u16::from_str_radix(code, 16).is_ok()) =>
            {
                out.push_str("u0078");
                rest = rest.get(4..).unwrap_or_default();
            }
            _ if is_escaped => out.push(if "bfnrt\"\\/".contains(c) { c } else { like(c) }),
            '"' | '\\' => out.push(c),
            _ => out.push(like(c)),
        }
        in_string ^= c == '"' && !is_escaped;
        is_escaped = c == '\\' && in_string && !is_escaped;
    }
    out
}

/// The name of a member that a text begins with, in its quotation marks, where a colon is behind it and nothing random in it.
fn plain_name(text: &str) -> Option<&str> {
    let inner = text.strip_prefix('"')?;
    let name = inner.get(..inner.find('"')?)?;
    let is_plain = name.chars().all(|c| c.is_alphanumeric() || "_-. $@".contains(c));
    let behind = inner.get(name.len() + 1..)?.trim_start();
    let is_name = behind.starts_with(':') && is_plain && !looks_random(name);
    is_name.then(|| text.get(..name.len() + 2)).flatten()
}

/// A character that tells nothing, of the same sort and as many bytes.
fn like(c: char) -> char {
    match c {
        '1'..='9' => '1',
        _ if c.is_ascii_alphabetic() => 'x',
        _ if c.is_ascii() => c,
        _ => match c.len_utf8() {
            2 => '\u{e6}',
            3 => '\u{3042}',
            _ => '\u{1f41f}',
        },
    }
}

/// The text of base64 with other content of the same length, whether it is right or not.
pub(super) fn base64(text: &str) -> String {
    let is_digit = |c: char| c.is_ascii_alphanumeric() || matches!(c, '+' | '/' | '-' | '_');
    let blank = |c: char| match c {
        c if is_digit(c) => "/".to_owned(),
        c if c.is_ascii() => c.to_string(),
        c => "/".repeat(c.len_utf8()),
    };
    text.chars().map(blank).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_blanked_keeps_its_length_and_nothing_else() {
        let broken =
            r#"{"pässwort": "a\"b\u00e9c", "n": 20, "is": true, "q7x9k2m4b5": {"a": "b": "c"#;
        let blanked =
            r#"{"pässwort": "x\"x\u0078x", "n": 10, "is": true, "x1x1x1x1x1": {"a": "x": "x"#;
        assert_eq!(broken_json(broken), blanked);
        assert_eq!(unread("Bearer é-9!\n".as_bytes()), b"xxxxxx xx-x!\n");
        assert_eq!(base64("aGk=\n"), "///=\n");
        assert_eq!(no_text(b"abc"), [0xff; 3]);
    }
}
