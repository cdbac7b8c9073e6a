//! The outermost form of a success. What its members hold is passed over, since successes are most of a recording.

use std::cell::RefCell;
use std::collections::BTreeSet;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::Number;

use super::given_names::GivenNames;
use faithful_clerk_model::json::without_mark;

/// So many members are remembered.
const MOST_NAMES: usize = 64;

/// The form of a success, by which two resources can be told apart. An envelope is taken off.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum ResourceShape {
    /// An object with these members.
    Object(BTreeSet<String>),
    /// A list, whose first item has these members.
    List(BTreeSet<String>),
    /// Anything else, by its kind.
    Other(&'static str),
}

impl ResourceShape {
    /// Can both be the same resource's: half of the members in common?
    #[must_use]
    pub fn resembles(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::List(mine), Self::List(others)) if mine.is_empty() || others.is_empty() => true,
            (Self::Object(mine), Self::Object(others)) | (Self::List(mine), Self::List(others)) => {
                let common = mine.intersection(others).count();
                common * 2 >= mine.len().max(others.len())
            }
            (one, other) => one == other,
        }
    }
}

/// Members that hold what was asked for.
const PAYLOADS: [&str; 14] = [
    "data", "item", "items", "result", "results", "payload", "response", "content", "contents",
    "record", "records", "value", "values", "entries",
];

/// Members that say something of the response, or of the whole list.
const METADATA: [&str; 30] = [
    "meta",
    "metadata",
    "links",
    "_links",
    "link",
    "pagination",
    "paging",
    "page",
    "pages",
    "total",
    "count",
    "limit",
    "offset",
    "size",
    "next",
    "previous",
    "prev",
    "cursor",
    "has_more",
    "hasMore",
    "status",
    "success",
    "ok",
    "message",
    "error",
    "errors",
    "included",
    "jsonapi",
    "request_id",
    "timestamp",
];

/// Members by which a thing is asked for.
const IDENTIFIERS: [&str; 16] = [
    "id",
    "_id",
    "uuid",
    "key",
    "slug",
    "name",
    "full_name",
    "fullName",
    "login",
    "username",
    "handle",
    "code",
    "number",
    "ref",
    "path",
    "uri",
];

/// What a success is, and which segments of its path come back in it, by their distance from the last.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct ObservedResource {
    pub(super) shape: ResourceShape,
    pub(super) echoes: BTreeSet<u8>,
}

/// The resource in a JSON text. `segments` are those of the path, the last one last.
pub(super) fn read(
    bytes: &[u8],
    segments: &[String],
    names: &mut GivenNames,
) -> Option<ObservedResource> {
    let text = std::str::from_utf8(without_mark(bytes)).ok()?;
    let mut reader = serde_json::Deserializer::from_str(text);
    let (echoes, names) = (RefCell::new(BTreeSet::new()), RefCell::new(names));
    let top = ResourceReader { segments, echoes: &echoes, names: &names, is_item: false, depth: 0 };
    let value = reader.deserialize_any(top).ok()?;
    reader.end().ok()?;
    Some(ObservedResource { shape: value.without_envelope(), echoes: echoes.into_inner() })
}

/// What was read at one place.
enum ReadValue {
    /// An object: its members, and the first of them that holds something.
    Object(BTreeSet<String>, Option<Box<(String, Self)>>),
    List(Option<Box<Self>>),
    Other(&'static str),
}

impl ReadValue {
    /// The resource without an envelope: where the others only say something of the response, what one member holds.
    fn without_envelope(self) -> ResourceShape {
        match self {
            Self::Object(names, Some(inner)) => {
                let (holder, value) = *inner;
                let others = names.iter().filter(|name| **name != holder);
                let is_alone = others.into_iter().all(|name| METADATA.contains(&name.as_str()));
                let is_payload = PAYLOADS.contains(&holder.as_str());
                match is_alone && (is_payload || names.len() == 1) {
                    true => value.plain(),
                    false => ResourceShape::Object(names),
                }
            }
            other => other.plain(),
        }
    }

    fn plain(self) -> ResourceShape {
        match self {
            Self::Object(names, _) => ResourceShape::Object(names),
            Self::List(Some(first)) => match *first {
                Self::Object(names, _) => ResourceShape::List(names),
                _ => ResourceShape::Other("array"),
            },
            Self::List(None) => ResourceShape::List(BTreeSet::new()),
            Self::Other(kind) => ResourceShape::Other(kind),
        }
    }
}

/// Objects inside of objects are looked at so deep for what comes back.
const MOST_NESTED: u8 = 2;

/// Members with the link of a thing to itself.
const SELF_LINKS: [&str; 4] = ["self", "href", "@id", "url"];

/// Of a list, so many items are looked at for the names of things.
const MOST_ITEMS: usize = 32;

/// Reads a value, and keeps which segments come back in it, and what it calls things.
#[derive(Clone, Copy)]
struct ResourceReader<'l> {
    segments: &'l [String],
    echoes: &'l RefCell<BTreeSet<u8>>,
    names: &'l RefCell<&'l mut GivenNames>,
    /// Is it in a list?
    is_item: bool,
    depth: u8,
}

