//! Parses an entry in one go over its bytes: takes the members that are asked for, and skips the others by their brackets
//! and quotation marks.
//!
//! It reads what any recorder writes: members in any order, unknown ones of any kind, null for what is absent. An escape in
//! a member's name, a member twice, a wrong JSON type or no JSON at all ends it with `None`, and the entry is left to
//! serde_json for the verdict and its words. What it reads, serde_json reads alike.

use std::borrow::Cow;

use super::entry::{HarContent, HarEntry, HarPostData, HarRequest, HarResponse, RawValue};
use crate::cursor::JsonCursor;
use faithful_clerk_model::headers::Headers;

/// Room for the header fields of most messages.
const USUAL_FIELDS: usize = 20;

/// A member that may come once; the inner option is `None` for null.
type Member<T> = Option<Option<T>>;

/// Parses an entry, or leaves it to serde_json.
pub(super) fn parse(text: &str) -> Option<HarEntry<'_>> {
    let mut parser = EntryParser { json: JsonCursor::new(text) };
    parser.json.skip_space();
    let entry = parser.entry()?;
    parser.json.skip_space();
    parser.json.is_at_end().then_some(entry)
}

struct EntryParser<'a> {
    json: JsonCursor<'a>,
}

/// Fills a member that did not come yet.
#[inline]
fn once<T>(member: &mut Option<T>, value: T) -> Option<()> {
    member.replace(value).is_none().then_some(())
}

