//! A list of header fields that keeps order, letter case and repeats.

use std::borrow::Cow;
use std::sync::Arc;
use std::time::SystemTime;

/// Header fields as they were recorded.
///
/// Names are compared without regard to letter case (RFC 9110 section 5.1).
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Headers<'a> {
    fields: Vec<(Cow<'a, str>, Cow<'a, str>)>,
    /// A bit for each length that a name has, since most names that are asked for are not there.
    lengths: u64,
    /// The places of those that are asked for in every message.
    content_type: Option<usize>,
    content_length: Option<usize>,
    /// The names that a recording would hold, in lower case, where it does not hold all.
    recorded: Option<Arc<[String]>>,
}

const CONTENT_TYPE: &str = "content-type";
const CONTENT_LENGTH: &str = "content-length";

/// The bit of a name's length; those of 63 bytes and more share one.
fn length_bit(name: &str) -> u64 {
    1 << name.len().min(63)
}

impl<'a> Headers<'a> {
    /// A list with nothing in it.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// An empty list with room for so many fields.
    #[must_use]
    pub fn with_capacity(fields: usize) -> Self {
        Self { fields: Vec::with_capacity(fields), ..Self::default() }
    }

    /// Says that only fields of these names, in lower case, would be here, had they been sent.
    #[must_use]
    pub fn recorded_only(self, names: Arc<[String]>) -> Self {
        Self { recorded: Some(names), ..self }
    }

    /// The names of the fields that would be here, had they been sent; `None` where all would be.
    #[must_use]
    pub fn recorded(&self) -> Option<&[String]> {
        self.recorded.as_deref()
    }

    /// Is there no field of that name, and may one have been sent all the same?
    #[must_use]
    pub fn is_unknown(&self, name: &str) -> bool {
        let is_recorded = |names: &[String]| names.iter().any(|one| one.eq_ignore_ascii_case(name));
        self.recorded().is_some_and(|names| !is_recorded(names)) && !self.has(name)
    }

    /// Adds one field at the end.
    #[inline]
    pub fn push(&mut self, name: impl Into<Cow<'a, str>>, value: impl Into<Cow<'a, str>>) {
        let name = name.into();
        self.lengths |= length_bit(&name);
        if name.len() == CONTENT_TYPE.len() && name.eq_ignore_ascii_case(CONTENT_TYPE) {
            self.content_type.get_or_insert(self.fields.len());
        } else if name.len() == CONTENT_LENGTH.len() && name.eq_ignore_ascii_case(CONTENT_LENGTH) {
            self.content_length.get_or_insert(self.fields.len());
        }
        self.fields.push((name, value.into()));
    }

    /// The first value of that name.
    #[must_use]
    pub fn get(&self, name: &str) -> Option<&str> {
        let found =
            self.candidates(name).iter().find(|(field, _)| field.eq_ignore_ascii_case(name));
        found.map(|(_, value)| value.as_ref())
    }

    /// Every value of that name, in order.
    pub fn all<'s>(&'s self, name: &'s str) -> impl Iterator<Item = &'s str> {
        self.candidates(name)
            .iter()
            .filter(move |(field, _)| field.eq_ignore_ascii_case(name))
            .map(|(_, value)| value.as_ref())
    }

    /// The fields among which those of that name are, if there are any.
    #[inline]
    fn candidates(&self, name: &str) -> &[(Cow<'a, str>, Cow<'a, str>)] {
        if self.lengths & length_bit(name) == 0 { &[] } else { &self.fields }
    }

    /// Is there a field of that name?
    #[must_use]
    pub fn has(&self, name: &str) -> bool {
        self.get(name).is_some()
    }

