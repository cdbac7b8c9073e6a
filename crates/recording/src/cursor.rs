//! A cursor over JSON text: strings, numbers, members of objects, items of arrays.
//!
//! Each step expects one thing of JSON at the cursor and leaves the cursor behind it, or gives `None`, and then the text
//! is left to serde_json.

use std::borrow::Cow;

use faithful_clerk_model::json::scan::{
    BracketScan, ScanState, SpecialBytes, scan_brackets, string_end, unescape,
};

pub(super) struct JsonCursor<'a> {
    text: &'a str,
    bytes: &'a [u8],
    specials: SpecialBytes<'a>,
    at: usize,
    /// An object or array was entered just now.
    is_first: bool,
}

/// Does this byte end a number or a word?
fn ends_scalar(byte: &u8) -> bool {
    matches!(byte, b',' | b'}' | b']' | b' ' | b'\n' | b'\r' | b'\t')
}

impl<'a> JsonCursor<'a> {
    pub(super) fn new(text: &'a str) -> Self {
        let bytes = text.as_bytes();
        Self { text, bytes, specials: SpecialBytes::new(bytes), at: 0, is_first: false }
    }

    /// Where it is, in bytes.
    pub(super) fn position(&self) -> usize {
        self.at
    }

    /// The byte that is next.
    pub(super) fn peek(&self) -> Option<u8> {
        self.bytes.get(self.at).copied()
    }

    pub(super) fn is_at_end(&self) -> bool {
        self.at == self.bytes.len()
    }

    /// Enters an object.
    #[inline]
    pub(super) fn open_object(&mut self) -> Option<()> {
        self.expect(b'{')?;
        self.is_first = true;
        Some(())
    }

