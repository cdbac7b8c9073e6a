//! Values of a line, as what an exchange needs.

use std::borrow::Cow;

use faithful_clerk_model::headers::Headers;
use faithful_clerk_model::json::scan::unescape;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use memchr::memchr;
use serde::Deserialize;

use super::pointers::{named, plain};
use crate::cursor::JsonCursor;
use crate::http;

/// Room for the header fields of most messages.
const USUAL_FIELDS: usize = 20;

/// The unit of a time or a duration.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
pub(super) enum TimeUnit {
    #[serde(rename = "ns")]
    Nanoseconds,
    #[serde(rename = "us")]
    Microseconds,
    #[serde(rename = "ms")]
    Milliseconds,
    #[serde(rename = "s")]
    Seconds,
}

impl TimeUnit {
    fn nanoseconds(self) -> f64 {
        match self {
            Self::Nanoseconds => 1.0,
            Self::Microseconds => 1e3,
            Self::Milliseconds => 1e6,
            Self::Seconds => 1e9,
        }
    }
}

/// The text of a string, of a number or of a boolean.
pub(super) fn text(raw: &str) -> Option<Cow<'_, str>> {
    match raw.as_bytes().first()? {
        b'"' => unescape(raw),
        b'{' | b'[' => None,
        _ => Some(Cow::Borrowed(raw)),
    }
}

/// A whole number, also one that is written as text, or with a fraction that is zero.
pub(super) fn whole(raw: &str) -> Option<i64> {
    let text = text(raw)?;
    let text = text.trim();
    text.parse().ok().or_else(|| text.strip_suffix(".0")?.parse().ok())
}

/// A duration in milliseconds: a number of the unit, or text that has a unit of its own, such as `12.5ms`.
pub(super) fn milliseconds(raw: &str, unit: TimeUnit) -> Option<f64> {
    let text = text(raw)?;
    let text = text.trim();
    let units = [
        ("ns", TimeUnit::Nanoseconds),
        ("us", TimeUnit::Microseconds),
        ("µs", TimeUnit::Microseconds),
        ("ms", TimeUnit::Milliseconds),
        ("s", TimeUnit::Seconds),
    ];
    let own = units.iter().find_map(|(name, unit)| Some((text.strip_suffix(name)?, *unit)));
    let (number, unit) = own.unwrap_or((text, unit));
    let number: f64 = number.trim().parse().ok()?;
    let milliseconds = number * unit.nanoseconds() / TimeUnit::Milliseconds.nanoseconds();
    (milliseconds.is_finite() && milliseconds >= 0.0).then_some(milliseconds)
}

/// A moment: text as RFC 3339 has it, or a number of the unit since 1970.
pub(super) fn moment(raw: &str, unit: Option<TimeUnit>) -> Result<Timestamp, String> {
    let text = text(raw).ok_or_else(|| format!("{} is no time", shown(raw)))?;
    if let Some(moment) = written_moment(text.trim()) {
        return Ok(moment);
    }
    let number: Option<f64> = text.trim().parse().ok().filter(|number: &f64| number.is_finite());
    let (Some(number), Some(unit)) = (number, unit) else {
        let why = if number.is_some() { "the map does not say its unit" } else { "it is no time" };
        return Err(format!("{}: {why}", shown(raw)));
    };
    let since = match (text.trim().parse::<i64>(), unit) {
        // Nanoseconds of today have more digits than a floating-point number.
        (Ok(number), TimeUnit::Nanoseconds) => SignedDuration::from_nanos(number),
        _ => SignedDuration::try_from_secs_f64(number * unit.nanoseconds() / 1e9)
            .map_err(|error| error.to_string())?,
    };
    Timestamp::from_duration(since).map_err(|error| error.to_string())
}

/// A moment as logs write it: as RFC 3339 has it, the same without a zone, which is taken for UTC, or as in the common log
/// format, `08/Mar/2027:09:00:00 +0000`.
fn written_moment(text: &str) -> Option<Timestamp> {
    let civil = || text.parse::<DateTime>().ok()?.to_zoned(TimeZone::UTC).ok();
    let common = || Timestamp::strptime("%d/%b/%Y:%H:%M:%S %z", text).ok();
    text.parse().ok().or_else(|| Some(civil()?.timestamp())).or_else(common)
}

