//! The outermost form of a success. What its members hold is passed over, since successes are most of a recording.

use std::collections::BTreeSet;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::Number;

use faithful_clerk_model::json::without_mark;

/// So many members are remembered.
const MOST_NAMES: usize = 64;

/// The outermost form of a success, by which two resources can be told apart.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum ResourceShape {
    /// An object with these members.
    Object(BTreeSet<String>),
    /// Anything else, by its kind.
    Other(&'static str),
}

impl ResourceShape {
    /// Can both be the same resource's: half of the members in common?
    #[must_use]
    pub fn resembles(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Object(mine), Self::Object(others)) => {
                let common = mine.intersection(others).count();
                common * 2 >= mine.len().max(others.len())
            }
            (one, other) => one == other,
        }
    }
}

/// The top of a JSON text, and whether one of its members is what stands last in the path: then that is an id.
pub(super) fn read(bytes: &[u8], last: Option<&str>) -> Option<(ResourceShape, bool)> {
    let text = std::str::from_utf8(without_mark(bytes)).ok()?;
    let mut reader = serde_json::Deserializer::from_str(text);
    let top = reader.deserialize_any(ResourceReader { last }).ok()?;
    reader.end().ok()?;
    Some(top)
}

/// Reads the whole.
struct ResourceReader<'l> {
    last: Option<&'l str>,
}

impl<'de> Visitor<'de> for ResourceReader<'_> {
    type Value = (ResourceShape, bool);

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let (mut names, mut echoes) = (BTreeSet::new(), false);
        while let Some(name) = map.next_key::<String>()? {
            echoes |= map.next_value_seed(PathMatch { last: self.last })?;
            if names.len() < MOST_NAMES {
                names.insert(name);
            }
        }
        Ok((ResourceShape::Object(names), echoes))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Self::Value, A::Error> {
        while list.next_element::<IgnoredAny>()?.is_some() {}
        Ok((ResourceShape::Other("array"), false))
    }

    fn visit_bool<E>(self, _: bool) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("a boolean"), false))
    }

    fn visit_i64<E>(self, _: i64) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("a number"), false))
    }

    fn visit_u64<E>(self, _: u64) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("a number"), false))
    }

    fn visit_f64<E>(self, _: f64) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("a number"), false))
    }

    fn visit_str<E>(self, _: &str) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("string"), false))
    }

    fn visit_unit<E>(self) -> Result<Self::Value, E> {
        Ok((ResourceShape::Other("null"), false))
    }
}

/// Compares a member with what stands last in the path.
struct PathMatch<'l> {
    last: Option<&'l str>,
}

impl PathMatch<'_> {
    /// Numbers are only written down where that can be one.
    fn is(&self, number: impl FnOnce() -> Option<Number>) -> bool {
        let number_like = |last: &&str| last.starts_with(|c: char| c == '-' || c.is_ascii_digit());
        self.last
            .filter(number_like)
            .is_some_and(|last| number().is_some_and(|number| number.to_string() == last))
    }
}

impl<'de> DeserializeSeed<'de> for PathMatch<'_> {
    type Value = bool;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<bool, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for PathMatch<'_> {
    type Value = bool;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<bool, A::Error> {
        while map.next_entry::<IgnoredAny, IgnoredAny>()?.is_some() {}
        Ok(false)
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<bool, A::Error> {
        while list.next_element::<IgnoredAny>()?.is_some() {}
        Ok(false)
    }

    fn visit_bool<E>(self, _: bool) -> Result<bool, E> {
        Ok(false)
    }

    fn visit_i64<E>(self, number: i64) -> Result<bool, E> {
        Ok(self.is(|| Some(number.into())))
    }

    fn visit_u64<E>(self, number: u64) -> Result<bool, E> {
        Ok(self.is(|| Some(number.into())))
    }

    fn visit_f64<E>(self, number: f64) -> Result<bool, E> {
        Ok(self.is(|| Number::from_f64(number)))
    }

    fn visit_str<E>(self, text: &str) -> Result<bool, E> {
        Ok(self.last == Some(text))
    }

    fn visit_unit<E>(self) -> Result<bool, E> {
        Ok(false)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_top_is_known_without_what_is_in_it() {
        let object =
            |names: &[&str]| ResourceShape::Object(names.iter().map(|n| (*n).to_owned()).collect());
        for (text, last, top) in [
            (r#"{"id":"B-1","in":{"x":[1,{"y":2}]}}"#, "B-1", Some((object(&["id", "in"]), true))),
            (r#"{"id":7,"list":["7"]}"#, "7", Some((object(&["id", "list"]), true))),
            (r#"{"id":7.5,"list":[7]}"#, "7", Some((object(&["id", "list"]), false))),
            (r#"{"id":7.5}"#, "7.5", Some((object(&["id"]), true))),
            (r#"{"id":-7,"id":null}"#, "-7", Some((object(&["id"]), true))),
            (r#"{"in":{"id":"B-1"}}"#, "B-1", Some((object(&["in"]), false))),
            ("\u{feff}[1,[2]]", "1", Some((ResourceShape::Other("array"), false))),
            ("\"B-1\"", "B-1", Some((ResourceShape::Other("string"), false))),
            ("null", "", Some((ResourceShape::Other("null"), false))),
            ("-1.5e3", "", Some((ResourceShape::Other("a number"), false))),
            (r#"{"id":1}}"#, "1", None),
            (r#"{"id":1"#, "1", None),
            ("", "", None),
        ] {
            assert_eq!(read(text.as_bytes(), Some(last)), top, "{text}");
        }
        let deep = format!("{{\"a\":{}{}}}", "[".repeat(5000), "]".repeat(5000));
        assert_eq!(read(deep.as_bytes(), None), Some((object(&["a"]), false)));
        assert_eq!(read(b"\"\xff\"", None), None);
    }
}
