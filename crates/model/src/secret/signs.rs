//! Signs without which a text can hold no secret: one look at its bytes, before any pattern is tried on it.

/// What a text has of such signs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct TextSigns {
    /// A secret may stand in it that is told by its form or by the name before it.
    pub may_have_spans: bool,
    /// The length of its longest run of ASCII letters and digits.
    pub longest_word: usize,
    /// The same, of those with a digit in them.
    pub longest_with_digit: usize,
    /// The length of its longest run of what random texts are made of.
    pub longest_run: usize,
    /// All of it is ASCII.
    pub is_ascii: bool,
    /// It has `://` in it.
    pub has_scheme: bool,
}

/// Letters and digits.
const WORD: u8 = 1;
/// Digits, beside that.
const DIGIT: u8 = 8;
/// What stands between them in web tokens.
const TOKEN: u8 = 2;
/// What else stands between them in random texts.
const RUN: u8 = 4;

const CLASSES: [u8; 256] = {
    let mut classes = [0; 256];
    let mut byte = 0u8;
    loop {
        classes[byte as usize] = match byte {
            b'a'..=b'z' | b'A'..=b'Z' => WORD,
            b'0'..=b'9' => WORD | DIGIT,
            b'-' | b'_' => TOKEN,
            b'+' | b'=' => RUN,
            _ => 0,
        };
        if byte == u8::MAX {
            break classes;
        }
        byte += 1;
    }
};

fn class(byte: u8) -> u8 {
    CLASSES.get(usize::from(byte)).copied().unwrap_or_default()
}

impl TextSigns {
    /// The signs of a text.
    #[must_use]
    pub fn of(text: &str) -> Self {
        let bytes = text.as_bytes();
        let mut signs = Self {
            may_have_spans: false,
            longest_word: 0,
            longest_with_digit: 0,
            longest_run: 0,
            is_ascii: true,
            has_scheme: false,
        };
        let (mut at, mut token, mut run) = (0, 0, 0);
        // Looked for once: there may be a colon at every place.
        let mut last_at_sign = None;
        loop {
            let (word, mut classes) = (at, 0);
            while let Some(class) =
                bytes.get(at).map(|byte| class(*byte)).filter(|class| class & WORD != 0)
            {
                classes |= class;
                at += 1;
            }
            signs.longest_word = signs.longest_word.max(at - word);
            if classes & DIGIT != 0 {
                signs.longest_with_digit = signs.longest_with_digit.max(at - word);
            }
            let before = bytes.get(..at).unwrap_or_default();
            let Some(sign) = bytes.get(at) else {
                signs.longest_run = signs.longest_run.max(at - run);
                signs.may_have_spans |= is_key(before, word);
                return signs;
            };
            signs.is_ascii &= sign.is_ascii();
            let behind = bytes.get(at + 1..).unwrap_or_default();
            let is_scheme = *sign == b':' && behind.starts_with(b"//");
            signs.has_scheme |= is_scheme;
            if !signs.may_have_spans {
                signs.may_have_spans = is_key(before, word)
                    || match sign {
                        b' ' | b'\t' => ends_as_scheme(before),
                        b':' => {
                            let last = || memchr::memrchr(b'@', bytes);
                            let is_user =
                                is_scheme && *last_at_sign.get_or_insert_with(last) > Some(at);
                            is_user || ends_as_name(before)
                        }
                        b'=' => ends_as_name(before),
                        b'.' => is_web_token(before.get(token..).unwrap_or_default()),
                        b'-' => ends_as_armour(before),
                        _ => is_letter_in_disguise(bytes.get(..=at).unwrap_or_default()),
                    };
            }
            let class = class(*sign);
            at += 1;
            if class != TOKEN {
                token = at;
            }
            if class == 0 {
                signs.longest_run = signs.longest_run.max(at - 1 - run);
                run = at;
            }
        }
    }
}

/// Does a text end so, in small letters or capitals?
fn ends_with(text: &[u8], end: &[u8]) -> bool {
    let start = text.len().checked_sub(end.len());
    start.and_then(|start| text.get(start..)).is_some_and(|last| last.eq_ignore_ascii_case(end))
}

fn last_letter(text: &[u8]) -> u8 {
    text.last().map_or(0, u8::to_ascii_lowercase)
}