impl<'de> DeserializeSeed<'de> for ResourceReader<'_> {
    type Value = ReadValue;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<ReadValue, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for ResourceReader<'_> {
    type Value = ReadValue;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<ReadValue, A::Error> {
        if self.depth > MOST_NESTED {
            while map.next_entry::<IgnoredAny, IgnoredAny>()?.is_some() {}
            return Ok(ReadValue::Object(BTreeSet::new(), None));
        }
        let (mut names, mut inner) = (BTreeSet::new(), None);
        while let Some(name) = map.next_key::<String>()? {
            // What holds the thing itself, or may.
            let is_payload = PAYLOADS.contains(&name.as_str());
            let is_looked_at =
                is_payload || (inner.is_none() && !METADATA.contains(&name.as_str()));
            let is_identifier = IDENTIFIERS.contains(&name.as_str());
            // At the top any member may be the id, inside only what is called like one.
            // Everything has a link to itself, names too; an entry of a list is one of many.
            let is_link = self.is_item && SELF_LINKS.contains(&name.as_str());
            let is_telling = is_identifier || is_link || name == "owner" || name == "_links";
            if is_looked_at || self.depth == 0 || is_telling {
                let below = Self { depth: self.depth + 1, ..self };
                let is_top = self.depth == 0;
                let matching = MemberReader { of: below, is_top, is_identifier, is_link };
                let value = map.next_value_seed(matching)?;
                let holds = matches!(value, ReadValue::Object(..) | ReadValue::List(_));
                if is_looked_at && holds && (inner.is_none() || is_payload) {
                    inner = Some(Box::new((name.clone(), value)));
                }
            } else {
                map.next_value::<IgnoredAny>()?;
            }
            if names.len() < MOST_NAMES {
                names.insert(name);
            }
        }
        Ok(ReadValue::Object(names, inner))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<ReadValue, A::Error> {
        // What is in a list is many things, and none of them was asked for by its name.
        let depth = self.depth + 1;
        let below = ResourceReader { segments: &[], is_item: true, depth, ..self };
        let first = list.next_element_seed(below)?;
        let mut looked_at = 1;
        while looked_at < MOST_ITEMS && list.next_element_seed(below)?.is_some() {
            looked_at += 1;
        }
        while list.next_element::<IgnoredAny>()?.is_some() {}
        Ok(ReadValue::List(first.map(Box::new)))
    }

    fn visit_bool<E>(self, _: bool) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("a boolean"))
    }

    fn visit_i64<E>(self, _: i64) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_u64<E>(self, _: u64) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_f64<E>(self, _: f64) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_str<E>(self, _: &str) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("string"))
    }

    fn visit_unit<E>(self) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("null"))
    }
}

/// Reads a member, and compares it with the segments of the path.
struct MemberReader<'l> {
    of: ResourceReader<'l>,
    is_top: bool,
    is_identifier: bool,
    is_link: bool,
}

impl MemberReader<'_> {
    /// At the top any member may be what stands last in the path; what stands before it, and what is inside, only
    /// under a name that says so.
    fn compare(&self, is: impl Fn(&str) -> bool) {
        for (distance, segment) in (0..).zip(self.of.segments.iter().rev()) {
            let counts = self.is_identifier || (self.is_top && distance == 0);
            if counts && is(segment) {
                self.of.echoes.borrow_mut().insert(distance);
            }
        }
    }

    /// Numbers are only written down where they can be one.
    fn compare_number(&self, number: impl FnOnce() -> Option<Number>) {
        let is_like = |one: &String| one.starts_with(|c: char| c == '-' || c.is_ascii_digit());
        if self.of.segments.iter().any(is_like)
            && let Some(number) = number()
        {
            let text = number.to_string();
            self.compare(|segment| segment == text);
        }
    }
}

