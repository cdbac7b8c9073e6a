//! A paragraph of plain text.

use crate::Theme;

/// Prose of our own, wrapped.
#[must_use]
pub fn paragraph(text: &str, theme: Theme) -> String {
    super::wrap::wrap(text, 0, theme.width)
}
