//! In what way a value is not what was expected.

use serde::{Deserialize, Serialize};

/// What kind of difference a mismatch is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum MismatchKind {
    /// A member that has to be there is not.
    Missing,
    /// The value is of another JSON type.
    WrongType,
    /// The value is of none of the forms that are allowed.
    Choice,
    /// The value is none of those that are listed.
    Listed,
    /// The text has too few characters.
    TooShort,
    /// The text has too many characters.
    TooLong,
    /// The number is too small or too great.
    Range,
    /// The list or the object has too few items or members.
    TooFew,
    /// The list or the object has too many items or members.
    TooMany,
    /// The text has not the form that its format or pattern asks for.
    Form,
    /// A member is there that is not known.
    Unknown,
    /// A member is there that is not known, where that is worth a note and breaks nothing.
    Extra,
    /// Another rule is broken.
    Rule,
}

impl MismatchKind {
    /// The words for it, behind a place.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Missing => "missing",
            Self::WrongType => "of the wrong JSON type",
            Self::Choice => "of none of the alternatives",
            Self::Listed => "not one of the listed values",
            Self::TooShort => "too short",
            Self::TooLong => "too long",
            Self::Range => "out of range",
            Self::TooFew => "too few",
            Self::TooMany => "too many",
            Self::Form => "of the wrong format",
            Self::Unknown | Self::Extra => "not known",
            Self::Rule => "against a rule",
        }
    }

    /// Is a value of the right kind there, and breaks a rule?
    #[must_use]
    pub fn is_of_the_value(self) -> bool {
        !matches!(self, Self::Missing | Self::WrongType | Self::Choice | Self::Unknown)
    }
}
