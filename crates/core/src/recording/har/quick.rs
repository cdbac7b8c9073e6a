//! The quick way to read an entry: one walk over its bytes that takes what is asked for and follows
//! only brackets and quotation marks through the rest.
//!
//! Whatever is not as usual (an escape in a member's name, a member twice, another kind of value than
//! it should be, anything that is no JSON) ends the walk with `None`, and the entry is left to serde_json
//! for the verdict and its words. Where a walk comes to its end, it has read what serde_json would read.

use std::borrow::Cow;
use std::ops::Range;

use super::entry::{Content, Entry, PostData, Raw, Request, Response};
use super::walk::{Walk, once};
use crate::headers::Headers;

/// Most messages have fewer header fields than this.
pub(super) const USUAL_FIELDS: usize = 16;

/// Reads an entry, or leaves it to others.
pub(super) fn entry(text: &str) -> Option<Entry<'_>> {
    read(&mut Walk::of(text))
}

/// Where the objects and lists stand in an entry that the quick way does not look into.
pub(super) fn skipped(text: &str) -> Option<Vec<Range<usize>>> {
    let mut walk = Walk::noting(text);
    read(&mut walk)?;
    Some(walk.skipped())
}

fn read<'a>(walk: &mut Walk<'a>) -> Option<Entry<'a>> {
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

impl<'a> Walk<'a> {
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

    /// Every text of up to five signs that numbers are made of.
    #[test]
    fn numbers_are_what_others_take_for_numbers() {
        let mut texts = vec![String::new()];
        for length in 0..5 {
            let longer = texts.iter().filter(|text| text.len() == length);
            let longer =
                longer.flat_map(|text| "01-.e".chars().map(move |sign| format!("{text}{sign}")));
            texts.extend(longer.collect::<Vec<_>>());
        }
        for text in &texts {
            for time in [text, &format!("{text}}}"), &format!("{text} ,\"_a\":1")] {
                let entry_text = format!(
                    r#"{{"request":{{"method":"GET","url":"/"}},"response":null,"time":{time}}}"#
                );
                assert_eq!(entry(&entry_text), slow(&entry_text), "{time}");
            }
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