/// A value as a message shows it: its beginning.
pub(super) fn shown(raw: &str) -> String {
    const MOST: usize = 40;
    match raw.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", raw.get(..end).unwrap_or_default()),
        None => raw.to_owned(),
    }
}

/// Header fields in any of the ways in which logs write them: an object, an array of objects with `name` or `key` and
/// `value`, an array of pairs, or text as in a message. `prefix` is what their names begin with among other attributes.
pub(super) fn headers<'a>(raw: &'a str, prefix: &str) -> Option<Headers<'a>> {
    let mut headers = Headers::with_capacity(USUAL_FIELDS);
    let mut json = JsonCursor::new(raw);
    match json.peek()? {
        b'{' => {
            json.open_object()?;
            while let Some(name) = json.next_member()? {
                field(&mut headers, name, json.raw()?, prefix)?;
            }
        }
        b'[' => {
            json.open_array()?;
            while json.next_item()? {
                let (name, value) = named(json.raw()?)?;
                field(&mut headers, name, plain(value), prefix)?;
            }
        }
        b'"' => {
            let text = unescape(raw)?;
            // Columns of tables hold JSON as text.
            if text.trim_start().starts_with(['{', '[']) {
                let inner = self::headers(text.trim(), prefix)?;
                return Some(
                    inner.iter().map(|(name, value)| (name.to_owned(), value.to_owned())).collect(),
                );
            }
            let owned = |text: Cow<'_, str>| Cow::Owned(text.into_owned());
            let lines = text.as_bytes().split(|byte| *byte == b'\n').map(<[u8]>::trim_ascii_end);
            let fields = http::fields(lines);
            return Some(
                fields
                    .into_iter()
                    .map(|(name, value)| -> (Cow<'a, str>, Cow<'a, str>) {
                        (owned(name), owned(value))
                    })
                    .collect(),
            );
        }
        _ => return None,
    }
    Some(headers)
}

/// Adds one field, or several where its value is an array.
fn field<'a>(
    headers: &mut Headers<'a>,
    name: Cow<'a, str>,
    value: &'a str,
    prefix: &str,
) -> Option<()> {
    let name = match name {
        Cow::Borrowed(name) => name.strip_prefix(prefix).map(Cow::Borrowed),
        Cow::Owned(name) => name.strip_prefix(prefix).map(|name| Cow::Owned(name.to_owned())),
    };
    let Some(name) = name.filter(|name| !name.is_empty()) else { return Some(()) };
    let mut push = |value: &'a str| {
        if let Some(text) = text(value).filter(|_| value != "null") {
            headers.push(name.clone(), text);
        }
    };
    if value.starts_with('[') {
        let mut json = JsonCursor::new(value);
        json.open_array()?;
        while json.next_item()? {
            push(plain(json.raw()?));
        }
    } else {
        push(value);
    }
    Some(())
}