    /// All fields in order.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &str)> {
        self.fields.iter().map(|(name, value)| (name.as_ref(), value.as_ref()))
    }

    /// The `Content-Type` that was sent, the first of them.
    #[must_use]
    pub fn content_type(&self) -> Option<&str> {
        self.fields.get(self.content_type?).map(|(_, value)| value.as_ref())
    }

    /// The `Content-Length` that was sent, where it is one number.
    #[must_use]
    pub fn content_length(&self) -> Option<u64> {
        self.fields.get(self.content_length?)?.1.trim().parse().ok()
    }
}

impl<'a, N: Into<Cow<'a, str>>, V: Into<Cow<'a, str>>> FromIterator<(N, V)> for Headers<'a> {
    fn from_iter<I: IntoIterator<Item = (N, V)>>(fields: I) -> Self {
        let mut headers = Self::new();
        fields.into_iter().for_each(|(name, value)| headers.push(name, value));
        headers
    }
}

/// Is this a token: a method, a field name, an authentication scheme (RFC 9110 section 5.6.2)?
#[must_use]
pub fn is_token(text: &str) -> bool {
    let is_tchar = |b: u8| b.is_ascii_alphanumeric() || b"!#$%&'*+-.^_`|~".contains(&b);
    !text.is_empty() && text.bytes().all(is_tchar)
}

/// The elements of a list, without the space around them: a comma within quotation marks separates nothing (RFC 9110
/// sections 5.6.1 and 5.6.4).
pub fn elements(value: &str) -> impl Iterator<Item = &str> {
    let (mut is_quoted, mut is_escaped) = (false, false);
    value
        .split(move |c: char| {
            let is_literal = is_escaped;
            is_escaped = is_quoted && c == '\\' && !is_literal;
            is_quoted ^= c == '"' && !is_literal;
            c == ',' && !is_quoted
        })
        .map(str::trim)
        .filter(|element| !element.is_empty())
}

/// Is this an HTTP date: the preferred form, or one of the two obsolete ones that a recipient has to
/// accept (RFC 9110 section 5.6.7)?
#[must_use]
pub fn is_http_date(text: &str) -> bool {
    http_date(text).is_some()
}

/// The instant of an HTTP date.
#[must_use]
pub fn http_date(text: &str) -> Option<SystemTime> {
    httpdate::parse_http_date(text).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_compared_without_case_and_repeats_are_kept_in_order() {
        let headers: Headers<'_> =
            [("Allow", "GET"), ("X-Other", "1"), ("allow", "POST")].into_iter().collect();
        assert_eq!(headers.all("ALLOW").collect::<Vec<_>>(), ["GET", "POST"]);
        assert_eq!(headers.get("allow"), Some("GET"));
        assert!(!headers.has("Retry-After"));
        assert_eq!(headers.content_type(), None);
        let headers: Headers<'_> =
            [("Host", "h"), ("Content-Type", "a/b"), ("content-type", "c/d")].into_iter().collect();
        assert_eq!(headers.content_type(), Some("a/b"));
    }

    #[test]
    fn a_content_length_that_is_no_number_counts_as_none() {
        let length = |fields: &[(&'static str, &'static str)]| {
            fields.iter().copied().collect::<Headers<'_>>().content_length()
        };
        assert_eq!(length(&[("Content-Length", "12, 12")]), None);
        assert_eq!(length(&[]), None);
        assert_eq!(
            length(&[("Age", "1"), ("content-LENGTH", " 12"), ("Content-Length", "3")]),
            Some(12)
        );
    }

    /// The examples of RFC 9110 section 5.6.7, and what is none.
    #[test]
    fn http_dates_have_three_forms() {
        for text in [
            "Sun, 06 Nov 1994 08:49:37 GMT",
            "Sunday, 06-Nov-94 08:49:37 GMT",
            "Sun Nov  6 08:49:37 1994",
        ] {
            assert!(is_http_date(text), "{text}");
        }
        for text in ["1994-11-06T08:49:37Z", "Sun, 06 Nov 1994 08:49:37 CET", "30s", "soon", ""] {
            assert!(!is_http_date(text), "{text}");
        }
    }
}
