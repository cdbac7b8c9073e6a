//! What a JSON text is made of, in the order in which it stands there: read once, and gone over as often as it takes.

use std::borrow::Cow;

use super::layers::plain;
use faithful_clerk_model::json::scan::string_end;

/// What a token is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum TokenKind {
    Object,
    List,
    /// The name of a member.
    Name,
    Text,
    Number,
    /// One of `true`, `false` and `null`.
    Word,
}

/// A part of a JSON text.
#[derive(Debug, Clone, Copy)]
pub(super) struct Token {
    kind: TokenKind,
    /// Where it starts and ends; names and texts without their quotation marks.
    start: u32,
    end: u32,
    /// The number of the token behind it and all that is in it.
    next: u32,
}

/// The tokens of a JSON text.
#[derive(Debug)]
pub(super) struct Tape<'t> {
    text: &'t str,
    tokens: Vec<Token>,
}

impl<'t> Tape<'t> {
    /// The tokens of a JSON text, if its brackets and strings are in order: what is in them may be whatever a reader
    /// lets pass, such as half of a surrogate pair, a control character or a number of any size. `room` is used again.
    pub(super) fn read(text: &'t str, mut room: Vec<Token>) -> Option<Self> {
        room.clear();
        // Tokens count with 32 bits.
        u32::try_from(text.len()).ok()?;
        let mut scan = Scan { text, at: 0, sink: room };
        scan.value()?;
        scan.peek().is_none().then_some(Self { text, tokens: scan.sink })
    }

    /// The outermost value.
    pub(super) fn root(&self) -> TapeNode<'_, 't> {
        TapeNode { tape: self, at: 0 }
    }

    /// The room that its tokens took.
    pub(super) fn into_room(self) -> Vec<Token> {
        self.tokens
    }
}

/// A token, and what is in it.
#[derive(Debug, Clone, Copy)]
pub(super) struct TapeNode<'p, 't> {
    tape: &'p Tape<'t>,
    at: usize,
}

impl<'p, 't> TapeNode<'p, 't> {
    fn token(self) -> Option<&'p Token> {
        self.tape.tokens.get(self.at)
    }

    pub(super) fn kind(self) -> TokenKind {
        self.token().map_or(TokenKind::Word, |token| token.kind)
    }

    /// Its number.
    pub(super) fn number(self) -> usize {
        self.at
    }

    /// The number of the token behind it and all that is in it.
    pub(super) fn next(self) -> usize {
        self.token().map_or(usize::MAX, |token| token.next as usize)
    }

    /// The token that comes next, in it or behind it.
    pub(super) fn following(self) -> Option<Self> {
        let at = self.at + 1;
        (at < self.tape.tokens.len()).then_some(Self { at, ..self })
    }

    /// Where it stands.
    pub(super) fn range(self) -> std::ops::Range<usize> {
        self.token().map_or(0..0, |token| token.start as usize..token.end as usize)
    }

    /// As it stands there.
    pub(super) fn raw(self) -> &'t str {
        self.tape.text.get(self.range()).unwrap_or_default()
    }

    /// What a name or text says.
    pub(super) fn plain(self) -> Cow<'t, str> {
        plain(self.raw())
    }

    /// What directly follows in it, one after the other.
    fn inner(self) -> impl Iterator<Item = Self> {
        let end = self.next();
        let first = self.at + 1;
        let is_inside = move |node: &Self| node.at < end;
        let start = Some(Self { at: first, ..self }).filter(is_inside);
        std::iter::successors(start, move |node| {
            Some(Self { at: node.next(), ..*node }).filter(is_inside)
        })
    }

    /// The items of a list.
    pub(super) fn items(self) -> impl Iterator<Item = Self> {
        let is_list = self.kind() == TokenKind::List;
        self.inner().filter(move |_| is_list)
    }

    /// The members of an object: name and value.
    pub(super) fn members(self) -> impl Iterator<Item = (Self, Self)> {
        let is_object = self.kind() == TokenKind::Object;
        let mut inner = self.inner().filter(move |_| is_object);
        std::iter::from_fn(move || Some((inner.next()?, inner.next()?)))
    }

    /// The member of a name. Of several, the last counts, as it does for those who read JSON.
    pub(super) fn member(self, name: &str) -> Option<Self> {
        self.members().filter(|(known, _)| known.plain() == name).last().map(|(_, value)| value)
    }

    /// What a text says; nothing of any other value.
    pub(super) fn text(self) -> Option<Cow<'t, str>> {
        (self.kind() == TokenKind::Text).then(|| self.plain())
    }

    /// What the member of a name says.
    pub(super) fn word(self, name: &str) -> Cow<'t, str> {
        self.member(name).and_then(Self::text).unwrap_or_default()
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

/// Is this JSON? As for the tape, only brackets, strings and words have to be in order.
pub(super) fn is_json(text: &str) -> bool {
    let mut scan = Scan { text, at: 0, sink: NoTokens };
    scan.value().is_some() && scan.peek().is_none()
}

/// What takes the tokens of a scan.
trait TokenSink {
    /// A token that stands there.
    fn push(&mut self, kind: TokenKind, start: usize, end: usize);

    /// The number of the token that comes next.
    fn count(&self) -> usize;

    /// Ends the object or list of that number, which ends there.
    fn close(&mut self, number: usize, end: usize);
}

/// Nobody.
struct NoTokens;

impl TokenSink for NoTokens {
    fn push(&mut self, _: TokenKind, _: usize, _: usize) {}

