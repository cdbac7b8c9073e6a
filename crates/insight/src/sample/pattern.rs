//! A text that a pattern matches.

use regex::Regex;
use regex_syntax::hir::{Class, Hir, HirKind};

/// No text is made longer than this.
const LONGEST: usize = 1000;

/// Patterns that nest deeper are left alone.
const DEEPEST: usize = 50;

/// What people write where a pattern asks for something of that form: services often look closer than their pattern says.
const E_MAIL: &str = "somebody@harbour.example";
const URL: &str = "https://harbour.example/";
const UUID: &str = "3f2a1b4c-5d6e-4f70-8a91-b2c3d4e5f607";
const INSTANTS: [&str; 3] = ["2027-01-31", "2027-01-31T12:00:00Z", "12:00:00"];

/// Texts that the pattern matches, as far as any can be made up; first what people would write.
pub(super) fn matching(pattern: &Regex) -> impl Iterator<Item = String> + use<> {
    let made_up = made_up(pattern);
    let usual = made_up.as_deref().and_then(usual).filter(|usual| pattern.is_match(usual));
    usual.map(str::to_owned).into_iter().chain(made_up)
}

/// What people write in place of such a text.
fn usual(text: &str) -> Option<&'static str> {
    let form = |text: &str| -> String {
        text.chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect()
    };
    match text {
        _ if text.contains("://") => Some(URL),
        _ if text.contains('@') => Some(E_MAIL),
        _ if text.len() == UUID.len() => Some(UUID),
        _ => INSTANTS.into_iter().find(|instant| form(instant) == form(text)),
    }
}

/// A short text that the pattern matches.
fn made_up(pattern: &Regex) -> Option<String> {
    let hir = regex_syntax::parse(pattern.as_str()).ok()?;
    let mut text = String::new();
    write(&hir, &mut text, DEEPEST)?;
    // What stands around a place, such as the edge of a word, is not looked at above.
    pattern.is_match(&text).then_some(text)
}

fn write(hir: &Hir, text: &mut String, left: usize) -> Option<()> {
    if left == 0 || text.len() > LONGEST {
        return None;
    }
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => {}
        HirKind::Literal(literal) => text.push_str(std::str::from_utf8(&literal.0).ok()?),
        HirKind::Class(class) => text.push(member(class)?),
        HirKind::Repetition(repetition) => {
            for _ in 0..repetition.min {
                write(&repetition.sub, text, left - 1)?;
            }
        }
        HirKind::Capture(capture) => write(&capture.sub, text, left - 1)?,
        HirKind::Concat(parts) => {
            for part in parts {
                write(part, text, left - 1)?;
            }
        }
        HirKind::Alternation(parts) => write(parts.first()?, text, left - 1)?,
    }
    Some(())
}

/// A member of a class: one that can be read, if there is one.
fn member(class: &Class) -> Option<char> {
    let has = |c: char| match class {
        Class::Unicode(class) => {
            class.ranges().iter().any(|range| (range.start()..=range.end()).contains(&c))
        }
        Class::Bytes(class) => u8::try_from(c).is_ok_and(|byte| {
            class.ranges().iter().any(|range| (range.start()..=range.end()).contains(&byte))
        }),
    };
    let usual = ('a'..='z').chain('A'..='Z').chain('1'..='9').chain(['0', '-', '_', '.']);
    let first = || match class {
        Class::Unicode(class) => {
            class.ranges().first().map(regex_syntax::hir::ClassUnicodeRange::start)
        }
        Class::Bytes(class) => class.ranges().first().map(|range| char::from(range.start())),
    };
    usual.into_iter().find(|c| has(*c)).or_else(first)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_match_their_patterns() {
        for (pattern, expected) in [
            ("^[A-Z]{2}[0-9]{4}$", Some("AA1111")),
            ("^(north|mill)-\\d+$", Some("north-1")),
            ("^[0-9a-f-]{36}$", Some(UUID)),
            ("^[^@ ]+@[^@ ]+$", Some(E_MAIL)),
            ("^[a-z]+@[a-z]+$", Some("a@a")),
            ("^https?://.+", Some(URL)),
            ("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", Some("2027-01-31")),
            ("", Some("")),
            ("^\\b$", None),
            ("x{9999}", None),
        ] {
            let pattern = Regex::new(pattern).unwrap();
            assert_eq!(matching(&pattern).next().as_deref(), expected, "{pattern}");
        }
    }
}
