//! `[validation-errors]`: how a response writes the places of a request that are invalid.

/// How invalid locations are written.
#[derive(Debug, Clone, Default)]
pub struct ValidationErrorRule {
    /// The form of a pointer.
    pub pointer: PointerForm,
    /// Where a missing member is named.
    pub missing: PointerTarget,
    /// Where a member that is not known is named.
    pub unknown: PointerTarget,
    /// Where a failed choice of forms is named.
    pub one_of: ChoicePointer,
    /// How the body as a whole is named, where that is not the empty pointer.
    pub root: Option<String>,
    /// The codes that entries may have; none: the contract does not say.
    pub codes: Vec<String>,
}

/// The form of a pointer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum PointerForm {
    /// The contract does not say.
    #[default]
    Either,
    /// `/nights`.
    Plain,
    /// `#/nights`.
    Fragment,
}

/// Where a member that is missing, or not known, is named.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum PointerTarget {
    /// The contract does not say: itself, or its parent.
    #[default]
    Either,
    /// Itself.
    Member,
    /// The object that it is missing in.
    Parent,
}

/// Where a failed choice of forms is named.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum ChoicePointer {
    /// The contract does not say: as a whole, or anywhere in it.
    #[default]
    Either,
    /// As a whole.
    Value,
    /// By the member that tells the forms apart.
    Discriminator(String),
}

impl ValidationErrorRule {
    /// Does the contract say where and how places are named?
    #[must_use]
    pub fn says_where(&self) -> bool {
        self.pointer != PointerForm::Either
            || self.missing != PointerTarget::Either
            || self.unknown != PointerTarget::Either
            || self.one_of != ChoicePointer::Either
    }
}
