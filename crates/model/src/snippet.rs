//! The start of a recorded text that is too long to be shown whole.

use std::borrow::Cow;

/// A token that is no longer than this many times the limit is shown whole.
const PATIENCE: usize = 2;

/// The text in about `most` characters, with `…` for what is left out.
///
/// It ends at white space, so an address is shown whole or not at all; only a token that is more than
/// twice as long as the limit is cut within.
///
/// ```
/// use faithful_clerk_model::snippet::snippet;
///
/// assert_eq!(snippet("no such berth", 40), "no such berth");
/// assert_eq!(snippet("see https://harbour.example/berths for all", 30), "see …");
/// assert_eq!(snippet("https://harbour.example/berths/A-3", 30), "https://harbour.example/berths/A-3");
/// ```
#[must_use]
pub fn snippet(text: &str, most: usize) -> Cow<'_, str> {
    let Some((limit, _)) = text.char_indices().nth(most) else { return Cow::Borrowed(text) };
    let before = text.get(..limit).unwrap_or_default();
    if let Some(space) = before.rfind(char::is_whitespace).filter(|space| *space > 0) {
        // The limit may be just behind a word.
        let ends_word = text.get(limit..).is_some_and(|rest| rest.starts_with(char::is_whitespace));
        let end = if ends_word { limit } else { space };
        return Cow::Owned(format!("{} …", text.get(..end).unwrap_or_default().trim_end()));
    }
    let token_end = text.find(char::is_whitespace).unwrap_or(text.len());
    let longest = text.char_indices().nth(most * PATIENCE).map_or(text.len(), |(at, _)| at);
    if token_end <= longest {
        let token = text.get(..token_end).unwrap_or_default();
        return if token_end == text.len() {
            Cow::Borrowed(text)
        } else {
            Cow::Owned(format!("{token} …"))
        };
    }
    Cow::Owned(format!("{before}…"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_snippet_ends_at_a_word_or_a_token() {
        for (text, most, expected) in [
            ("", 5, ""),
            ("berth", 5, "berth"),
            ("berth A-3", 5, "berth …"),
            ("berth A-3 is taken", 8, "berth …"),
            ("berth A-3 is taken", 9, "berth A-3 …"),
            ("Größe über alles", 6, "Größe …"),
            ("abcdefghij", 5, "abcdefghij"),
            ("abcdefghijk", 5, "abcde…"),
            ("abcdefgh ij", 5, "abcdefgh …"),
            ("at Berths.byId(Berths.java:88) from", 20, "at …"),
        ] {
            assert_eq!(snippet(text, most), expected, "{text} {most}");
        }
    }
}
