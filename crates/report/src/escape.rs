//! Makes text from outside harmless before it meets an output.

use std::borrow::Cow;
use std::fmt::Write as _;

use faithful_clerk_model::invisible::spelled;

/// Text for a terminal, and for a log that a runner of continuous integration reads: control characters, line ends,
/// characters that change the direction or hide, and what such a runner takes for a command, are written as `\u{…}`. What is left
/// can be printed in any terminal and pasted anywhere.
#[must_use]
pub fn terminal(text: &str) -> Cow<'_, str> {
    spelled(text, |c, safe| match c {
        '\n' => safe.push_str("\\n"),
        '\r' => safe.push_str("\\r"),
        '\t' => safe.push_str("\\t"),
        c => _ = write!(safe, "\\u{{{:x}}}", u32::from(c)),
    })
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

/// Text within a line of Markdown: what has a meaning there stands behind a backslash, what would harm a terminal is
/// written out, and words that a renderer makes something of by itself are code: those that name people, issues and addresses.
#[must_use]
pub fn markdown(text: &str) -> String {
    markdown_in(text, false)
}

/// The same within a cell of a table, where a vertical bar ends the cell even in code.
pub(crate) fn markdown_in(text: &str, is_cell: bool) -> String {
    let text = terminal(text);
    let mut safe = String::with_capacity(text.len() + 8);
    // Words that act stand together in one piece of code.
    let mut acting = String::new();
    let mut words = text.split(' ').peekable();
    let mut is_start = true;
    while let Some(word) = words.next() {
        let is_last = words.peek().is_none();
        if acts(word) {
            acting.push_str(word);
            if words.peek().is_some_and(|next| acts(next)) {
                acting.push(' ');
                continue;
            }
            safe.push_str(&code_in(&acting, is_cell));
            acting.clear();
        } else {
            escape_word(word, is_start, &mut safe);
        }
        is_start &= word.is_empty();
        if !is_last {
            safe.push(' ');
        }
    }
    safe
}

/// Text as code within a line of Markdown.
pub(crate) fn code_in(text: &str, is_cell: bool) -> String {
    let text = terminal(text);
    // Renderers don't agree on what a backslash before a bar is.
    let in_cell = || text.replace(r"\|", r"\\u{7c}").replace('|', r"\|");
    let text = if is_cell { in_cell() } else { text.into_owned() };
    let runs = text.split(|c| c != '`').map(str::len).max().unwrap_or_default();
    let fence = "`".repeat(runs + 1);
    // A space at both ends is taken off, and so is one that a fence needs.
    let is_edged = text.starts_with([' ', '`']) || text.ends_with([' ', '`']);
    let space = if runs > 0 || is_edged { " " } else { "" };
    format!("{fence}{space}{text}{space}{fence}")
}

/// Does a renderer of some forge make something of a word: an address, a person, an issue, a commit, a picture, a formula?
fn acts(word: &str) -> bool {
    let lower = || word.to_ascii_lowercase();
    let is_reference = word.char_indices().any(|(at, c)| {
        let behind = word.get(at + c.len_utf8()..).unwrap_or_default();
        matches!(c, '#' | '!' | '~' | '%' | '&' | '^')
            && behind
                .starts_with(|c: char| !c.is_ascii() || c.is_alphanumeric() || "\"{_".contains(c))
    });
    let is_commit = word.split(|c: char| !c.is_ascii_alphanumeric()).any(|run| {
        run.len() >= 7
            && run.bytes().all(|byte| byte.is_ascii_hexdigit())
            && run.bytes().any(|byte| byte.is_ascii_digit())
            && run.bytes().any(|byte| byte.is_ascii_alphabetic())
    });
    word.contains(['@', '$'])
        || word.contains("://")
        || word.matches(':').count() > 1
        || is_reference
        || is_commit
        || is_ticket(word)
        || ["www.", "mailto:", "xmpp:"].iter().any(|start| lower().contains(start))
}

/// Is it the key of a ticket, such as `GH-12`?
fn is_ticket(word: &str) -> bool {
    word.match_indices('-').any(|(at, _)| {
        let (before, behind) = (word.get(..at), word.get(at + 1..));
        before.is_some_and(|before| before.ends_with(|c: char| c.is_ascii_uppercase()))
            && behind.is_some_and(|behind| behind.starts_with(|c: char| c.is_ascii_digit()))
    })
}

/// A word that does not act. At the start, it may look like the mark of an item, of a line across or of a heading.
fn escape_word(word: &str, is_start: bool, safe: &mut String) {
    let digits = word.bytes().take_while(u8::is_ascii_digit).count();
    for (at, c) in word.char_indices() {
        let is_mark = is_start
            && (at == 0 && matches!(c, '-' | '+' | '=' | ':')
                || at == digits && matches!(c, '.' | ')'));
        let has_meaning = "\\`*_[]<>|~#&!^".contains(c);
        if is_mark || has_meaning {
            safe.push('\\');
        }
        safe.push(c);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_model::invisible::is_hidden;
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
