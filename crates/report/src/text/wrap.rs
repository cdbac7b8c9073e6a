//! Lays text out within a width.

use unicode_width::UnicodeWidthStr;

/// Wraps at spaces, with every line indented; a word that is longer than a line stands alone.
pub(crate) fn wrap(text: &str, indent: usize, width: usize) -> String {
    let room = width.saturating_sub(indent).max(20);
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ') {
        match lines.last_mut() {
            Some(line) if line.width() + 1 + word.width() <= room => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    let mut wrapped = String::new();
    for line in lines {
        wrapped.push_str(&" ".repeat(indent));
        wrapped.push_str(&line);
        wrapped.push('\n');
    }
    wrapped
}

/// The text, cut to a width, and padded to it.
pub(crate) fn fit(text: &str, width: usize, more: &str) -> String {
    let mut fitted = text.to_owned();
    if text.width() > width {
        while fitted.width() + more.width() > width && fitted.pop().is_some() {}
        fitted.push_str(more);
    }
    let pad = width.saturating_sub(fitted.width());
    fitted.push_str(&" ".repeat(pad));
    fitted
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_break_at_spaces_and_long_words_stand_alone() {
        let wrapped = wrap("one two three-four-five-six-seven-eight nine", 2, 22);
        assert_eq!(wrapped, "  one two\n  three-four-five-six-seven-eight\n  nine\n");
    }

    #[test]
    fn wide_characters_count_as_two() {
        assert_eq!(fit("港港港", 5, "…"), "港港…");
        assert_eq!(fit("ab", 4, "…"), "ab  ");
    }
}
