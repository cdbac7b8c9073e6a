//! Texts that look as if nobody had written them: ids, digests, and keys of a form that is not known.

use std::fmt;
use std::ops::Range;

use serde::{Deserialize, Serialize};

/// What is shorter can be guessed from its form alone too seldom to be told.
pub const SHORTEST_RANDOM: usize = 16;

/// How such a text is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum RandomForm {
    /// As a UUID is written (RFC 9562 section 4).
    Uuid,
    /// Of hexadecimal digits.
    Hexadecimal,
    /// Of letters and digits in no order.
    Mixed,
}

impl fmt::Display for RandomForm {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Uuid => "UUID",
            Self::Hexadecimal => "hexadecimal",
            Self::Mixed => "letters and digits",
        })
    }
}

/// Where random texts stand within a text, and their forms.
pub fn random_spans(text: &str) -> impl Iterator<Item = (Range<usize>, RandomForm)> {
    let is_part =
        |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b'+' | b'=');
    let (bytes, mut at) = (text.as_bytes(), 0);
    let runs = std::iter::from_fn(move || {
        let rest = bytes.get(at..).filter(|rest| rest.len() >= SHORTEST_RANDOM)?;
        let start = at + rest.iter().position(is_part)?;
        let run = bytes.get(start..)?;
        at = start + run.iter().position(|byte| !is_part(byte)).unwrap_or(run.len());
        Some(start..at)
    });
    runs.filter_map(|run| Some((run.clone(), form(text.get(run)?)?)))
}

/// The form of a run of letters and digits, if it looks random.
fn form(run: &str) -> Option<RandomForm> {
    if run.len() < SHORTEST_RANDOM {
        return None;
    }
    let bytes = run.as_bytes();
    let count = |what: fn(&u8) -> bool| bytes.iter().filter(|byte| what(byte)).count();
    let (digits, letters) = (count(u8::is_ascii_digit), count(u8::is_ascii_alphabetic));
    let is_hexadecimal = bytes.iter().all(|byte| byte.is_ascii_hexdigit() || *byte == b'-');
    if is_hexadecimal && digits > 0 && letters > 0 {
        let parts: Vec<usize> = run.split('-').map(str::len).collect();
        let is_uuid = parts == [8, 4, 4, 4, 12];
        return Some(if is_uuid { RandomForm::Uuid } else { RandomForm::Hexadecimal });
    }
    // Words and dates change between letters and digits once or twice, and begin with their capitals.
    let pairs = bytes.iter().zip(bytes.iter().skip(1));
    let changes = pairs.filter(|(one, next)| {
        one.is_ascii_digit() && next.is_ascii_alphabetic()
            || one.is_ascii_alphabetic() && next.is_ascii_digit()
            || one.is_ascii_lowercase() && next.is_ascii_uppercase()
    });
    (digits > 0 && letters > 2 && changes.count() * 6 >= run.len()).then_some(RandomForm::Mixed)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_dates_and_numbers_are_not_random() {
        let forms = |text: &str| random_spans(text).map(|(_, form)| form).collect::<Vec<_>>();
        for text in [
            "saltmarsh-harbour-2027-berth-12",
            "2027-01-31T12-00-00-000Z",
            "12345678901234567890",
            "http://harbour.example/v1/berths/B-12/reservations",
            "applicationProblemJsonMediaType2",
            "q7x9k2m4b5",
            "--------------------------------",
        ] {
            assert_eq!(forms(text), [], "{text}");
        }
        for (text, form) in [
            ("1b4e28ba-2fa1-11d2-883f-0016d3cca427", RandomForm::Uuid),
            ("W/\"d41d8cd98f00b204e9800998ecf8427e\"", RandomForm::Hexadecimal),
            ("/uploads/kR3vQ9xT2mB7nL5pW8sD4f/parts", RandomForm::Mixed),
            ("rest: 9a8Bc7D6-e5F4g3H2_i1", RandomForm::Mixed),
        ] {
            assert_eq!(forms(text), [form], "{text}");
        }
        let text = "a/kR3vQ9xT2mB7nL5pW8sD4f?1b4e28ba-2fa1-11d2-883f-0016d3cca427,é";
        let found: Vec<&str> = random_spans(text).map(|(range, _)| &text[range]).collect();
        assert_eq!(found, ["kR3vQ9xT2mB7nL5pW8sD4f", "1b4e28ba-2fa1-11d2-883f-0016d3cca427"]);
    }
}
