//! Names of members, read without a copy where they stand in the text as they are.

use std::borrow::Cow;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, Visitor};

/// Reads a member's name, where it stands if it can be.
#[derive(Debug, Clone, Copy)]
pub(crate) struct BorrowedName;

impl<'de> DeserializeSeed<'de> for BorrowedName {
    type Value = Cow<'de, str>;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<Cow<'de, str>, D::Error> {
        deserializer.deserialize_str(self)
    }
}

impl<'de> Visitor<'de> for BorrowedName {
    type Value = Cow<'de, str>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a name")
    }

    fn visit_borrowed_str<E>(self, name: &'de str) -> Result<Cow<'de, str>, E> {
        Ok(Cow::Borrowed(name))
    }

    fn visit_str<E>(self, name: &str) -> Result<Cow<'de, str>, E> {
        Ok(Cow::Owned(name.to_owned()))
    }
}