impl<'a> EntryParser<'a> {
    fn entry(&mut self) -> Option<HarEntry<'a>> {
        let (mut request, mut time, mut timings, mut intended) = (None, None, None, None);
        let mut response: Member<HarResponse<'a>> = None;
        self.members(|parser, name| match name {
            b"request" => once(&mut request, parser.request()?),
            b"response" => once(&mut response, parser.or_null(Self::response)?),
            b"time" => once(&mut time, parser.raw_or_null()?),
            b"timings" => once(&mut timings, parser.raw_or_null()?),
            b"_intended" => once(&mut intended, parser.raw_or_null()?),
            _ => parser.json.skip_value(),
        })?;
        Some(HarEntry {
            request: request?,
            response: response.flatten(),
            time: time.flatten(),
            timings: timings.flatten(),
            intended: intended.flatten(),
        })
    }

    fn request(&mut self) -> Option<HarRequest<'a>> {
        let (mut method, mut url, mut headers) = (None, None, None);
        let mut post_data: Member<HarPostData<'a>> = None;
        let mut body_size = None;
        self.members(|parser, name| match name {
            b"method" => once(&mut method, parser.json.string()?),
            b"url" => once(&mut url, parser.json.string()?),
            b"headers" => once(&mut headers, parser.headers()?),
            b"postData" => once(&mut post_data, parser.or_null(Self::post_data)?),
            b"bodySize" => once(&mut body_size, parser.raw_or_null()?),
            b"_recordedHeaders" => None,
            _ => parser.json.skip_value(),
        })?;
        Some(HarRequest {
            method: method?,
            url: url?,
            headers: headers.unwrap_or_default(),
            post_data: post_data.flatten(),
            body_size: body_size.flatten(),
            recorded: None,
        })
    }

    fn post_data(&mut self) -> Option<HarPostData<'a>> {
        let (mut mime_type, mut text, mut encoding, mut has_params) = (None, None, None, None);
        self.members(|parser, name| match name {
            b"mimeType" => once(&mut mime_type, parser.string_or_null()?),
            b"text" => once(&mut text, parser.raw_or_null()?),
            b"encoding" => once(&mut encoding, parser.string_or_null()?),
            b"params" => once(&mut has_params, parser.has_items()?),
            _ => parser.json.skip_value(),
        })?;
        Some(HarPostData {
            mime_type: mime_type.flatten(),
            text: text.flatten(),
            encoding: encoding.flatten(),
            has_params: has_params.unwrap_or_default(),
        })
    }

    fn response(&mut self) -> Option<HarResponse<'a>> {
        let (mut status, mut headers, mut body_size, mut error) = (None, None, None, None);
        let mut content: Member<HarContent<'a>> = None;
        self.members(|parser, name| match name {
            b"status" => once(&mut status, parser.raw()?),
            b"headers" => once(&mut headers, parser.headers()?),
            b"content" => once(&mut content, parser.or_null(Self::content)?),
            b"bodySize" => once(&mut body_size, parser.raw_or_null()?),
            b"_error" | b"_failureText" => once(&mut error, parser.raw_or_null()?),
            b"_recordedHeaders" => None,
            _ => parser.json.skip_value(),
        })?;
        Some(HarResponse {
            status: status?,
            headers: headers.unwrap_or_default(),
            content: content.flatten(),
            body_size: body_size.flatten(),
            error: error.flatten(),
            recorded: None,
        })
    }

    fn content(&mut self) -> Option<HarContent<'a>> {
        let (mut mime_type, mut size, mut text, mut encoding) = (None, None, None, None);
        self.members(|parser, name| match name {
            b"mimeType" => once(&mut mime_type, parser.string_or_null()?),
            b"size" => once(&mut size, parser.raw_or_null()?),
            b"text" => once(&mut text, parser.raw_or_null()?),
            b"encoding" => once(&mut encoding, parser.string_or_null()?),
            _ => parser.json.skip_value(),
        })?;
        Some(HarContent {
            mime_type: mime_type.flatten(),
            size: size.flatten(),
            text: text.flatten(),
            encoding: encoding.flatten(),
        })
    }

    fn headers(&mut self) -> Option<Headers<'a>> {
        if self.json.null() {
            return Some(Headers::new());
        }
        let mut headers = Headers::with_capacity(USUAL_FIELDS);
        self.items(|parser| {
            let (name, value) = parser.field()?;
            headers.push(name, value);
            Some(())
        })?;
        Some(headers)
    }

    #[inline]
    fn field(&mut self) -> Option<(Cow<'a, str>, Cow<'a, str>)> {
        if let Some((name, value)) = self.json.pair(b"\"name\"", b"\"value\"") {
            return Some((Cow::Borrowed(name), Cow::Borrowed(value)));
        }
        let (mut field_name, mut value) = (None, None);
        self.members(|parser, name| match name {
            b"name" => once(&mut field_name, parser.json.string()?),
            b"value" => once(&mut value, parser.string_or_null()?),
            _ => parser.json.skip_value(),
        })?;
        Some((field_name?, value.flatten().unwrap_or_default()))
    }

    fn has_items(&mut self) -> Option<bool> {
        if self.json.null() {
            return Some(false);
        }
        let mut has_items = false;
        self.items(|parser| {
            has_items = true;
            parser.json.skip_value()
        })?;
        Some(has_items)
    }

    #[inline]
    fn members(&mut self, mut value: impl FnMut(&mut Self, &'a [u8]) -> Option<()>) -> Option<()> {
        self.json.open_object()?;
        while let Some(name) = self.json.next_name()? {
            value(self, name)?;
        }
        Some(())
    }

    #[inline]
    fn items(&mut self, mut item: impl FnMut(&mut Self) -> Option<()>) -> Option<()> {
        self.json.open_array()?;
        while self.json.next_item()? {
            item(self)?;
        }
        Some(())
    }

    /// A value, or nothing for null.
    fn or_null<T>(&mut self, value: impl Fn(&mut Self) -> Option<T>) -> Option<Option<T>> {
        if self.json.null() { Some(None) } else { value(self).map(Some) }
    }

    #[inline]
    fn string_or_null(&mut self) -> Option<Option<Cow<'a, str>>> {
        if self.json.null() { Some(None) } else { self.json.string().map(Some) }
    }

    #[inline]
    fn raw(&mut self) -> Option<RawValue<'a>> {
        self.json.raw().map(RawValue)
    }

    #[inline]
    fn raw_or_null(&mut self) -> Option<Option<RawValue<'a>>> {
        if self.json.null() { Some(None) } else { self.raw().map(Some) }
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

    fn by_serde(text: &str) -> Option<HarEntry<'_>> {
        serde_json::from_str(text).ok()
    }

    #[test]
    fn what_recorders_write_is_parsed() {
        let compact = BARE.replace([' ', '\n'], "");
        for text in [
            BARE,
            &compact,
            r#"{"request":{"method":"GET","url":"/"},"response":null,"cache":{"x":[1,{}]},"_y":"\u00e9"}"#,
            r#"{"response":{"_error":null,"content":{"text":null,"size":null},"status":200,"headers":null,"_x":{"y":[{}]}},
                "time":null,"timings":null,"request":{"postData":null,"headers":[{"value":null,"name":"a"},{ "name" : "b" ,
                "value" : "c" }],"url":"/","bodySize":null,"method":"GET"}}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":{"status":200,"_a":true,"_b":-1.5E+3,"_c":[]}}"#,
        ] {
            let quick = parse(text);
            assert!(quick.is_some(), "{text}");
            assert_eq!(quick, by_serde(text));
        }
    }

    #[test]
    fn what_is_wrong_is_left_to_serde_json() {
        for text in [
            r#"{"response":null}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":null,"response":null}"#,
            r#"{"request":{"method":"GET","\u0075rl":"/"},"response":null}"#,
            r#"{"request":{"method":"GET","url":"/","headers":{}},"response":null}"#,
            r#"{"request":{"method":7,"url":"/"},"response":null}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":{"status":0200}}"#,
            r#"{"request":{"method":"GET","url":"/"},"response":null} x"#,
            r#"[]"#,
            "",
        ] {
            assert_eq!(parse(text), None, "{text}");
        }
    }

    /// Every text of up to five signs that numbers are made of.
    #[test]
    fn numbers_are_what_serde_json_takes_for_numbers() {
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
                assert_eq!(parse(&entry_text), by_serde(&entry_text), "{time}");
            }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2000))]

        /// A byte more, less or other: the same is read, or the same refused.
        #[test]
        fn it_reads_what_serde_json_reads_and_nothing_else(
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
            if let Some(quick) = parse(&text) {
                prop_assert_eq!(Some(quick), by_serde(&text), "{}", text);
            }
        }
    }
}
