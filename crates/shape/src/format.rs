//! The formats of text that kinds name. All are asserted.

use std::sync::LazyLock;

use iri_string::types::{UriReferenceStr, UriStr};
use regex::Regex;

/// A URI with a scheme (RFC 3986 section 3).
#[must_use]
pub fn is_uri(text: &str) -> bool {
    is_plain_uri(text) || UriStr::new(text).is_ok()
}

/// A URI with nothing in it but what may stand everywhere: those that types are are nearly all like this.
fn is_plain_uri(text: &str) -> bool {
    let rest = text.strip_prefix("https://").or_else(|| text.strip_prefix("http://"));
    rest.is_some_and(|rest| {
        rest.starts_with(|c: char| c.is_ascii_alphanumeric())
            && rest
                .bytes()
                .all(|b| b.is_ascii_alphanumeric() || matches!(b, b'/' | b'-' | b'.' | b'_'))
    })
}

/// A URI or a relative reference (RFC 3986 section 4.1).
#[must_use]
pub fn is_uri_reference(text: &str) -> bool {
    is_plain_uri(text) || UriReferenceStr::new(text).is_ok()
}

/// `full-date` of RFC 3339 section 5.6, and a day that the calendar has.
#[must_use]
pub fn is_date(text: &str) -> bool {
    let form = text.len() == 10
        && text.bytes().enumerate().all(|(at, byte)| match at {
            4 | 7 => byte == b'-',
            _ => byte.is_ascii_digit(),
        });
    form && text.parse::<jiff::civil::Date>().is_ok()
}

/// `date-time` of RFC 3339 section 5.6: the offset is always there.
#[must_use]
pub fn is_date_time(text: &str) -> bool {
    static FORM: LazyLock<Option<Regex>> = LazyLock::new(|| {
        let form = r"^\d{4}-\d\d-\d\d[Tt ]\d\d:\d\d:\d\d(\.\d+)?([Zz]|[+-]\d\d:\d\d)$";
        Regex::new(form).ok()
    });
    if !FORM.as_ref().is_some_and(|form| form.is_match(text)) {
        return false;
    }
    // Nanoseconds are the finest that the calendar crate holds; finer fractions are cut for it.
    let coarse = match text.split_once('.') {
        Some((before, after)) => {
            let digits = after.bytes().take_while(u8::is_ascii_digit).count();
            let kept = after.get(..digits.min(9)).unwrap_or_default();
            format!("{before}.{kept}{}", after.get(digits..).unwrap_or_default())
        }
        None => text.to_owned(),
    };
    coarse.parse::<jiff::Timestamp>().is_ok()
}

/// The form of a language tag (RFC 5646 section 2.1), without a look into the registry.
#[must_use]
pub fn is_language_tag(text: &str) -> bool {
    let mut parts = text.split('-');
    let first = parts.next().unwrap_or_default();
    let letters = first.bytes().all(|byte| byte.is_ascii_alphabetic());
    let private = first.eq_ignore_ascii_case("x") && text.len() > 2;
    (private || (letters && (2..=8).contains(&first.len())))
        && parts.all(|part| {
            (1..=8).contains(&part.len()) && part.bytes().all(|byte| byte.is_ascii_alphanumeric())
        })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn dates_are_full_dates_of_the_calendar() {
        assert!(is_date("2028-02-29"));
        for text in ["2027-02-29", "2027-2-9", "20270209", "2027-02-09T00:00:00Z", "soon", ""] {
            assert!(!is_date(text), "{text}");
        }
    }

    #[test]
    fn date_times_have_an_offset() {
        for text in ["2031-04-05T06:07:08Z", "2031-04-05t06:07:08.123456789012+02:00"] {
            assert!(is_date_time(text), "{text}");
        }
        for text in
            ["2031-04-05T06:07:08", "2031-04-05", "2031-13-05T06:07:08Z", "20310405T060708Z"]
        {
            assert!(!is_date_time(text), "{text}");
        }
    }

    #[test]
    fn uris_have_a_scheme_and_references_need_none() {
        assert!(is_uri("https://harbour.example/faults/x") && is_uri("urn:x:y"));
        assert!(!is_uri("/faults/x") && !is_uri("https://harbour.example/a b"));
        assert!(is_uri_reference("/faults/x") && is_uri_reference("") && is_uri_reference("#a"));
        assert!(!is_uri_reference("not a uri"));
    }

    #[test]
    fn language_tags_have_the_registered_form() {
        for text in ["en", "de-AT", "zh-Hant-TW", "x-harbour"] {
            assert!(is_language_tag(text), "{text}");
        }
        for text in ["", "e", "en_GB", "english language", "en-", "de-"] {
            assert!(!is_language_tag(text), "{text}");
        }
    }
}