impl<'de> DeserializeSeed<'de> for MemberReader<'_> {
    type Value = ReadValue;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<ReadValue, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for MemberReader<'_> {
    type Value = ReadValue;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<ReadValue, A::Error> {
        self.of.visit_map(map)
    }

    fn visit_seq<A: SeqAccess<'de>>(self, list: A) -> Result<ReadValue, A::Error> {
        self.of.visit_seq(list)
    }

    fn visit_bool<E>(self, _: bool) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("a boolean"))
    }

    fn visit_i64<E>(self, number: i64) -> Result<ReadValue, E> {
        self.compare_number(|| Some(number.into()));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_u64<E>(self, number: u64) -> Result<ReadValue, E> {
        self.compare_number(|| Some(number.into()));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_f64<E>(self, number: f64) -> Result<ReadValue, E> {
        self.compare_number(|| Number::from_f64(number));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_str<E>(self, text: &str) -> Result<ReadValue, E> {
        // `owner/name` is both.
        self.compare(|segment| !segment.is_empty() && text.split('/').any(|part| part == segment));
        if self.is_identifier {
            text.split('/').for_each(|part| self.of.names.borrow_mut().note_identifier(part));
        } else if self.is_link {
            self.of.names.borrow_mut().note_link(text);
        }
        Ok(ReadValue::Other("string"))
    }

    fn visit_unit<E>(self) -> Result<ReadValue, E> {
        Ok(ReadValue::Other("null"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(names: &[&str]) -> BTreeSet<String> {
        names.iter().map(|name| (*name).to_owned()).collect()
    }

    fn read_at(text: &str, path: &str) -> Option<(ResourceShape, Vec<u8>)> {
        let segments: Vec<String> = path.split('/').map(str::to_owned).collect();
        let read = read(text.as_bytes(), &segments, &mut GivenNames::default())?;
        Some((read.shape, read.echoes.into_iter().collect()))
    }

    #[test]
    fn the_resource_is_known_without_its_envelope() {
        let object = |all: &[&str]| ResourceShape::Object(names(all));
        let list = |all: &[&str]| ResourceShape::List(names(all));
        for (text, path, shape, echoes) in [
            (r#"{"id":"B-1","in":{"x":[1,{"y":2}]}}"#, "B-1", object(&["id", "in"]), vec![0]),
            (r#"{"id":7,"list":["7"]}"#, "7", object(&["id", "list"]), vec![0]),
            (r#"{"id":7.5,"list":[7]}"#, "7", object(&["id", "list"]), vec![]),
            (r#"{"id":7.5}"#, "7.5", object(&["id"]), vec![0]),
            (r#"{"port":"oban","quays":3}"#, "oban", object(&["port", "quays"]), vec![0]),
            // An envelope: by its name, by what else there is, or because there is nothing else.
            (r#"{"data":{"id":"B-1","length":2}}"#, "B-1", object(&["id", "length"]), vec![0]),
            (r#"{"data":{"slug":"oban"},"meta":{"at":1}}"#, "oban", object(&["slug"]), vec![0]),
            (r#"{"boat":{"id":7,"name":"Tern"}}"#, "boats/7", object(&["id", "name"]), vec![0]),
            (r#"{"items":[{"id":1,"x":2}],"total":1}"#, "boats", list(&["id", "x"]), vec![]),
            (r#"{"data":[],"meta":{}}"#, "boats", list(&[]), vec![]),
            (r#"{"data":[{"name":"boats"}],"total":1}"#, "boats", list(&["name"]), vec![]),
            (r#"{"data":{"id":1},"boat":2}"#, "x", object(&["boat", "data"]), vec![]),
            // Two segments in one member, or in two.
            (
                r#"{"full_name":"ida/tern","size":1}"#,
                "ida/tern",
                object(&["full_name", "size"]),
                vec![0, 1],
            ),
            (
                r#"{"name":"tern","owner":{"login":"ida"}}"#,
                "ida/tern",
                object(&["name", "owner"]),
                vec![0, 1],
            ),
            // What is deep inside is called like an id, or is none.
            (r#"{"a":1,"in":{"kind":"open"}}"#, "open", object(&["a", "in"]), vec![]),
            ("[{\"id\":1}]", "1", list(&["id"]), vec![]),
            ("\u{feff}[1,[2]]", "1", ResourceShape::Other("array"), vec![]),
            ("\"B-1\"", "B-1", ResourceShape::Other("string"), vec![]),
            ("null", "", ResourceShape::Other("null"), vec![]),
        ] {
            assert_eq!(read_at(text, path), Some((shape, echoes)), "{text}");
        }
        for text in [r#"{"id":1}}"#, r#"{"id":1"#, ""] {
            assert_eq!(read_at(text, "1"), None, "{text}");
        }
        let deep = format!("{{\"a\":{}{}}}", "[".repeat(100), "]".repeat(100));
        assert!(read_at(&deep, "x").is_some());
        assert_eq!(read(b"\"\xff\"", &[], &mut GivenNames::default()), None);
    }
}
