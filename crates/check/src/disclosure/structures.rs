//! What the structure of a body discloses, where no text does: traces as lists of frames, and members that are secrets
//! by their names.

use serde_json::{Map, Value};

use super::patterns::PatternMatch;
use faithful_clerk_model::finding::DisclosureKind;
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_model::secret::is_secret_name;

/// What an array discloses by its items: stack frames.
pub(super) fn in_array(items: &[Value]) -> Option<PatternMatch> {
    let frame = items.iter().find_map(|item| frame(item.as_object()?))?;
    Some(PatternMatch {
        kind: DisclosureKind::StackTrace,
        what: "a trace as a list of frames",
        text: frame,
    })
}

/// What an object discloses by the name of this member.
pub(super) fn in_member(name: &str, value: &Value) -> Option<PatternMatch> {
    // Most texts are short or have spaces, which is quicker to see than what a name ends with.
    let text = value.as_str().filter(|text| could_be_a_secret(text))?;
    if !is_secret_name(name) || !looks_like_a_secret(text) {
        return None;
    }
    Some(PatternMatch { kind: DisclosureKind::Secret, what: BY_NAME, text: text.to_owned() })
}

/// What a secret is of which only the name of its member tells.
pub(super) const BY_NAME: &str = "a secret, by its member's name";

const FILES: [&str; 5] = ["file", "fileName", "filename", "file_name", "path"];
const LINES: [&str; 5] = ["line", "lineNumber", "lineno", "line_number", "lineNo"];
const CALLS: [&str; 6] = ["function", "method", "methodName", "class", "className", "callee"];
const SOURCES: [&str; 16] = [
    ".java", ".kt", ".scala", ".php", ".py", ".rb", ".js", ".mjs", ".cjs", ".ts", ".go", ".rs",
    ".cs", ".ex", ".exs", ".swift",
];

/// A stack frame: a file and a line, and what was called or a file of code. A line of a file alone may be one that the
/// caller sent.
fn frame(members: &Map<String, Value>) -> Option<String> {
    let file = FILES.iter().find_map(|name| members.member(name)?.as_str())?;
    let line = LINES.iter().find_map(|name| members.member(name)?.as_u64())?;
    let is_code = SOURCES.iter().any(|ending| file.ends_with(ending));
    let is_called = CALLS.iter().any(|name| members.member(name).is_some_and(Value::is_string));
    (is_code || is_called).then(|| format!("{file}:{line}"))
}

/// Long enough, and without spaces.
fn could_be_a_secret(text: &str) -> bool {
    const LEAST: usize = 8;
    text.len() >= LEAST && !text.contains(char::is_whitespace)
}

/// A value that could be a password, token or key, and not a word for what is wrong with one: letters and digits
/// without a space, or long.
fn looks_like_a_secret(text: &str) -> bool {
    const LONG: usize = 24;
    let is_word = |part: &str| {
        let letters = part.trim_end_matches(|c: char| c.is_ascii_digit());
        letters.bytes().all(|byte| byte.is_ascii_lowercase())
            || letters.bytes().all(|byte| byte.is_ascii_uppercase())
    };
    // `too_short`, `INVALID_TOKEN_2`, `auth.token.expired`.
    let is_code =
        text.contains(['_', '-', '.', ' ']) && text.split(['_', '-', '.', ' ']).all(is_word);
    let has = |what: fn(&char) -> bool| text.chars().any(|c| what(&c));
    !is_code
        && !text.contains("***")
        && (text.len() >= LONG || (has(char::is_ascii_digit) && has(char::is_ascii_alphabetic)))
}
