//! Where the mappings of a document stand in its text.

use std::ops::Range;

/// A value, and where it stands.
#[derive(Debug)]
pub(super) struct OutlineNode {
    /// From its first byte to behind its last.
    pub(super) span: Range<usize>,
    pub(super) content: Content,
    /// Does it stand elsewhere, too, by an anchor?
    pub(super) is_shared: bool,
}

#[derive(Debug)]
pub(super) enum Content {
    Mapping(Mapping),
    /// A scalar, a list.
    Other,
    /// A value that is not written.
    Empty,
}

#[derive(Debug, Default)]
pub(super) struct Mapping {
    /// Is it in braces?
    pub(super) is_flow: bool,
    pub(super) entries: Vec<Entry>,
}

#[derive(Debug)]
pub(super) struct Entry {
    pub(super) name: String,
    /// Where its key stands.
    pub(super) key: Range<usize>,
    pub(super) value: OutlineNode,
}

impl Mapping {
    pub(super) fn entry(&self, name: &str) -> Option<&Entry> {
        self.entries.iter().find(|entry| entry.name == name)
    }

    /// Does it take in the entries of another mapping?
    pub(super) fn merges(&self) -> bool {
        self.entry("<<").is_some()
    }
}