    /// Goes to the value of the next member and gives the member's name; `Some(None)` behind the end of the object.
    #[inline]
    pub(super) fn next_name(&mut self) -> Option<Option<&'a [u8]>> {
        if !self.next(b'}')? {
            return Some(None);
        }
        let name = self.plain_string()?.as_bytes();
        self.skip_space();
        self.expect(b':')?;
        self.skip_space();
        Some(Some(name))
    }

    /// The same, of a name that may have escapes.
    #[inline]
    pub(super) fn next_member(&mut self) -> Option<Option<Cow<'a, str>>> {
        if !self.next(b'}')? {
            return Some(None);
        }
        let name = self.string()?;
        self.skip_space();
        self.expect(b':')?;
        self.skip_space();
        Some(Some(name))
    }

    /// Enters an array.
    #[inline]
    pub(super) fn open_array(&mut self) -> Option<()> {
        self.expect(b'[')?;
        self.is_first = true;
        Some(())
    }

    /// Goes to the next item; `Some(false)` behind the end of the array.
    #[inline]
    pub(super) fn next_item(&mut self) -> Option<bool> {
        self.next(b']')
    }

    /// Goes to what comes next in an object or array: behind a comma, unless it is the first.
    #[inline]
    fn next(&mut self, end: u8) -> Option<bool> {
        self.skip_space();
        let is_first = std::mem::take(&mut self.is_first);
        if self.expect(end).is_some() {
            return Some(false);
        }
        if !is_first {
            self.expect(b',')?;
            self.skip_space();
        }
        Some(true)
    }

    /// Two members of plain strings, in the order and with the names given; the cursor stays where it is if anything
    /// else is there. Header fields are written so, a score of them in each message.
    #[inline]
    pub(super) fn pair(&mut self, first: &[u8], second: &[u8]) -> Option<(&'a str, &'a str)> {
        let start = self.at;
        let pair = self.plain_pair(first, second);
        if pair.is_none() {
            self.at = start;
        }
        pair
    }

    #[inline]
    fn plain_pair(&mut self, first: &[u8], second: &[u8]) -> Option<(&'a str, &'a str)> {
        self.expect(b'{')?;
        self.skip_space();
        let one = self.plain_member(first)?;
        self.skip_space();
        self.expect(b',')?;
        self.skip_space();
        let other = self.plain_member(second)?;
        self.skip_space();
        self.expect(b'}')?;
        Some((one, other))
    }

    #[inline]
    fn plain_member(&mut self, name: &[u8]) -> Option<&'a str> {
        let rest = self.bytes.get(self.at..)?;
        if !rest.starts_with(name) {
            return None;
        }
        self.at += name.len();
        self.skip_space();
        self.expect(b':')?;
        self.skip_space();
        self.plain_string()
    }

    #[inline]
    pub(super) fn skip_space(&mut self) {
        while let Some(b' ' | b'\n' | b'\r' | b'\t') = self.bytes.get(self.at) {
            self.at += 1;
        }
    }

    #[inline]
    fn expect(&mut self, byte: u8) -> Option<()> {
        if self.bytes.get(self.at) != Some(&byte) {
            return None;
        }
        self.at += 1;
        Some(())
    }

    /// Skips `null`, if that is what stands here.
    #[inline]
    pub(super) fn null(&mut self) -> bool {
        let is_null = self.bytes.get(self.at..).is_some_and(|rest| rest.starts_with(b"null"));
        self.at += if is_null { 4 } else { 0 };
        is_null
    }

    /// A string without escapes.
    #[inline]
    fn plain_string(&mut self) -> Option<&'a str> {
        self.expect(b'"')?;
        let start = self.at;
        let end = self.specials.next(start)?;
        if self.bytes.get(end) != Some(&b'"') {
            return None;
        }
        self.at = end + 1;
        self.text.get(start..end)
    }

    /// What a string stands for.
    #[inline]
    pub(super) fn string(&mut self) -> Option<Cow<'a, str>> {
        let start = self.at;
        if let Some(plain) = self.plain_string() {
            return Some(Cow::Borrowed(plain));
        }
        self.at = start;
        unescape(self.literal()?)
    }

    /// A string as it stands there, with its quotation marks and escapes.
    fn literal(&mut self) -> Option<&'a str> {
        let start = self.at;
        self.expect(b'"')?;
        let special = self.specials.next(self.at)?;
        self.at = match self.bytes.get(special)? {
            b'"' => special + 1,
            _ => string_end(self.bytes, special)?,
        };
        self.text.get(start..self.at)
    }

    /// Any value, as it stands there.
    pub(super) fn raw(&mut self) -> Option<&'a str> {
        let start = self.at;
        self.skip_value()?;
        self.text.get(start..self.at)
    }

    /// Skips any value.
    pub(super) fn skip_value(&mut self) -> Option<()> {
        match self.bytes.get(self.at)? {
            b'"' => self.literal().map(drop),
            b'{' | b'[' => self.skip_nested(),
            _ => self.scalar().map(drop),
        }
    }

    /// A number, true, false or null.
    #[inline]
    fn scalar(&mut self) -> Option<&'a str> {
        let start = self.at;
        if let Some(length) = self.number_length() {
            self.at += length;
            return self.text.get(start..self.at);
        }
        let rest = self.bytes.get(start..)?;
        self.at += rest.iter().position(ends_scalar).unwrap_or(rest.len());
        let text = self.text.get(start..self.at)?;
        let is_word = matches!(text, "true" | "false" | "null");
        // A number with an exponent, or no JSON at all: serde_json knows.
        (is_word || serde_json::from_str::<&serde_json::value::RawValue>(text).is_ok())
            .then_some(text)
    }

    /// The length of the number that stands here, unless it has an exponent.
    #[inline]
    fn number_length(&self) -> Option<usize> {
        let digits = |bytes: &[u8]| bytes.iter().take_while(|byte| byte.is_ascii_digit()).count();
        let rest = self.bytes.get(self.at..)?;
        let sign = usize::from(rest.first() == Some(&b'-'));
        let integer = rest.get(sign..)?;
        let length = digits(integer);
        let is_integer = length == 1 || (length > 1 && integer.first() != Some(&b'0'));
        let behind = integer.get(length..)?;
        let fraction = match behind.split_first() {
            Some((b'.', digits_behind)) => {
                1 + Some(digits(digits_behind)).filter(|length| *length > 0)?
            }
            _ => 0,
        };
        let ends = behind.get(fraction..)?.first().is_none_or(ends_scalar);
        (is_integer && ends).then_some(sign + length + fraction)
    }

    /// Skips an object or an array; only its brackets and strings are followed.
    fn skip_nested(&mut self) -> Option<()> {
        self.at = match self.bytes.get(self.at..self.at + 2)? {
            b"{}" | b"[]" => self.at + 2,
            _ => match scan_brackets(self.bytes, self.at, &mut ScanState::default()) {
                BracketScan::Closed(end) => end,
                BracketScan::Mismatch(_) | BracketScan::Incomplete => return None,
            },
        };
        Some(())
    }
}
