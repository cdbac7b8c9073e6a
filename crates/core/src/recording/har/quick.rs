//! The quick way to read an entry: one walk over its bytes that takes what is asked for and follows
//! only brackets and quotation marks through the rest.
//!
//! Whatever is not as usual (an escape in a member's name, a member twice, another kind of value than
//! it should be, anything that is no JSON) ends the walk with `None`, and the entry is left to serde_json
//! for the verdict and its words. Where a walk comes to its end, it has read what serde_json would read.

use std::borrow::Cow;
use std::ops::Range;

use super::entry::{Content, Entry, PostData, Raw, Request, Response, Text};
use super::literal::Literal;
use crate::headers::Headers;
use crate::recording::scan::{Follow, State, Stops, follow, plain_run, string_end, unescape};

/// Most messages have fewer header fields than this.
pub(super) const USUAL_FIELDS: usize = 16;

/// Reads an entry, or leaves it to others.
pub(super) fn entry(text: &str) -> Option<Entry<'_>> {
    let mut walk = Walk::of(text);
    let (mut request, mut response, mut time, mut timings) = (None, None, None, None);
    let mut answered = false;
    walk.space();
    walk.members(|walk, name| {
        match name {
            b"request" => once(&mut request, walk.request()?)?,
            b"response" if answered => return None,
            b"response" => {
                answered = true;
                response = if walk.null() { None } else { Some(walk.response()?) };
            }
            b"time" => walk.raw(&mut time)?,
            b"timings" => walk.raw(&mut timings)?,
            _ => walk.skip()?,
        }
        Some(())
    })?;
    walk.space();
    let whole = walk.at == walk.bytes.len() && answered;
    whole.then_some(Entry { request: request?, response, time, timings })
}

pub(super) struct Walk<'a> {
    text: &'a str,
    bytes: &'a [u8],
    stops: Stops<'a>,
    /// A string of which the end is known; empty where there is none.
    known: Range<usize>,
    pub(super) at: usize,
}

/// Does this byte end a number or a word?
fn is_end(byte: &u8) -> bool {
    matches!(byte, b',' | b'}' | b']' | b' ' | b'\n' | b'\r' | b'\t')
}

