//! What a disclosure looks like; the tables beside this file have one for each.

use faithful_clerk_model::finding::DisclosureKind;

/// What a disclosure looks like.
#[derive(Debug, Clone, Copy)]
pub(super) struct DisclosurePattern {
    pub kind: DisclosureKind,
    /// What it is, in few words.
    pub(super) what: &'static str,
    pub(super) regex: &'static str,
    pub(super) literals: Needs,
}

/// Literals, one of which is in whatever a pattern matches.
pub(super) type Needs = &'static [&'static str];
