//! A string of an entry.

use std::borrow::Cow;
use std::ops::Range;

use crate::recording::scan::unescape;

/// A string as it stands there.
#[derive(Debug, Clone)]
pub(super) struct Literal<'a> {
    text: &'a str,
    /// Where it stands, without its quotation marks.
    inner: Range<usize>,
    /// Is there no escape in it?
    is_plain: bool,
}

impl<'a> Literal<'a> {
    /// The string whose inner part stands there.
    #[inline]
    pub(super) fn of(text: &'a str, inner: Range<usize>, is_plain: bool) -> Self {
        Self { text, inner, is_plain }
    }

    /// The string with its quotation marks.
    #[inline]
    pub(super) fn whole(&self) -> Option<&'a str> {
        self.text.get(self.inner.start.checked_sub(1)?..self.inner.end + 1)
    }

    /// What it stands for.
    #[inline]
    pub(super) fn text(self) -> Option<Cow<'a, str>> {
        if self.is_plain {
            return self.text.get(self.inner).map(Cow::Borrowed);
        }
        unescape(self.whole()?)
    }
}
