//! What a clause rests on.

use std::fmt;

/// A source: a section of a standard, or the contract.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Basis {
    /// A section of an RFC.
    Rfc {
        /// The RFC's number.
        number: u16,
        /// The section, such as `3.1.2`.
        section: &'static str,
    },
    /// A key of the contract.
    Contract(&'static str),
}

impl Basis {
    pub(super) const fn rfc(number: u16, section: &'static str) -> Self {
        Self::Rfc { number, section }
    }
}

impl fmt::Display for Basis {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Rfc { number, section } => write!(f, "RFC {number} section {section}"),
            Self::Contract(key) => write!(f, "the contract's `{key}`"),
        }
    }
}
