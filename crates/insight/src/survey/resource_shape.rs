//! The outermost form of a success. What its members hold is passed over, since successes are most of a recording.

use std::borrow::Cow;
use std::cell::{Cell, RefCell};
use std::collections::{BTreeSet, HashMap};
use std::fmt;
use std::sync::LazyLock;

use foldhash::fast::FixedState;

use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Serialize};
use serde_json::Number;

use super::borrowed_name::BorrowedName;
use super::given_names::GivenNames;
use faithful_clerk_model::json::without_mark;

/// So many members are remembered.
const MOST_NAMES: usize = 64;

/// The form of a success, by which two resources can be told apart. An envelope is taken off.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum ResourceShape {
    /// An object with these members.
    Object(BTreeSet<String>),
    /// A list, whose first item has these members.
    List(BTreeSet<String>),
    /// Anything else, by its kind.
    Other(Cow<'static, str>),
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

/// What is known of a member by its name.
#[derive(Clone, Copy, Default)]
struct MemberRole {
    is_payload: bool,
    is_metadata: bool,
    is_identifier: bool,
    /// A link of a thing to itself.
    is_self_link: bool,
    /// What is below it may tell of the thing, too.
    is_telling: bool,
}

impl MemberRole {
    fn of(name: &str) -> Self {
        static ROLES: LazyLock<HashMap<&str, MemberRole, FixedState>> = LazyLock::new(|| {
            let mut roles: HashMap<&str, MemberRole, FixedState> = HashMap::default();
            PAYLOADS.iter().for_each(|name| roles.entry(name).or_default().is_payload = true);
            METADATA.iter().for_each(|name| roles.entry(name).or_default().is_metadata = true);
            IDENTIFIERS.iter().for_each(|name| roles.entry(name).or_default().is_identifier = true);
            SELF_LINKS.iter().for_each(|name| roles.entry(name).or_default().is_self_link = true);
            ["owner", "_links"]
                .iter()
                .for_each(|name| roles.entry(name).or_default().is_telling = true);
            roles
        });
        ROLES.get(name).copied().unwrap_or_default()
    }
}

/// What a success is, and which segments of its path come back in it, by their distance from the last.
pub(super) struct ObservedResource<'b> {
    pub(super) shape: ReadShape<'b>,
    pub(super) echoes: BTreeSet<u8>,
}

/// The form of a success, its names where they stand.
pub(super) enum ReadShape<'b> {
    Object(Vec<Cow<'b, str>>),
    List(Vec<Cow<'b, str>>),
    Other(&'static str),
}

impl ReadShape<'_> {
    /// Is it this shape?
    pub(super) fn is(&self, shape: &ResourceShape) -> bool {
        let has = |mine: &[Cow<'_, str>], names: &BTreeSet<String>| {
            mine.len() == names.len() && mine.iter().all(|name| names.contains(name.as_ref()))
        };
        match (self, shape) {
            (Self::Object(mine), ResourceShape::Object(names))
            | (Self::List(mine), ResourceShape::List(names)) => has(mine, names),
            (Self::Other(mine), ResourceShape::Other(kind)) => mine == kind,
            _ => false,
        }
    }

    /// The same, to be kept.
    pub(super) fn kept(self) -> ResourceShape {
        let names = |names: Vec<Cow<'_, str>>| names.into_iter().map(Cow::into_owned).collect();
        match self {
            Self::Object(mine) => ResourceShape::Object(names(mine)),
            Self::List(mine) => ResourceShape::List(names(mine)),
            Self::Other(kind) => ResourceShape::Other(kind.into()),
        }
    }
}

/// The resource in a JSON text. `segments` are those of the path, the last one last.
pub(super) fn read<'b>(
    bytes: &'b [u8],
    segments: &[String],
    names: &mut GivenNames,
) -> Option<ObservedResource<'b>> {
    let text = std::str::from_utf8(without_mark(bytes)).ok()?;
    let mut reader = serde_json::Deserializer::from_str(text);
    let (echoes, names) = (RefCell::new(BTreeSet::new()), RefCell::new(names));
    let (echoes_of, names_of) = (&echoes, &names);
    let top = ResourceReader {
        segments,
        echoes: echoes_of,
        names: names_of,
        named: &Cell::new(0),
        is_item: false,
        keeps: true,
        depth: 0,
    };
    let value = reader.deserialize_any(top).ok()?;
    reader.end().ok()?;
    Some(ObservedResource { shape: value.without_envelope(), echoes: echoes.into_inner() })
}

