//! Replacements in a text, made from its start to its end.

use std::ops::Range;

/// A text, and what of it was replaced so far.
#[derive(Debug)]
pub(super) struct Replacements<'t> {
    text: &'t str,
    new: String,
    /// Up to there, the text is in `new`.
    copied: usize,
    is_changed: bool,
}

impl<'t> Replacements<'t> {
    pub(super) fn of(text: &'t str) -> Self {
        Self { text, new: String::new(), copied: 0, is_changed: false }
    }

    /// Puts something in the place of a part, which lies behind those before.
    pub(super) fn replace(&mut self, part: Range<usize>, new: &str) {
        if !self.is_changed {
            self.new.reserve(self.text.len());
            self.is_changed = true;
        }
        self.new.push_str(self.text.get(self.copied..part.start).unwrap_or_default());
        self.new.push_str(new);
        self.copied = part.end;
    }

    /// The new text, if anything was replaced.
    pub(super) fn done(mut self) -> Option<String> {
        if !self.is_changed {
            return None;
        }
        self.new.push_str(self.text.get(self.copied..).unwrap_or_default());
        Some(self.new)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_replaced_stays() {
        let mut edits = Replacements::of("north quay, south quay");
        edits.replace(6..10, "mill");
        edits.replace(18..22, "pier");
        assert_eq!(edits.done().as_deref(), Some("north mill, south pier"));
        let mut emptied = Replacements::of("quay");
        emptied.replace(0..0, "");
        assert_eq!(emptied.done().as_deref(), Some("quay"));
        assert_eq!(Replacements::of("quay").done(), None);
    }
}
