//! What an entry is made of, with the few texts that tell what the others are.

use std::borrow::Cow;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, MapAccess, SeqAccess, Visitor};

use super::entry::PathStep;
use faithful_clerk_model::json::MemberName;

/// Members whose text tells what stands beside them.
const TELLING: [&str; 3] = ["name", "mimeType", "encoding"];

/// A value, without the texts of most members.
#[derive(Debug)]
pub(super) enum EntryOutline<'t> {
    /// Members by name, those of one name in their order: what looks like header fields may be a million.
    Object(Vec<(Cow<'t, str>, Self)>),
    List(Vec<Self>),
    Text(Cow<'t, str>),
    Number(u64),
    Other,
}

impl<'t> EntryOutline<'t> {
    /// The outline of a JSON text.
    pub(super) fn read(text: &'t str) -> Option<Self> {
        let mut reader = serde_json::Deserializer::from_str(text);
        let outline = OutlineSeed { keeps: false }.deserialize(&mut reader).ok()?;
        reader.end().ok()?;
        Some(outline)
    }

    /// One step further.
    pub(super) fn step(&self, step: &PathStep<'_>) -> Option<&Self> {
        match (self, step) {
            (_, PathStep::Member(name)) => self.member(name),
            (Self::List(items), PathStep::Item(at)) => items.get(*at),
            _ => None,
        }
    }

    /// The member of a name. Of several, the last counts, as it does for those who read JSON.
    pub(super) fn member(&self, name: &str) -> Option<&Self> {
        let Self::Object(members) = self else { return None };
        let behind = members.partition_point(|(known, _)| **known <= *name);
        let (known, value) = members.get(behind.checked_sub(1)?)?;
        (known == name).then_some(value)
    }

    pub(super) fn text(&self) -> Option<&str> {
        if let Self::Text(text) = self { Some(text) } else { None }
    }

    pub(super) fn number(&self) -> Option<u64> {
        if let Self::Number(number) = self { Some(*number) } else { None }
    }
}

/// Reads a value; its text is kept if it tells something.
struct OutlineSeed {
    keeps: bool,
}

impl<'de> DeserializeSeed<'de> for OutlineSeed {
    type Value = EntryOutline<'de>;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<Self::Value, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for OutlineSeed {
    type Value = EntryOutline<'de>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut members = Vec::new();
        while let Some(MemberName(name)) = map.next_key()? {
            let keeps = TELLING.contains(&&*name);
            members.push((name, map.next_value_seed(Self { keeps })?));
        }
        members.sort_by(|(one, _), (other, _)| one.cmp(other));
        Ok(EntryOutline::Object(members))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Self::Value, A::Error> {
        let mut items = Vec::new();
        while let Some(item) = list.next_element_seed(Self { keeps: false })? {
            items.push(item);
        }
        Ok(EntryOutline::List(items))
    }

    fn visit_borrowed_str<E>(self, text: &'de str) -> Result<Self::Value, E> {
        Ok(if self.keeps { EntryOutline::Text(Cow::Borrowed(text)) } else { EntryOutline::Other })
    }

    fn visit_str<E>(self, text: &str) -> Result<Self::Value, E> {
        Ok(if self.keeps {
            EntryOutline::Text(Cow::Owned(text.to_owned()))
        } else {
            EntryOutline::Other
        })
    }

    fn visit_u64<E>(self, number: u64) -> Result<Self::Value, E> {
        Ok(EntryOutline::Number(number))
    }

    fn visit_i64<E>(self, _: i64) -> Result<Self::Value, E> {
        Ok(EntryOutline::Other)
    }

    fn visit_f64<E>(self, _: f64) -> Result<Self::Value, E> {
        Ok(EntryOutline::Other)
    }

    fn visit_bool<E>(self, _: bool) -> Result<Self::Value, E> {
        Ok(EntryOutline::Other)
    }

    fn visit_unit<E>(self) -> Result<Self::Value, E> {
        Ok(EntryOutline::Other)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_tells_is_kept_and_the_last_member_of_a_name_counts() {
        let text = r#"{"response":{"status":404,"headers":[{"name":"A","value":"x"},{"name":"B","n\u0061me":"C"}]}}"#;
        let outline = EntryOutline::read(text).unwrap();
        let response = outline.member("response").unwrap();
        assert_eq!(response.member("status").unwrap().number(), Some(404));
        let headers = response.member("headers").unwrap();
        let field = |at| headers.step(&PathStep::Item(at)).unwrap();
        assert_eq!(field(0).member("name").unwrap().text(), Some("A"));
        assert_eq!(field(0).member("value").unwrap().text(), None);
        assert_eq!(field(1).member("name").unwrap().text(), Some("C"));
        assert!(headers.member("name").is_none() && headers.step(&PathStep::Item(2)).is_none());
        for broken in ["{", "{}}", "", r#"{"a":"\ud800"}"#, &"[".repeat(1000)] {
            assert!(EntryOutline::read(broken).is_none(), "{broken}");
        }
    }
}