/// What was read at one place.
enum ReadValue<'b> {
    /// An object: its members, and the first of them that holds something.
    Object(Vec<Cow<'b, str>>, Option<Box<(Cow<'b, str>, Self)>>),
    List(Option<Box<Self>>),
    Other(&'static str),
}

impl<'b> ReadValue<'b> {
    /// The resource without an envelope: where the others only say something of the response, what one member holds.
    fn without_envelope(self) -> ReadShape<'b> {
        match self {
            Self::Object(names, Some(inner)) => {
                let (holder, value) = *inner;
                let mut others = names.iter().filter(|name| **name != holder);
                let is_alone = others.all(|name| MemberRole::of(name).is_metadata);
                let is_payload = MemberRole::of(&holder).is_payload;
                match is_alone && (is_payload || names.len() == 1) {
                    true => value.plain(),
                    false => ReadShape::Object(names),
                }
            }
            other => other.plain(),
        }
    }

    fn plain(self) -> ReadShape<'b> {
        match self {
            Self::Object(names, _) => ReadShape::Object(names),
            Self::List(Some(first)) => match *first {
                Self::Object(names, _) => ReadShape::List(names),
                _ => ReadShape::Other("array"),
            },
            Self::List(None) => ReadShape::List(Vec::new()),
            Self::Other(kind) => ReadShape::Other(kind),
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
struct ResourceReader<'l, 'n> {
    segments: &'l [String],
    echoes: &'l RefCell<BTreeSet<u8>>,
    names: &'l RefCell<&'n mut GivenNames>,
    /// How many names were taken in.
    named: &'l Cell<usize>,
    /// Is it in a list?
    is_item: bool,
    /// Are the names of its members kept?
    keeps: bool,
    depth: u8,
}

impl<'de> DeserializeSeed<'de> for ResourceReader<'_, '_> {
    type Value = ReadValue<'de>;

    fn deserialize<D: Deserializer<'de>>(
        self,
        deserializer: D,
    ) -> Result<ReadValue<'de>, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for ResourceReader<'_, '_> {
    type Value = ReadValue<'de>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<ReadValue<'de>, A::Error> {
        if self.depth > MOST_NESTED {
            while map.next_entry::<IgnoredAny, IgnoredAny>()?.is_some() {}
            return Ok(ReadValue::Object(Vec::new(), None));
        }
        let (mut names, mut inner) = (Vec::new(), None);
        while let Some(name) = map.next_key_seed(BorrowedName)? {
            let role = MemberRole::of(&name);
            // What holds the thing itself, or may.
            let is_payload = role.is_payload;
            let is_looked_at = is_payload || (inner.is_none() && !role.is_metadata);
            let is_identifier = role.is_identifier;
            // At the top any member may be the id, inside only what is called like one.
            // Everything has a link to itself, names too; an entry of a list is one of many.
            let is_link = self.is_item && role.is_self_link;
            let is_telling = is_identifier || is_link || role.is_telling;
            if is_looked_at || self.depth == 0 || is_telling {
                let keeps = self.keeps && is_looked_at;
                let below = Self { depth: self.depth + 1, keeps, ..self };
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
            if self.keeps && names.len() < MOST_NAMES && !names.contains(&name) {
                names.push(name);
            }
        }
        Ok(ReadValue::Object(names, inner))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<ReadValue<'de>, A::Error> {
        // What is in a list is many things, and none of them was asked for by its name.
        let depth = self.depth + 1;
        let below = ResourceReader { segments: &[], is_item: true, depth, ..self };
        let before = self.named.get();
        let first = list.next_element_seed(below)?;
        let others = ResourceReader { keeps: false, ..below };
        // Where the first has no name, others have none either.
        let mut looked_at = if self.named.get() > before { 1 } else { MOST_ITEMS };
        while looked_at < MOST_ITEMS && list.next_element_seed(others)?.is_some() {
            looked_at += 1;
        }
        while list.next_element::<IgnoredAny>()?.is_some() {}
        Ok(ReadValue::List(first.map(Box::new)))
    }

    fn visit_bool<E>(self, _: bool) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("a boolean"))
    }

    fn visit_i64<E>(self, _: i64) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_u64<E>(self, _: u64) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_f64<E>(self, _: f64) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("a number"))
    }

    fn visit_str<E>(self, _: &str) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("string"))
    }

    fn visit_unit<E>(self) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("null"))
    }
}

