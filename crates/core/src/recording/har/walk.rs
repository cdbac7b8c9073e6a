//! The steps of a walk over the bytes of an entry: strings, numbers, the members of objects and the items of lists.
//!
//! Each step is at something that JSON has there, and stands behind it afterwards; or it gives `None`, and the walk is over.

use std::borrow::Cow;
use std::ops::Range;

use super::entry::{Raw, Text};
use super::literal::Literal;
use crate::recording::scan::{Follow, State, Stops, follow, plain_run, string_end, unescape};

pub(super) struct Walk<'a> {
    pub(super) text: &'a str,
    pub(super) bytes: &'a [u8],
    pub(super) stops: Stops<'a>,
    /// A string of which the end is known; empty where there is none.
    known: Range<usize>,
    /// Where the objects and lists stand that were not looked into, if that is asked for.
    skipped: Option<Vec<Range<usize>>>,
    pub(super) at: usize,
}

/// Does this byte end a number or a word?
fn is_end(byte: &u8) -> bool {
    matches!(byte, b',' | b'}' | b']' | b' ' | b'\n' | b'\r' | b'\t')
}

/// Fills a place that is still empty.
pub(super) fn once<T>(place: &mut Option<T>, value: T) -> Option<()> {
    if place.is_some() {
        return None;
    }
    *place = Some(value);
    Some(())
}

impl<'a> Walk<'a> {
    pub(super) fn of(text: &'a str) -> Self {
        Self::knowing(text, 0..0)
    }

    /// The same, for a text with a string of which the end is known.
    pub(super) fn knowing(text: &'a str, string: Range<usize>) -> Self {
        let bytes = text.as_bytes();
        Self { text, bytes, stops: Stops::of(bytes), known: string, skipped: None, at: 0 }
    }

    /// The same, for a walk that notes what it does not look into.
    pub(super) fn noting(text: &'a str) -> Self {
        Self { skipped: Some(Vec::new()), ..Self::of(text) }
    }

    /// Where the objects and lists stand that were not looked into, in their order.
    pub(super) fn skipped(self) -> Vec<Range<usize>> {
        self.skipped.unwrap_or_default()
    }

    /// Is that what comes?
    #[inline]
    pub(super) fn has(&self, text: &[u8]) -> bool {
        self.bytes.get(self.at..self.at + text.len()) == Some(text)
    }

