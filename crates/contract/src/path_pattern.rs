//! Patterns of paths: `*` is any segment, `**` at the end any rest.

use crate::model::CaseSensitivity;

/// `/reservations/**`: a path in which `*` is any segment and `{name}` any parameter, and whose last segment may be `**`.
#[derive(Debug, Clone)]
pub struct PathPattern {
    segments: Vec<String>,
    /// Is the path whole, or may any rest follow?
    is_whole: bool,
}

impl PathPattern {
    /// Reads a pattern; `None` where it is none.
    #[must_use]
    pub fn read(text: &str) -> Option<Self> {
        let mut segments: Vec<String> =
            text.strip_prefix('/')?.split('/').map(str::to_owned).collect();
        let is_whole = segments.last().is_none_or(|last| last != "**");
        if !is_whole {
            segments.pop();
        }
        let has_inner = segments.iter().any(|segment| segment == "**");
        (!has_inner).then_some(Self { segments, is_whole })
    }

    /// The same pattern with `*` for every parameter, so that it fits paths as they are recorded.
    #[must_use]
    pub fn of_recorded(mut self) -> Self {
        for segment in self.segments.iter_mut().filter(|segment| segment.contains('{')) {
            "*".clone_into(segment);
        }
        self
    }

    /// Does it fit every path that the other fits?
    #[must_use]
    pub fn covers(&self, other: &Self) -> bool {
        let is_long_enough = !self.is_whole || other.is_whole;
        is_long_enough && self.fits(&other.segments, CaseSensitivity::Sensitive).is_some()
    }

    /// How specific it is, if it fits a path: the number of segments that it names, and one that is whole before one
    /// that leaves a rest.
    #[must_use]
    pub fn fits(&self, path: &[impl AsRef<str>], letters: CaseSensitivity) -> Option<usize> {
        // The root is one empty segment where it is written, and none where it was recorded.
        let own = match self.segments.as_slice() {
            [only] if only.is_empty() => &[],
            segments => segments,
        };
        let path = match path {
            [only] if only.as_ref().is_empty() => &[],
            path => path,
        };
        let is_same = |pattern: &str, segment: &str| {
            pattern == "*"
                || pattern == segment
                || (pattern.starts_with('{') && segment.starts_with('{'))
                || (letters == CaseSensitivity::Insensitive
                    && pattern.to_lowercase() == segment.to_lowercase())
        };
        let fits = path.len() >= own.len()
            && (!self.is_whole || path.len() == own.len())
            && own.iter().zip(path).all(|(pattern, segment)| is_same(pattern, segment.as_ref()));
        fits.then_some(own.len() * 2 + usize::from(self.is_whole))
    }
}