/// An authentication scheme, with a blank behind it.
fn ends_as_scheme(before: &[u8]) -> bool {
    match last_letter(before) {
        b'r' => ends_with(before, b"bearer"),
        b'c' => ends_with(before, b"basic"),
        b't' => ends_with(before, b"digest"),
        b'e' => ends_with(before, b"negotiate"),
        _ => false,
    }
}

/// The name of a secret, with a colon or an equals sign behind it; between them blanks and quotation marks may stand.
fn ends_as_name(before: &[u8]) -> bool {
    let blanks = before.iter().rev().take_while(|byte| matches!(byte, b' ' | b'\t')).count();
    let before = before.get(..before.len() - blanks).unwrap_or_default();
    let before = before.strip_suffix(b"\"").or(before.strip_suffix(b"'")).unwrap_or(before);
    let before = before.strip_suffix(b"\\").unwrap_or(before);
    let is_one_of = |ends: &[&str]| ends.iter().any(|end| ends_with(before, end.as_bytes()));
    match last_letter(before) {
        b'd' => is_one_of(&["password", "passwd", "pwd", "sessionid", "session_id", "session-id"]),
        b'e' => is_one_of(&["passphrase", "code", "signature"]),
        b't' => is_one_of(&["secret", "jwt"]),
        b'y' => is_one_of(&["key"]),
        b'n' => is_one_of(&["token", "pin"]),
        b'r' => is_one_of(&["verifier"]),
        b'l' => is_one_of(&["credential"]),
        // The second stands before the lines of a private key.
        b's' => is_one_of(&["credentials", "lines"]),
        b'p' => is_one_of(&["otp"]),
        b'v' => is_one_of(&["cvv"]),
        b'c' => is_one_of(&["cvc"]),
        b'f' => is_one_of(&["srf"]),
        _ => false,
    }
}

/// What stands before the first point of a web token.
fn is_web_token(token: &[u8]) -> bool {
    let begins = token.len().checked_sub(6).and_then(|end| token.get(..end)).unwrap_or_default();
    begins.windows(3).any(|three| three.eq_ignore_ascii_case(b"eyj"))
}

/// What stands before the last hyphen of `-----`, and before the one in the keys of a chat.
fn ends_as_armour(before: &[u8]) -> bool {
    before.ends_with(b"----")
        || before
            .len()
            .checked_sub(4)
            .is_some_and(|start| before.get(start..).is_some_and(|last| last.starts_with(b"xox")))
}

/// A word from there on that is as long as keys are, behind what keys begin with.
fn is_key(text: &[u8], word: usize) -> bool {
    let (before, word) = text.split_at_checked(word).unwrap_or_default();
    if word.starts_with(b"A") {
        let is_long = word.len() >= 20 && (word.starts_with(b"AKIA") || word.starts_with(b"ASIA"));
        if is_long || word.starts_with(b"AIza") {
            return true;
        }
    }
    if word.len() < 16 {
        return false;
    }
    let Some((b'-' | b'_', prefix)) = before.split_last() else { return false };
    let length = prefix.iter().rev().take(11).take_while(|byte| class(**byte) & WORD != 0).count();
    let last = prefix.get(prefix.len() - length..).unwrap_or_default();
    let is_prefix = (2..=10).contains(&length) && last.first().is_some_and(u8::is_ascii_alphabetic);
    is_prefix && word.len() >= 24 || matches!(last, b"live" | b"test")
}

/// Letters beyond ASCII that patterns without regard to case take for `s` and `k`: `ſ` and the sign for kelvin.
fn is_letter_in_disguise(text: &[u8]) -> bool {
    text.ends_with("\u{17f}".as_bytes()) || text.ends_with("\u{212a}".as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn runs_are_measured_and_plain_words_have_no_sign() {
        let signs = TextSigns::of("a north-quay_2 é");
        let expected = TextSigns {
            may_have_spans: false,
            longest_word: 5,
            longest_with_digit: 1,
            longest_run: 12,
            is_ascii: false,
            has_scheme: false,
        };
        assert_eq!(signs, expected);
        for plain in [
            "2027-01-31T12:00:00Z",
            "https://harbour.example/berths/B-12?from=2027-01-31",
            "00-d41d8cd98f00b204e9800998ecf8427e-00f067aa0ba902b7-01",
            "Basically, the id: 7 = seven",
            "max-age=31536000; includeSubDomains",
            "saltmarsh.harbour.example",
        ] {
            assert!(!TextSigns::of(plain).may_have_spans, "{plain}");
        }
    }
}