/// How many bytes a string stands for, without undoing its escapes.
pub(super) fn string_length(raw: &str) -> u64 {
    let inner = raw.as_bytes().get(1..raw.len().saturating_sub(1)).unwrap_or_default();
    let (mut length, mut rest) = (0, inner);
    while let Some(at) = memchr(b'\\', rest) {
        let code = rest.get(at + 2..at + 6).and_then(|code| std::str::from_utf8(code).ok());
        let (taken, stands_for) = match rest.get(at + 1) {
            Some(b'u') => match code.and_then(|code| u32::from_str_radix(code, 16).ok()) {
                // Two halves of a pair are four bytes.
                Some(0xD800..=0xDFFF) => (6, 2),
                Some(..0x80) => (6, 1),
                Some(..0x800) => (6, 2),
                _ => (6, 3),
            },
            _ => (2, 1),
        };
        length += at + stands_for;
        rest = rest.get(at + taken..).unwrap_or_default();
    }
    (length + rest.len()) as u64
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn header_fields_are_read_however_they_are_written() {
        for raw in [
            r#"{"A": "x", "B": ["1", 2], "C": null, "D": true}"#,
            r#"[["A", "x"], ["B", "1"], ["B", 2], ["D", true]]"#,
            r#"[{"name": "A", "value": "x"}, {"key": "B", "value": ["1", 2]}, {"name": "C"}, {"name": "D", "value": true}]"#,
            r#"[{"key": "A", "value": {"stringValue": "x"}}, {"key": "B", "value": {"arrayValue": {"values": [{"stringValue": "1"}, {"intValue": "2"}]}}}, {"key": "D", "value": {"boolValue": true}}]"#,
            r#""A: x\r\nB: 1\r\nB: 2\r\nD: true\r\n""#,
            r#""{\"A\": \"x\", \"B\": [\"1\", 2], \"D\": true}""#,
        ] {
            let headers = headers(raw, "").unwrap();
            let fields: Vec<_> = headers.iter().collect();
            assert_eq!(fields, [("A", "x"), ("B", "1"), ("B", "2"), ("D", "true")], "{raw}");
        }
        let attributes = r#"{"http.route": "/x", "h.Accept": "text/html", "h.": "no name"}"#;
        let headers_of = headers(attributes, "h.").unwrap();
        assert_eq!(headers_of.iter().collect::<Vec<_>>(), [("Accept", "text/html")]);
        for wrong in ["7", "null", "[7]", "\"{\""] {
            assert!(headers(wrong, "").is_none(), "{wrong}");
        }
    }

    #[test]
    fn times_and_durations_are_read_however_they_are_written() {
        let same = "2027-03-08T09:00:00.120Z".parse::<Timestamp>().unwrap();
        for (raw, unit) in [
            ("\"2027-03-08T09:00:00.120Z\"", None),
            ("\"2027-03-08T10:00:00.120+01:00\"", None),
            ("\"2027-03-08 09:00:00.120\"", None),
            ("1804496400.120", Some(TimeUnit::Seconds)),
            ("\"1804496400120\"", Some(TimeUnit::Milliseconds)),
            ("1804496400120000", Some(TimeUnit::Microseconds)),
            ("\"1804496400120000000\"", Some(TimeUnit::Nanoseconds)),
        ] {
            let read = moment(raw, unit).unwrap();
            // As a floating-point number it is so near.
            assert!(
                read.duration_since(same).abs() < SignedDuration::from_micros(1),
                "{raw}: {read}"
            );
        }
        let common = moment("\"08/Mar/2027:10:00:00 +0100\"", None).unwrap();
        assert_eq!(common.to_string(), "2027-03-08T09:00:00Z");
        for (raw, unit) in
            [("1e300", Some(TimeUnit::Seconds)), ("\"\"", None), ("{}", None), ("7", None)]
        {
            assert!(moment(raw, unit).is_err(), "{raw}");
        }
        for (raw, unit, took) in [
            ("12.5", TimeUnit::Milliseconds, Some(12.5)),
            ("\"12.5\"", TimeUnit::Seconds, Some(12500.0)),
            ("\"12.5ms\"", TimeUnit::Seconds, Some(12.5)),
            ("\"250µs\"", TimeUnit::Seconds, Some(0.25)),
            ("2000000", TimeUnit::Nanoseconds, Some(2.0)),
            ("-1", TimeUnit::Seconds, None),
            ("\"fast\"", TimeUnit::Seconds, None),
            ("1e999", TimeUnit::Seconds, None),
        ] {
            assert_eq!(milliseconds(raw, unit), took, "{raw}");
        }
    }

    #[test]
    fn the_length_of_a_string_is_known_without_reading_it() {
        for raw in [
            r#""""#,
            r#""abc""#,
            r#""a\"b\\\n""#,
            r#""\u00e9\u0041\u20ac\ud83d\ude00é""#,
            r#""\/x\t""#,
        ] {
            let text: String = serde_json::from_str(raw).unwrap();
            assert_eq!(string_length(raw), text.len() as u64, "{raw}");
        }
        for broken in ["\"\\", "\"\\u12\"", "\"", ""] {
            let _ = string_length(broken);
        }
    }
}
