//! One segment of a recorded path: is it a name, or a value by its form?

use serde::{Deserialize, Serialize};

use faithful_clerk_shape::{is_date, is_date_time};

/// What a segment looks like.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub enum SegmentForm {
    /// A whole number.
    Integer,
    /// A UUID (RFC 9562 section 4), or 26 characters of base 32 that sort by time.
    Uuid,
    /// A day.
    Date,
    /// A day and a time.
    DateTime,
    /// Hexadecimal digits, a prefix with a number, a long mix of letters and digits.
    Token,
    /// An e-mail address.
    Address,
    /// Words with characters that a path only holds percent-encoded.
    Encoded,
    /// A template's parameter that nobody filled in.
    Unexpanded,
    /// Something with a digit in it that may be a value, or a name such as `oauth2`.
    Code,
    /// A name.
    Word,
}

impl SegmentForm {
    /// The form of a decoded segment.
    #[must_use]
    pub fn of(segment: &str) -> Self {
        let bytes = segment.as_bytes();
        let digits = bytes.iter().filter(|byte| byte.is_ascii_digit()).count();
        let unsigned = segment.strip_prefix('-').unwrap_or(segment);
        if (segment.starts_with('{') && segment.ends_with('}')) || segment.starts_with(':') {
            Self::Unexpanded
        } else if !unsigned.is_empty() && unsigned.bytes().all(|byte| byte.is_ascii_digit()) {
            Self::Integer
        } else if digits > 7 && (is_date(segment) || looks_like(segment, "0000-00-00")) {
            Self::Date
        } else if digits > 7 && is_date_time(segment) {
            Self::DateTime
        } else if looks_like(segment, "hhhhhhhh-hhhh-hhhh-hhhh-hhhhhhhhhhhh") || is_base32(segment)
        {
            Self::Uuid
        } else if is_address(segment) {
            Self::Address
        } else if segment.contains(is_only_encoded) {
            Self::Encoded
        } else if digits == 0 || is_version(segment) {
            Self::Word
        } else if is_token(segment, digits) {
            Self::Token
        } else {
            Self::Code
        }
    }

    /// Is a segment of this form a value, even if it stands alone?
    #[must_use]
    pub fn is_value(self) -> bool {
        !matches!(self, Self::Code | Self::Word)
    }

    /// May a text be an id, by its form? Text without a digit is words.
    #[must_use]
    pub fn may_be_id(text: &str) -> bool {
        match Self::of(text) {
            Self::Word => false,
            Self::Encoded => text.contains(|c: char| c.is_ascii_digit()),
            _ => true,
        }
    }

    /// The words for it.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Integer => "a whole number",
            Self::Uuid => "a UUID or the like",
            Self::Date => "a day",
            Self::DateTime => "a day and a time",
            Self::Token => "an id",
            Self::Address => "an e-mail address",
            Self::Encoded => "percent-encoded data",
            Self::Unexpanded => "a parameter that was not filled in",
            Self::Code => "a code",
            Self::Word => "a word",
        }
    }
}

/// `h` stands for a hexadecimal digit, `0` for a digit, all else for itself.
fn looks_like(segment: &str, pattern: &str) -> bool {
    segment.len() == pattern.len()
        && segment.bytes().zip(pattern.bytes()).all(|(byte, pattern)| match pattern {
            b'h' => byte.is_ascii_hexdigit(),
            b'0' => byte.is_ascii_digit(),
            other => byte == other,
        })
}

fn is_base32(segment: &str) -> bool {
    segment.len() == 26
        && segment.bytes().any(|byte| byte.is_ascii_digit())
        && segment.bytes().all(|byte| byte.is_ascii_digit() || byte.is_ascii_uppercase())
}

/// Can a path hold the character only percent-encoded (RFC 3986 section 3.3)?
fn is_only_encoded(c: char) -> bool {
    !c.is_ascii_alphanumeric() && !"-._~!$&'()*+,;=:@".contains(c)
}

fn is_address(segment: &str) -> bool {
    let dotted = |(name, host): (&str, &str)| !name.is_empty() && host.contains('.');
    segment.split_once('@').is_some_and(dotted)
}

/// `v1`, `v2.1`: a version of the service, which is a name.
fn is_version(segment: &str) -> bool {
    let number = segment.strip_prefix(['v', 'V']).unwrap_or_default();
    !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.')
}

fn is_token(segment: &str, digits: usize) -> bool {
    let is_hex = |text: &str, least: usize| {
        text.len() >= least
            && text.bytes().all(|byte| byte.is_ascii_hexdigit())
            && text.bytes().any(|byte| byte.is_ascii_digit())
    };
    let is_mixed = segment.bytes().all(|b| b.is_ascii_alphanumeric() || b"-_=.~".contains(&b));
    if is_hex(segment, 8) || (segment.len() >= 16 && digits >= 2 && is_mixed) {
        return true;
    }
    // `r-7f3a21`, `inv_000123`, `OB1234`.
    let letters = segment.bytes().take_while(u8::is_ascii_alphabetic).count();
    let behind = segment.get(letters..).unwrap_or_default();
    let all_digits = |text: &str| text.len() >= 3 && text.bytes().all(|b| b.is_ascii_digit());
    let short = (1..=4).contains(&letters);
    match behind.strip_prefix(['-', '_']) {
        Some(rest) => letters > 0 && (all_digits(rest) || is_hex(rest, 6)),
        None => short && all_digits(behind),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_are_known_by_their_form_and_names_are_not_taken_for_them() {
        for (form, segments) in [
            (SegmentForm::Integer, &["1", "-1", "0042", "99999999999999999999"][..]),
            (
                SegmentForm::Uuid,
                &["3f2b8c1e-9a4d-4c7b-8f10-5d6e7a8b9c0d", "01HZX3V7K9QW8RT2Y4B6N0M5PC"],
            ),
            (SegmentForm::Date, &["2027-04-05", "2027-13-45"]),
            (SegmentForm::DateTime, &["2027-04-05T06:07:08Z"]),
            (
                SegmentForm::Token,
                &["r-7f3a21", "inv_000123", "OB1234", "7f3a21bc", "a8Kd02LmQx91Zt3p"],
            ),
            (SegmentForm::Address, &["tern@harbour.example"]),
            (SegmentForm::Encoded, &["left/right", "' OR 1=1", "höhe", "50%"]),
            (SegmentForm::Unexpanded, &["{id}", ":id"]),
            (SegmentForm::Code, &["A-3", "Z-99", "oauth2", "s3", "page-2", "utf-8"]),
            (
                SegmentForm::Word,
                &["berths", "check-in", "v1", "v2.1", "deadbeef", "", "mine", "@me"],
            ),
        ] {
            for segment in segments {
                assert_eq!(SegmentForm::of(segment), form, "{segment}");
            }
        }
    }
}