    fn count(&self) -> usize {
        0
    }

    fn close(&mut self, _: usize, _: usize) {}
}

/// A number that is known to have 32 bits.
fn short(number: usize) -> u32 {
    u32::try_from(number).unwrap_or(u32::MAX)
}

impl TokenSink for Vec<Token> {
    fn push(&mut self, kind: TokenKind, start: usize, end: usize) {
        let next = short(self.len() + 1);
        self.push(Token { kind, start: short(start), end: short(end), next });
    }

    fn count(&self) -> usize {
        self.len()
    }

    fn close(&mut self, number: usize, end: usize) {
        let next = short(self.len());
        if let Some(token) = self.get_mut(number) {
            (token.end, token.next) = (short(end), next);
        }
    }
}

struct Scan<'t, S> {
    text: &'t str,
    at: usize,
    sink: S,
}

impl<S: TokenSink> Scan<'_, S> {
    /// The next byte that is no space.
    fn peek(&mut self) -> Option<u8> {
        let bytes = self.text.as_bytes();
        while let Some(b' ' | b'\t' | b'\n' | b'\r') = bytes.get(self.at) {
            self.at += 1;
        }
        bytes.get(self.at).copied()
    }

    fn take(&mut self, byte: u8) -> Option<()> {
        let is_there = self.peek() == Some(byte);
        self.at += usize::from(is_there);
        is_there.then_some(())
    }

    /// A value of any depth.
    fn value(&mut self) -> Option<()> {
        // What is open: the bracket that will close it, and its token.
        let mut open: Vec<(u8, usize)> = Vec::new();
        loop {
            // A value begins here.
            match self.peek()? {
                byte @ (b'{' | b'[') => {
                    let kind = if byte == b'{' { TokenKind::Object } else { TokenKind::List };
                    let (close, number) = (byte + 2, self.sink.count());
                    self.at += 1;
                    self.sink.push(kind, self.at - 1, self.at);
                    if self.take(close).is_none() {
                        open.push((close, number));
                        self.name(close)?;
                        continue;
                    }
                    self.sink.close(number, self.at);
                }
                b'"' => self.string(TokenKind::Text)?,
                _ => self.word()?,
            }
            // One has ended, and perhaps what it is in.
            loop {
                let Some((close, number)) = open.last().copied() else { return Some(()) };
                if self.take(b',').is_some() {
                    self.name(close)?;
                    break;
                }
                self.take(close)?;
                self.sink.close(number, self.at);
                open.pop();
            }
        }
    }

    /// The name before a value, where it is in an object.
    fn name(&mut self, close: u8) -> Option<()> {
        if close == b'}' {
            self.peek().filter(|byte| *byte == b'"')?;
            self.string(TokenKind::Name)?;
            self.take(b':')?;
        }
        Some(())
    }

    fn string(&mut self, kind: TokenKind) -> Option<()> {
        let start = self.at + 1;
        self.at = string_end(self.text.as_bytes(), start)?;
        self.sink.push(kind, start, self.at - 1);
        Some(())
    }

    /// A number, or one of the three words.
    fn word(&mut self) -> Option<()> {
        let rest = self.text.as_bytes().get(self.at..)?;
        let is_part =
            |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'+' | b'.');
        let length = rest.iter().position(|byte| !is_part(byte)).unwrap_or(rest.len());
        let word = rest.get(..length)?;
        let digits = word.strip_prefix(b"-").unwrap_or(word);
        let is_number = digits.first().is_some_and(u8::is_ascii_digit)
            && digits.iter().all(|byte| byte.is_ascii_digit() || b".eE+-".contains(byte));
        let kind = if is_number { TokenKind::Number } else { TokenKind::Word };
        self.sink.push(kind, self.at, self.at + length);
        self.at += length;
        (is_number || matches!(word, b"true" | b"false" | b"null")).then_some(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tokens_are_found_and_the_last_member_of_a_name_counts() {
        let text = r#"{"response":{"status":404,"headers":[{"name":"A","value":"x"},{"name":"B","n\u0061me":"C"}]}}"#;
        let tape = Tape::read(text, Vec::new()).unwrap();
        let response = tape.root().member("response").unwrap();
        assert_eq!(response.member("status").unwrap().raw(), "404");
        let headers = response.member("headers").unwrap();
        let fields: Vec<_> = headers.items().collect();
        assert_eq!((&*fields[0].word("name"), &*fields[0].word("value")), ("A", "x"));
        assert_eq!((&*fields[1].word("name"), &*fields[1].word("value")), ("C", ""));
        assert_eq!(fields[0].raw(), r#"{"name":"A","value":"x"}"#);
        assert!(headers.member("name").is_none() && fields.len() == 2);
        assert_eq!(response.items().count(), 0);
        assert_eq!(tape.root().next(), tape.into_room().len());
    }

    #[test]
    fn brackets_strings_and_words_have_to_be_in_order() {
        for broken in ["{", "{}}", "", r#"{"a" "b"}"#, r#"{"a":tru}"#, "[1,]", &"[".repeat(1000)] {
            assert!(Tape::read(broken, Vec::new()).is_none() && !is_json(broken), "{broken}");
        }
        let deep = format!("{}{}", "[".repeat(9000), "]".repeat(9000));
        for odd in [r#"{"a":"\ud800"}"#, "{\"a\":\"\u{1}\"}", r#"{"a":[1e999,{},[]]}"#, &deep] {
            assert!(Tape::read(odd, Vec::new()).is_some() && is_json(odd), "{odd}");
        }
    }
}
