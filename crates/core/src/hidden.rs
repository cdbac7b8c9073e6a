//! Characters that hide, or change what a reader sees.

/// Is this a control character, one that has no width, or one that changes the direction of text?
#[must_use]
pub fn is_hidden(c: char) -> bool {
    c.is_control()
        || matches!(c,
            '\u{61c}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}'
            | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{fffe}' | '\u{ffff}')
}