/// Reads a member, and compares it with the segments of the path.
struct MemberReader<'l, 'n> {
    of: ResourceReader<'l, 'n>,
    is_top: bool,
    is_identifier: bool,
    is_link: bool,
}

impl MemberReader<'_, '_> {
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

impl<'de> DeserializeSeed<'de> for MemberReader<'_, '_> {
    type Value = ReadValue<'de>;

    fn deserialize<D: Deserializer<'de>>(
        self,
        deserializer: D,
    ) -> Result<ReadValue<'de>, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for MemberReader<'_, '_> {
    type Value = ReadValue<'de>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<ReadValue<'de>, A::Error> {
        self.of.visit_map(map)
    }

    fn visit_seq<A: SeqAccess<'de>>(self, list: A) -> Result<ReadValue<'de>, A::Error> {
        self.of.visit_seq(list)
    }

    fn visit_bool<E>(self, _: bool) -> Result<ReadValue<'de>, E> {
        Ok(ReadValue::Other("a boolean"))
    }

    fn visit_i64<E>(self, number: i64) -> Result<ReadValue<'de>, E> {
        self.compare_number(|| Some(number.into()));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_u64<E>(self, number: u64) -> Result<ReadValue<'de>, E> {
        self.compare_number(|| Some(number.into()));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_f64<E>(self, number: f64) -> Result<ReadValue<'de>, E> {
        self.compare_number(|| Number::from_f64(number));
        Ok(ReadValue::Other("a number"))
    }

    fn visit_str<E>(self, text: &str) -> Result<ReadValue<'de>, E> {
        // `owner/name` is both.
        self.compare(|segment| !segment.is_empty() && text.split('/').any(|part| part == segment));
        let mut names = self.of.names.borrow_mut();
        let noted = match (self.is_identifier, self.is_link) {
            (true, _) => text.split('/').filter(|part| names.note_identifier(part)).count(),
            (false, true) => usize::from(names.note_link(text)),
            (false, false) => 0,
        };
        self.of.named.set(self.of.named.get() + noted);
        Ok(ReadValue::Other("string"))
    }

    fn visit_unit<E>(self) -> Result<ReadValue<'de>, E> {
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
        Some((read.shape.kept(), read.echoes.into_iter().collect()))
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
            ("\u{feff}[1,[2]]", "1", ResourceShape::Other("array".into()), vec![]),
            ("\"B-1\"", "B-1", ResourceShape::Other("string".into()), vec![]),
            ("null", "", ResourceShape::Other("null".into()), vec![]),
        ] {
            assert_eq!(read_at(text, path), Some((shape, echoes)), "{text}");
        }
        for text in [r#"{"id":1}}"#, r#"{"id":1"#, ""] {
            assert_eq!(read_at(text, "1"), None, "{text}");
        }
        let deep = format!("{{\"a\":{}{}}}", "[".repeat(100), "]".repeat(100));
        assert!(read_at(&deep, "x").is_some());
        assert!(read(b"\"\xff\"", &[], &mut GivenNames::default()).is_none());
    }
}
