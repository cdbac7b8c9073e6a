//! Values that can be secrets, and values that can't.

/// Words that stand in the place of a secret, or name a type or scheme of it.
const WORDS: [&str; 20] = [
    "true",
    "false",
    "null",
    "none",
    "undefined",
    "nil",
    "yes",
    "no",
    "bearer",
    "basic",
    "digest",
    "jwt",
    "mac",
    "dpop",
    "string",
    "text",
    "boolean",
    "number",
    "required",
    "optional",
];

/// Is a text that is a secret in one place one in every other? A word is not.
#[must_use]
pub fn looks_random(text: &str) -> bool {
    if text.len() < 8 || text.contains(char::is_whitespace) {
        return false;
    }
    let has = |what: fn(&u8) -> bool| text.as_bytes().iter().any(what);
    text.len() >= 20 || has(u8::is_ascii_digit) && has(u8::is_ascii_alphabetic)
}

/// Can a value be a secret, under the name of one? A truth value, a type, a time, an id of zeros and an address without
/// anything random in it are none.
#[must_use]
pub fn can_be_secret(text: &str) -> bool {
    let text = text.trim();
    if text.len() < 3 || WORDS.iter().any(|word| word.eq_ignore_ascii_case(text)) {
        return false;
    }
    let is_zero = text.bytes().all(|byte| matches!(byte, b'0' | b'-' | b'*' | b'x' | b'X' | b'.'));
    !is_zero && !is_time(text) && !is_plain_address(text)
}

/// Is it a date, or begins like a date with a time (RFC 3339)?
fn is_time(text: &str) -> bool {
    let is_form = |form: &str| {
        text.len() >= form.len()
            && form.bytes().zip(text.bytes()).all(|(form, byte)| match form {
                b'0' => byte.is_ascii_digit(),
                form => form == byte || form == b'T' && byte == b' ',
            })
    };
    text.len() <= 40 && (is_form("0000-00-00T00:00") || text.len() == 10 && is_form("0000-00-00"))
}

/// Is it a URL in which nothing is random?
fn is_plain_address(text: &str) -> bool {
    let is_url = text.contains("://") && !text.contains(char::is_whitespace);
    is_url && !text.contains('@') && !text.split(['/', '?', '&', '=', '#', '.']).any(looks_random)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_secret_is_known_by_its_form() {
        for text in [
            "true",
            "Bearer",
            "2027-01-31T12:00:00Z",
            "2027-01-31",
            "00000000-0000-0000-0000-000000000000",
            "***",
            "https://harbour.example/reset",
            "",
            "no",
        ] {
            assert!(!can_be_secret(text), "{text}");
        }
        for text in
            ["hunter2", "1234", "secret", "https://harbour.example/reset/q7x9k2m4b5", "2027-quay"]
        {
            assert!(can_be_secret(text), "{text}");
        }
    }
}
