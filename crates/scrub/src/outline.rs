//! What an entry is made of, with the few texts that tell what the others are.

use std::borrow::Cow;

use super::entry::PathStep;
use super::layers::plain;
use faithful_clerk_model::json::scan::string_end;

/// What is nested deeper than this is passed over: nothing that tells something stands there.
const DEEPEST: usize = 32;

/// Members whose text tells what they or others beside them are.
const TELLING: [&str; 4] = ["name", "value", "mimeType", "encoding"];

/// A value, without the texts of most members.
#[derive(Debug)]
pub(super) enum EntryOutline<'t> {
    /// Members by name, those of one name in their order: what looks like header fields may be a million.
    Object(Vec<(Cow<'t, str>, Self)>),
    List(Vec<Self>),
    Text(Cow<'t, str>),
    Number(u64),
    Other,
}

impl<'t> EntryOutline<'t> {
    /// The outline of a JSON text, if its brackets and strings are in order: what is in them may be whatever a reader
    /// lets pass, such as half of a surrogate pair, a control character or a number of any size.
    pub(super) fn read(text: &'t str) -> Option<Self> {
        let mut reader = EntryScan { text, at: 0 };
        let outline = reader.value(false, 0)?;
        reader.peek().is_none().then_some(outline)
    }

    /// One step further.
    pub(super) fn step(&self, step: &PathStep<'_>) -> Option<&Self> {
        match (self, step) {
            (_, PathStep::Member(name)) => self.member(name),
            (Self::List(items), PathStep::Item(at)) => items.get(*at),
            _ => None,
        }
    }

    /// The member of a name. Of several, the last counts, as it does for those who read JSON.
    pub(super) fn member(&self, name: &str) -> Option<&Self> {
        let Self::Object(members) = self else { return None };
        let behind = members.partition_point(|(known, _)| **known <= *name);
        let (known, value) = members.get(behind.checked_sub(1)?)?;
        (known == name).then_some(value)
    }

    /// The content coding that the headers of a request or response name.
    pub(super) fn coding(&self, side: &str) -> Option<&str> {
        let Self::List(headers) = self.member(side)?.member("headers")? else { return None };
        let is_it = |header: &&Self| {
            let name = header.member("name").and_then(Self::text);
            name.is_some_and(|name| name.eq_ignore_ascii_case("content-encoding"))
        };
        headers.iter().find(is_it)?.member("value")?.text()
    }

    pub(super) fn text(&self) -> Option<&str> {
        if let Self::Text(text) = self { Some(text) } else { None }
    }

    pub(super) fn number(&self) -> Option<u64> {
        if let Self::Number(number) = self { Some(*number) } else { None }
    }
}

/// Is this JSON, or JSON in each of its lines?
pub(super) fn is_json_or_lines(text: &str) -> bool {
    is_json(text) || text.lines().filter(|line| !line.trim().is_empty()).all(is_json)
}

/// Does a text begin as only JSON does?
pub(super) fn begins_as_json(text: &str) -> bool {
    let text = text.trim_start();
    let inner = text.trim_start_matches(['[', '{', ' ', '\t', '\r', '\n']);
    text.starts_with(['{', '[']) && inner.starts_with('"')
}

/// Is this JSON? As for the outline, only brackets, strings and words have to be in order.
pub(super) fn is_json(text: &str) -> bool {
    let mut reader = EntryScan { text, at: 0 };
    reader.pass().is_some() && reader.peek().is_none()
}

struct EntryScan<'t> {
    text: &'t str,
    at: usize,
}

impl<'t> EntryScan<'t> {
    /// The next byte that is no space.
    fn peek(&mut self) -> Option<u8> {
        let rest = self.text.as_bytes().get(self.at..)?;
        let space = rest.iter().position(|byte| !matches!(byte, b' ' | b'\t' | b'\n' | b'\r'));
        self.at += space.unwrap_or(rest.len());
        self.text.as_bytes().get(self.at).copied()
    }

    fn take(&mut self, byte: u8) -> Option<()> {
        let is_there = self.peek() == Some(byte);
        self.at += usize::from(is_there);
        is_there.then_some(())
    }

    /// A value; its text is kept if it tells something.
    fn value(&mut self, keeps: bool, depth: usize) -> Option<EntryOutline<'t>> {
        match self.peek()? {
            b'{' | b'[' if depth == DEEPEST => self.pass().map(|()| EntryOutline::Other),
            b'{' => self.object(depth),
            b'[' => {
                self.at += 1;
                let mut items = Vec::new();
                if self.take(b']').is_none() {
                    items.push(self.value(false, depth + 1)?);
                    while self.take(b',').is_some() {
                        items.push(self.value(false, depth + 1)?);
                    }
                    self.take(b']')?;
                }
                Some(EntryOutline::List(items))
            }
            b'"' => {
                let literal = self.string()?;
                Some(if keeps { EntryOutline::Text(plain(literal)) } else { EntryOutline::Other })
            }
            _ => {
                let word = self.word()?;
                Some(word.parse().map_or(EntryOutline::Other, EntryOutline::Number))
            }
        }
    }

    fn object(&mut self, depth: usize) -> Option<EntryOutline<'t>> {
        self.at += 1;
        let mut members = Vec::new();
        if self.take(b'}').is_none() {
            loop {
                let name = match self.peek()? {
                    b'"' => plain(self.string()?),
                    _ => return None,
                };
                self.take(b':')?;
                let keeps = TELLING.contains(&&*name);
                members.push((name, self.value(keeps, depth + 1)?));
                if self.take(b',').is_none() {
                    break;
                }
            }
            self.take(b'}')?;
        }
        members.sort_by(|(one, _): &(Cow<'_, str>, _), (other, _)| one.cmp(other));
        Some(EntryOutline::Object(members))
    }

    /// A literal, without its quotation marks.
    fn string(&mut self) -> Option<&'t str> {
        let start = self.at;
        self.at = string_end(self.text.as_bytes(), start + 1)?;
        self.text.get(start + 1..self.at - 1)
    }

    /// A number, or one of the three words.
    fn word(&mut self) -> Option<&'t str> {
        let rest = self.text.get(self.at..)?;
        let is_part = |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'+' | b'.');
        let word =
            rest.get(..rest.bytes().position(|byte| !is_part(byte)).unwrap_or(rest.len()))?;
        let digits = word.strip_prefix('-').unwrap_or(word);
        let is_number = digits.starts_with(|c: char| c.is_ascii_digit())
            && digits.bytes().all(|byte| byte.is_ascii_digit() || b".eE+-".contains(&byte));
        self.at += word.len();
        (is_number || matches!(word, "true" | "false" | "null")).then_some(word)
    }

    /// Passes over a value of any depth.
    fn pass(&mut self) -> Option<()> {
        let mut open: Vec<u8> = Vec::new();
        loop {
            // A value begins here.
            match self.peek()? {
                byte @ (b'{' | b'[') => {
                    self.at += 1;
                    let close = byte + 2;
                    if self.take(close).is_none() {
                        open.push(close);
                        self.name(close)?;
                        continue;
                    }
                }
                b'"' => drop(self.string()?),
                _ => drop(self.word()?),
            }
            // One has ended, and perhaps what it is in.
            loop {
                let Some(close) = open.last().copied() else { return Some(()) };
                if self.take(b',').is_some() {
                    self.name(close)?;
                    break;
                }
                self.take(close)?;
                open.pop();
            }
        }
    }

    /// The name before a value, where it is in an object.
    fn name(&mut self, close: u8) -> Option<()> {
        if close == b'}' {
            self.peek().filter(|byte| *byte == b'"')?;
            self.string()?;
            self.take(b':')?;
        }
        Some(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_tells_is_kept_and_the_last_member_of_a_name_counts() {
        let text = r#"{"response":{"status":404,"headers":[{"name":"A","value":"x"},{"name":"B","n\u0061me":"C"}]}}"#;
        let outline = EntryOutline::read(text).unwrap();
        let response = outline.member("response").unwrap();
        assert_eq!(response.member("status").unwrap().number(), Some(404));
        let headers = response.member("headers").unwrap();
        let field = |at| headers.step(&PathStep::Item(at)).unwrap();
        assert_eq!(field(0).member("name").unwrap().text(), Some("A"));
        assert_eq!(field(0).member("value").unwrap().text(), Some("x"));
        assert_eq!(field(1).member("name").unwrap().text(), Some("C"));
        assert!(headers.member("name").is_none() && headers.step(&PathStep::Item(2)).is_none());
        for broken in ["{", "{}}", "", r#"{"a" "b"}"#, r#"{"a":tru}"#, "[1,]", &"[".repeat(1000)] {
            assert!(EntryOutline::read(broken).is_none() && !is_json(broken), "{broken}");
        }
        let deep = format!("{}{}", "[".repeat(9000), "]".repeat(9000));
        for odd in [r#"{"a":"\ud800"}"#, "{\"a\":\"\u{1}\"}", r#"{"a":[1e999,{},[]]}"#, &deep] {
            assert!(EntryOutline::read(odd).is_some() && is_json(odd), "{odd}");
        }
    }
}