/// Fills a place that is still empty.
fn once<T>(place: &mut Option<T>, value: T) -> Option<()> {
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
        Self { text, bytes, stops: Stops::of(bytes), known: string, at: 0 }
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

    fn request(&mut self) -> Option<Request<'a>> {
        let (mut method, mut url, mut headers) = (None, None, None);
        let (mut post_data, mut body_size) = (None, None);
        let mut posted = false;
        self.members(|walk, name| {
            match name {
                b"method" => once(&mut method, walk.text()?)?,
                b"url" => once(&mut url, walk.text()?)?,
                b"headers" => once(&mut headers, walk.headers()?)?,
                b"postData" if posted => return None,
                b"postData" => {
                    posted = true;
                    post_data = if walk.null() { None } else { Some(walk.post_data()?) };
                }
                b"bodySize" => walk.raw(&mut body_size)?,
                _ => walk.skip()?,
            }
            Some(())
        })?;
        let headers = headers.unwrap_or_default();
        Some(Request { method: method?, url: url?, headers, post_data, body_size })
    }

    fn post_data(&mut self) -> Option<PostData<'a>> {
        let mut data = PostData::default();
        let mut params = None;
        self.members(|walk, name| {
            match name {
                b"mimeType" => walk.maybe_text(&mut data.mime_type)?,
                b"text" => walk.raw(&mut data.text)?,
                b"encoding" => walk.maybe_text(&mut data.encoding)?,
                b"params" => once(&mut params, walk.has_some()?)?,
                _ => walk.skip()?,
            }
            Some(())
        })?;
        data.params = params.unwrap_or_default();
        Some(data)
    }

    fn response(&mut self) -> Option<Response<'a>> {
        let (mut status, mut headers, mut content) = (None, None, None);
        let (mut body_size, mut error) = (None, None);
        let mut held = false;
        self.members(|walk, name| {
            match name {
                b"status" => once(&mut status, Raw(walk.scalar()?))?,
                b"headers" => once(&mut headers, walk.headers()?)?,
                b"content" if held => return None,
                b"content" => {
                    held = true;
                    content = if walk.null() { None } else { Some(walk.content()?) };
                }
                b"bodySize" => walk.raw(&mut body_size)?,
                b"_error" | b"_failureText" => walk.raw(&mut error)?,
                _ => walk.skip()?,
            }
            Some(())
        })?;
        let headers = headers.unwrap_or_default();
        Some(Response { status: status?, headers, content, body_size, error })
    }

    fn content(&mut self) -> Option<Content<'a>> {
        let mut content = Content::default();
        self.members(|walk, name| {
            match name {
                b"mimeType" => walk.maybe_text(&mut content.mime_type)?,
                b"size" => walk.raw(&mut content.size)?,
                b"text" => walk.raw(&mut content.text)?,
                b"encoding" => walk.maybe_text(&mut content.encoding)?,
                _ => walk.skip()?,
            }
            Some(())
        })?;
        Some(content)
    }

    fn headers(&mut self) -> Option<Headers<'a>> {
        if self.null() {
            return Some(Headers::new());
        }
        let mut headers = Headers::with_capacity(USUAL_FIELDS);
        self.items(|walk| {
            if let Some((name, value)) = walk.compact_field() {
                headers.push(name, value);
                return Some(());
            }
            let (mut name, mut value) = (None, None);
            walk.members(|walk, member| {
                match member {
                    b"name" => once(&mut name, walk.text()?)?,
                    b"value" if walk.null() => once(&mut value, Cow::Borrowed(""))?,
                    b"value" => once(&mut value, walk.text()?)?,
                    _ => walk.skip()?,
                }
                Some(())
            })?;
            headers.push(name?, value.unwrap_or_default());
            Some(())
        })?;
        Some(headers)
    }

    /// A header field in the form that most recorders write: two members without space or escapes.
    #[inline]
    fn compact_field(&mut self) -> Option<(&'a str, &'a str)> {
        const NAME: &[u8; 9] = b"{\"name\":\"";
        const VALUE: &[u8; 11] = b"\",\"value\":\"";
        if self.bytes.get(self.at..)?.first_chunk() != Some(NAME) {
            return None;
        }
        let name_at = self.at + NAME.len();
        let name_end = self.stops.next(name_at)?;
        if self.bytes.get(name_end..)?.first_chunk() != Some(VALUE) {
            return None;
        }
        let value_at = name_end + VALUE.len();
        let value_end = self.stops.next(value_at)?;
        if self.bytes.get(value_end..)?.first_chunk() != Some(b"\"}") {
            return None;
        }
        self.at = value_end + 2;
        Some((self.text.get(name_at..name_end)?, self.text.get(value_at..value_end)?))
    }

    fn has_some(&mut self) -> Option<bool> {
        if self.null() {
            return Some(false);
        }
        let mut has_some = false;
        self.items(|walk| {
            has_some = true;
            walk.skip()
        })?;
        Some(has_some)
    }

    /// The members of an object, each with its name; `each` takes the value.
    #[inline]
    fn members(&mut self, mut each: impl FnMut(&mut Self, &'a [u8]) -> Option<()>) -> Option<()> {
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
    fn items(&mut self, mut each: impl FnMut(&mut Self) -> Option<()>) -> Option<()> {
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
    fn space(&mut self) {
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
    fn null(&mut self) -> bool {
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
    fn text(&mut self) -> Option<Cow<'a, str>> {
        let start = self.at;
        if let Some(plain) = self.plain() {
            return Some(Cow::Borrowed(plain));
        }
        self.at = start;
        let literal = self.literal()?;
        unescape(literal)
    }

    fn maybe_text(&mut self, place: &mut Option<Text<'a>>) -> Option<()> {
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
    fn raw(&mut self, place: &mut Option<Raw<'a>>) -> Option<()> {
        let start = self.at;
        match self.bytes.get(self.at)? {
            b'n' => return None,
            b'"' | b'{' | b'[' => self.skip()?,
            _ => _ = self.scalar()?,
        }
        once(place, Raw(self.text.get(start..self.at)?))
    }

    /// A number, true, false or null.
    fn scalar(&mut self) -> Option<&'a str> {
        let start = self.at;
        if let Some(length) = self.whole_number() {
            self.at += length;
            return self.text.get(start..self.at);
        }
        // Anything but a plain whole number is rare, and serde_json knows what it is.
        self.word();
        let text = self.text.get(start..self.at)?;
        let is_word = matches!(text, "true" | "false" | "null");
        (is_word || serde_json::from_str::<&serde_json::value::RawValue>(text).is_ok())
            .then_some(text)
    }

    /// How long the plain whole number is that stands here, if one does.
    #[inline]
    fn whole_number(&self) -> Option<usize> {
        let rest = self.bytes.get(self.at..)?;
        let sign = usize::from(rest.first() == Some(&b'-'));
        let digits = rest.get(sign..)?;
        let length = digits.iter().take_while(|byte| byte.is_ascii_digit()).count();
        let is_whole = (1..16).contains(&length) && (length == 1 || digits.first() != Some(&b'0'));
        let is_end = digits.get(length).is_none_or(is_end);
        (is_whole && is_end).then_some(sign + length)
    }

    fn word(&mut self) {
        let rest = self.bytes.get(self.at..).unwrap_or_default();
        self.at += rest.iter().position(is_end).unwrap_or(rest.len());
    }

    /// Any value, not looked at.
    fn skip(&mut self) -> Option<()> {
        match self.bytes.get(self.at)? {
            b'"' => self.literal().map(drop),
            b'{' | b'[' if matches!(self.bytes.get(self.at..self.at + 2)?, b"{}" | b"[]") => {
                self.at += 2;
                Some(())
            }
            b'{' | b'[' => match follow(self.bytes, self.at, &mut State::default()) {
                Follow::Ends(end) => {
                    self.at = end;
                    Some(())
                }
                Follow::Torn(_) | Follow::More => None,
            },
            _ => self.scalar().map(drop),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// An entry in which nothing stands that nobody looks at, so that all that is broken in it shows.
    const BARE: &str = r#"{"request": {"method": "POST", "url": "https:\/\/h.example/x", "headers": [{"name": "A", "value": "b"},
        {"value": "\"c\"", "name": "ETag"}], "postData": {"mimeType": "a/b", "text": "{}", "params": []}, "bodySize": 2},
        "response": {"status": 404, "headers": [{"name":"Content-Type","value":"application/json"}], "bodySize": -1,
        "content": {"size": 12, "mimeType": "a/b", "text": "e30=", "encoding": "base64"}}, "time": 1.5}"#;

    fn slow(text: &str) -> Option<Entry<'_>> {
        serde_json::from_str(text).ok()
    }

    #[test]
    fn the_usual_is_read_the_quick_way() {
        let compact = BARE.replace([' ', '\n'], "");
        for text in [
            BARE,
            &compact,
            r#"{"request":{"method":"GET","url":"/"},"response":null,"cache":{"x":[1,{}]},"_y":"\u00e9"}"#,
        ] {
            let quick = entry(text);
            assert!(quick.is_some(), "{text}");
            assert_eq!(quick, slow(text));
        }
    }

    #[test]
    fn the_unusual_is_left_to_others() {
        for text in [
            r#"{"request":{"method":"GET","url":"/"}}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":null,"response":null}"#,
            r#"{"request":{"method":"GET","\u0075rl":"/"},"response":null}"#,
            r#"{"request":{"method":"GET","url":"/","headers":{}},"response":null}"#,
            r#"{"request":{"method":7,"url":"/"},"response":null}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":{"status":0200}}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":null} x"#,
            r#"[]"#,
            "",
        ] {
            assert_eq!(entry(text), None, "{text}");
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2000))]

        /// A byte more, less or other: the same is read, or the same refused.
        #[test]
        fn it_reads_what_others_read_and_refuses_what_they_refuse(
            at in 0..BARE.len(),
            byte in prop::sample::select(b"{}[]\",:0a-.en ".to_vec()),
            how in 0..3,
        ) {
            let mut bytes = BARE.as_bytes().to_vec();
            match how {
                0 => bytes[at] = byte,
                1 => bytes.insert(at, byte),
                _ => _ = bytes.remove(at),
            }
            let text = String::from_utf8(bytes).unwrap();
            if let Some(quick) = entry(&text) {
                prop_assert_eq!(Some(quick), slow(&text), "{}", text);
            }
        }
    }
}