    /// A string whose first quotation mark is behind us. The one at its end belongs to what comes behind the value.
    #[inline]
    pub(super) fn rest_of_string(&mut self) -> Option<Literal<'a>> {
        let start = self.at;
        if start == self.known.start {
            self.at = self.known.end;
            return Some(Literal::of(self.text, self.known.clone(), false));
        }
        let plain = start + plain_run(self.bytes.get(start..)?);
        let is_plain = self.bytes.get(plain) == Some(&b'"');
        self.at = if is_plain { plain } else { string_end(self.bytes, plain)? - 1 };
        Some(Literal::of(self.text, start..self.at, is_plain))
    }

    /// A number.
    #[inline]
    pub(super) fn number(&mut self) -> Option<&'a str> {
        let rest = self.bytes.get(self.at..)?;
        // A short whole number, as most are.
        if let [b'1'..=b'9', more @ ..] = rest {
            let length = 1 + more.iter().take_while(|byte| byte.is_ascii_digit()).count();
            if length < 16 && matches!(rest.get(length), Some(b',' | b'}')) {
                let start = self.at;
                self.at += length;
                return self.text.get(start..self.at);
            }
        }
        match rest.first()? {
            b'-' | b'0'..=b'9' => self.scalar(),
            _ => None,
        }
    }

    /// With the mark at the end of a string before us: is the string a member's name?
    pub(super) fn is_before_colon(&mut self) -> bool {
        self.at += 1;
        let rest = self.bytes.get(self.at..).unwrap_or_default();
        rest.iter().find(|byte| !byte.is_ascii_whitespace()) == Some(&b':')
    }

    /// The members of an object, each with its name; `each` takes the value.
    #[inline]
    pub(super) fn members(
        &mut self,
        mut each: impl FnMut(&mut Self, &'a [u8]) -> Option<()>,
    ) -> Option<()> {
        self.eat(b'{')?;
        self.space();
        if self.eat(b'}').is_some() {
            return Some(());
        }
        loop {
            let name = self.name()?;
            self.space();
            self.eat(b':')?;
            self.space();
            each(self, name)?;
            self.space();
            if self.eat(b'}').is_some() {
                return Some(());
            }
            self.eat(b',')?;
            self.space();
        }
    }

    /// The items of a list.
    #[inline]
    pub(super) fn items(&mut self, mut each: impl FnMut(&mut Self) -> Option<()>) -> Option<()> {
        self.eat(b'[')?;
        self.space();
        if self.eat(b']').is_some() {
            return Some(());
        }
        loop {
            each(self)?;
            self.space();
            if self.eat(b']').is_some() {
                return Some(());
            }
            self.eat(b',')?;
            self.space();
        }
    }

    #[inline]
    pub(super) fn space(&mut self) {
        while let Some(b' ' | b'\n' | b'\r' | b'\t') = self.bytes.get(self.at) {
            self.at += 1;
        }
    }

    #[inline]
    fn eat(&mut self, byte: u8) -> Option<()> {
        if self.bytes.get(self.at) != Some(&byte) {
            return None;
        }
        self.at += 1;
        Some(())
    }

    /// `null`, if that is what comes.
    pub(super) fn null(&mut self) -> bool {
        let is_null = self.bytes.get(self.at..).is_some_and(|rest| rest.starts_with(b"null"));
        self.at += if is_null { 4 } else { 0 };
        is_null
    }

    /// A string without escapes, as bytes.
    #[inline]
    fn name(&mut self) -> Option<&'a [u8]> {
        self.eat(b'"')?;
        let start = self.at;
        let end = self.stops.next(start)?;
        if self.bytes.get(end) != Some(&b'"') {
            return None;
        }
        self.at = end + 1;
        self.bytes.get(start..end)
    }

    /// A string without escapes.
    #[inline]
    fn plain(&mut self) -> Option<&'a str> {
        let start = self.at + 1;
        let length = self.name()?.len();
        self.text.get(start..start + length)
    }

    /// A string.
    #[inline]
    pub(super) fn text(&mut self) -> Option<Cow<'a, str>> {
        let start = self.at;
        if let Some(plain) = self.plain() {
            return Some(Cow::Borrowed(plain));
        }
        self.at = start;
        let literal = self.literal()?;
        unescape(literal)
    }

    pub(super) fn maybe_text(&mut self, place: &mut Option<Text<'a>>) -> Option<()> {
        // With null, nobody would see that the member came twice; that is rare enough for others.
        once(place, Text(self.text()?))
    }

    /// A string as it stands there, quotation marks and escapes with it.
    fn literal(&mut self) -> Option<&'a str> {
        let start = self.at;
        self.eat(b'"')?;
        let plain = self.stops.next(self.at)?;
        self.at = match self.bytes.get(plain)? {
            b'"' => plain + 1,
            _ => string_end(self.bytes, plain)?,
        };
        self.text.get(start..self.at)
    }

    /// Any value but null, as it stands there.
    pub(super) fn raw(&mut self, place: &mut Option<Raw<'a>>) -> Option<()> {
        let start = self.at;
        match self.bytes.get(self.at)? {
            b'n' => return None,
            b'"' | b'{' | b'[' => self.skip()?,
            _ => _ = self.scalar()?,
        }
        once(place, Raw(self.text.get(start..self.at)?))
    }

    /// A number, true, false or null.
    pub(super) fn scalar(&mut self) -> Option<&'a str> {
        let start = self.at;
        if let Some(length) = self.plain_number() {
            self.at += length;
            return self.text.get(start..self.at);
        }
        // Anything else is rare, and serde_json knows what it is.
        self.word();
        let text = self.text.get(start..self.at)?;
        let is_word = matches!(text, "true" | "false" | "null");
        (is_word || serde_json::from_str::<&serde_json::value::RawValue>(text).is_ok())
            .then_some(text)
    }

    /// How long the number is that stands here, if one does that has no exponent.
    #[inline]
    fn plain_number(&self) -> Option<usize> {
        let digits = |bytes: &[u8]| bytes.iter().take_while(|byte| byte.is_ascii_digit()).count();
        let rest = self.bytes.get(self.at..)?;
        let sign = usize::from(rest.first() == Some(&b'-'));
        let whole = rest.get(sign..)?;
        let length = digits(whole);
        let is_whole = length == 1 || (length > 1 && whole.first() != Some(&b'0'));
        let behind = whole.get(length..)?;
        let part = match behind.split_first() {
            Some((b'.', part)) => 1 + Some(digits(part)).filter(|length| *length > 0)?,
            _ => 0,
        };
        let is_end = behind.get(part).is_none_or(is_end);
        (is_whole && is_end).then_some(sign + length + part)
    }

    fn word(&mut self) {
        let rest = self.bytes.get(self.at..).unwrap_or_default();
        self.at += rest.iter().position(is_end).unwrap_or(rest.len());
    }

    /// Any value, not looked at.
    pub(super) fn skip(&mut self) -> Option<()> {
        match self.bytes.get(self.at)? {
            b'"' => self.literal().map(drop),
            b'{' | b'[' => self.whole().map(drop),
            _ => self.scalar().map(drop),
        }
    }

    /// An object or a list, of which only brackets and strings are followed.
    pub(super) fn whole(&mut self) -> Option<&'a str> {
        let start = self.at;
        self.at = match self.bytes.get(start..start + 2)? {
            b"{}" | b"[]" => start + 2,
            [b'{' | b'[', _] => match follow(self.bytes, start, &mut State::default()) {
                Follow::Ends(end) => end,
                Follow::Torn(_) | Follow::More => return None,
            },
            _ => return None,
        };
        if let Some(skipped) = &mut self.skipped {
            skipped.push(start..self.at);
        }
        self.text.get(start..self.at)
    }
}
