//! What the enums of findings have in common: their texts can be rewritten, to mask secrets and to shorten them.

use super::{DisclosureKind, MismatchKind};
use crate::situation::Situation;

/// A value that a finding is made of.
pub trait Detail {
    /// Replaces every text in it by what `by` makes of it; `None` leaves a text as it is.
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>);
}

impl Detail for String {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        if let Some(text) = by(self) {
            *self = text;
        }
    }
}

impl<T: Detail> Detail for Option<T> {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.iter_mut().for_each(|value| value.rewrite(by));
    }
}

impl<T: Detail> Detail for Vec<T> {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        self.iter_mut().for_each(|value| value.rewrite(by));
    }
}

impl<T: Detail> Detail for Box<T> {
    fn rewrite(&mut self, by: &dyn Fn(&str) -> Option<String>) {
        (**self).rewrite(by);
    }
}

/// What has no text in it.
macro_rules! without_text {
    ($($type:ty),+) => {
        $(impl Detail for $type {
            fn rewrite(&mut self, _: &dyn Fn(&str) -> Option<String>) {}
        })+
    };
}

without_text!(u16, u64, i64, bool, Situation, MismatchKind, DisclosureKind);
