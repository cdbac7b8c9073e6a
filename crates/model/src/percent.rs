//! Percent-encoding of URLs (RFC 3986 section 2.1).

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_decode_str, utf8_percent_encode};

/// All but the unreserved characters (RFC 3986 section 2.3).
const RESERVED: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~');

/// Undoes percent-encoding; `None` where a `%` starts no two hex digits or the bytes are not UTF-8.
#[must_use]
pub fn decode(text: &str) -> Option<String> {
    let is_whole = |rest: &str| {
        rest.get(..2).is_some_and(|pair| pair.bytes().all(|byte| byte.is_ascii_hexdigit()))
    };
    if !text.split('%').skip(1).all(is_whole) {
        return None;
    }
    percent_decode_str(text).decode_utf8().ok().map(|text| text.into_owned())
}

/// A text as one segment of a path (RFC 3986 section 3.3).
#[must_use]
pub fn encode_segment(text: &str) -> String {
    utf8_percent_encode(text, RESERVED).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_segment_is_decoded_as_it_was_encoded_and_half_an_escape_is_none() {
        for (text, encoded) in
            [("A-3", "A-3"), ("a b/c", "a%20b%2Fc"), ("Brücke~1_.", "Br%C3%BCcke~1_.")]
        {
            assert_eq!(encode_segment(text), encoded);
            assert_eq!(decode(encoded).as_deref(), Some(text));
        }
        for broken in ["%", "%4", "%zz", "a%+1", "%ff", "100%"] {
            assert_eq!(decode(broken), None, "{broken}");
        }
    }
}
