//! Hashes that are the same in every build and on every machine, so that a ledger may hold them.

use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer, de};
use xxhash_rust::xxh3::xxh3_64_with_seed;

/// The XXH3 hash of some texts, one after the other; where one ends and the next begins makes a difference.
///
/// It finds what is equal, and keeps nobody from making two texts of one hash.
///
/// ```
/// use faithful_clerk_model::stable_hash::StableHash;
///
/// assert_ne!(StableHash::of(["berths", "7"]), StableHash::of(["berths7"]));
/// assert_eq!(StableHash::of(["berths", "7"]).to_string().len(), 16);
/// ```
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct StableHash(u64);

impl StableHash {
    /// The last of all.
    pub const LAST: Self = Self(u64::MAX);

    /// The hash of some texts.
    #[must_use]
    pub fn of<T: AsRef<[u8]>>(texts: impl IntoIterator<Item = T>) -> Self {
        let add = |before, text: T| xxh3_64_with_seed(text.as_ref(), before);
        Self(texts.into_iter().fold(0, add))
    }
}

/// In 16 hexadecimal digits.
impl fmt::Display for StableHash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:016x}", self.0)
    }
}

/// As text: not every reader of JSON holds a number of 64 bits.
impl Serialize for StableHash {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for StableHash {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = <std::borrow::Cow<'de, str>>::deserialize(deserializer)?;
        let hash = u64::from_str_radix(&text, 16).ok().filter(|_| text.len() == 16);
        hash.map(Self).ok_or_else(|| de::Error::custom("a hash that is not 16 hexadecimal digits"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By the definition of XXH3: another value would make ledgers of two builds disagree.
    #[test]
    fn hashes_are_those_of_the_algorithm() {
        assert_eq!(StableHash::of([""]).to_string(), "2d06800538d394c2");
        assert_eq!(StableHash::of(["harbour"]), StableHash::of([b"harbour"]));
        assert_ne!(StableHash::of(["har", "bour"]), StableHash::of(["harb", "our"]));
        let text = serde_json::to_string(&StableHash::of(["a"])).unwrap();
        assert_eq!(serde_json::from_str::<StableHash>(&text).unwrap(), StableHash::of(["a"]));
        for wrong in ["\"12\"", "\"00000000000000zz\"", "7", "null"] {
            assert!(serde_json::from_str::<StableHash>(wrong).is_err(), "{wrong}");
        }
    }
}
