//! Finds what stands at some JSON Pointers of a text, in one pass for each level that they go through. The rest is passed
//! over unread.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt;
use std::ops::Range;

use faithful_clerk_model::json::pointer;
use serde::Deserialize;
use serde::de::{self, DeserializeSeed, Deserializer, IgnoredAny, MapAccess, Visitor};
use serde_json::value::RawValue as RawJson;

/// More exchanges than this are in no line.
const MOST_ITEMS: usize = 1 << 16;

/// A JSON Pointer (RFC 6901) of a map.
///
/// A step into an array is an index, or the name of an element: of `{"key": "url.path", "value": …}` it is `url.path`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct MapPointer(pub(super) Vec<String>);

impl fmt::Display for MapPointer {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&pointer::from_tokens(&self.0))
    }
}

impl MapPointer {
    pub(super) fn read(text: &str) -> Result<Self, String> {
        let tokens = pointer::tokens(text).filter(|_| !text.starts_with('#'));
        tokens.map(Self).ok_or_else(|| {
            format!("`{text}` is not a JSON Pointer: it starts with `/`, as in `/request/method`")
        })
    }
}

impl<'de> Deserialize<'de> for MapPointer {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        Self::read(&String::deserialize(from)?).map_err(de::Error::custom)
    }
}

/// Several pointers, as a tree of their steps.
#[derive(Debug, Clone, Default)]
pub(super) struct PointerTree {
    /// The numbers of the pointers that end here.
    ends: Vec<usize>,
    steps: BTreeMap<String, Self>,
}

impl PointerTree {
    pub(super) fn add(&mut self, pointer: &MapPointer, number: usize) {
        let end =
            pointer.0.iter().fold(self, |node, step| node.steps.entry(step.clone()).or_default());
        end.ends.push(number);
    }

    /// Puts the JSON text of what stands at each pointer at its number. Of a member that is there twice the last counts;
    /// `null` is nothing.
    pub(super) fn find<'a>(
        &self,
        value: &'a RawJson,
        found: &mut [Option<&'a str>],
    ) -> Result<(), serde_json::Error> {
        let text = value.get();
        for number in &self.ends {
            if let Some(place) = found.get_mut(*number) {
                *place = Some(text).filter(|text| *text != "null");
            }
        }
        if self.steps.is_empty() {
            return Ok(());
        }
        match text.as_bytes().first() {
            Some(b'{') => self.members(text, found),
            Some(b'[') => {
                for (at, item) in
                    serde_json::from_str::<Vec<&RawJson>>(text)?.into_iter().enumerate()
                {
                    if let Some(step) = self.steps.get(&at.to_string()) {
                        step.find(item, found)?;
                    } else if let Ok(NamedItem { name, value }) = serde_json::from_str(item.get())
                        && let Some(step) = self.steps.get(name.as_ref())
                    {
                        step.find(plain(value), found)?;
                    }
                }
                Ok(())
            }
            _ => Ok(()),
        }
    }

    fn members<'a>(
        &self,
        text: &'a str,
        found: &mut [Option<&'a str>],
    ) -> Result<(), serde_json::Error> {
        let mut values = Vec::new();
        let members = MemberFinder { steps: &self.steps, values: &mut values };
        let mut reader = serde_json::Deserializer::from_str(text);
        members.deserialize(&mut reader)?;
        values.into_iter().try_for_each(|(step, value)| step.find(value, found))
    }
}

/// An element of a list of attributes or header fields.
#[derive(Deserialize)]
pub(super) struct NamedItem<'a> {
    #[serde(borrow, alias = "key", alias = "Key", alias = "Name")]
    pub(super) name: Cow<'a, str>,
    #[serde(borrow, default = "nothing", alias = "Value")]
    pub(super) value: &'a RawJson,
}

fn nothing() -> &'static RawJson {
    RawJson::NULL
}

/// A value without the object that tells its type, as telemetry writes them: of `{"stringValue": "GET"}`, `"GET"`.
pub(super) fn plain(value: &RawJson) -> &RawJson {
    #[derive(Deserialize)]
    enum TypedValue<'a> {
        #[serde(
            borrow,
            rename = "stringValue",
            alias = "intValue",
            alias = "doubleValue",
            alias = "boolValue",
            alias = "bytesValue"
        )]
        One(&'a RawJson),
        #[serde(borrow, rename = "arrayValue")]
        Several(ValueList<'a>),
    }
    #[derive(Deserialize)]
    struct ValueList<'a> {
        #[serde(borrow)]
        values: &'a RawJson,
    }
    match serde_json::from_str(value.get()) {
        Ok(TypedValue::One(inner) | TypedValue::Several(ValueList { values: inner })) => inner,
        Err(_) => value,
    }
}

/// A name that is borrowed where it can be.
#[derive(Deserialize)]
pub(super) struct MemberName<'a>(#[serde(borrow)] pub(super) Cow<'a, str>);

/// The members of an object in their order, also those that come twice.
pub(super) struct RawMembers<'a>(pub(super) Vec<(Cow<'a, str>, &'a RawJson)>);

impl<'de: 'a, 'a> Deserialize<'de> for RawMembers<'a> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct MembersVisitor;
        impl<'de> Visitor<'de> for MembersVisitor {
            type Value = RawMembers<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an object")
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
                let mut members = Vec::new();
                while let Some(MemberName(name)) = map.next_key()? {
                    members.push((name, map.next_value()?));
                }
                Ok(RawMembers(members))
            }
        }
        from.deserialize_map(MembersVisitor)
    }
}

/// Takes the members of an object that a tree goes through, and skips the others.
struct MemberFinder<'t, 'v, 'a> {
    steps: &'t BTreeMap<String, PointerTree>,
    values: &'v mut Vec<(&'t PointerTree, &'a RawJson)>,
}

impl<'de: 'a, 'a> DeserializeSeed<'de> for MemberFinder<'_, '_, 'a> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_map(self)
    }
}

impl<'de: 'a, 'a> Visitor<'de> for MemberFinder<'_, '_, 'a> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("an object")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        while let Some(name) = map.next_key::<MemberName<'de>>()? {
            match self.steps.get(name.0.as_ref()) {
                Some(step) => self.values.push((step, map.next_value()?)),
                None => _ = map.next_value::<IgnoredAny>()?,
            }
        }
        Ok(())
    }
}

/// Where in a text the values stand that a pointer with `*` leads to, which stands for any member or element.
pub(super) fn items(text: &str, pointer: &MapPointer) -> Result<Vec<Range<usize>>, String> {
    let whole: &RawJson = serde_json::from_str(text).map_err(|error| error.to_string())?;
    let mut values = vec![whole];
    for step in &pointer.0 {
        let mut inner = Vec::new();
        for value in values {
            let is_any = step == "*";
            match value.get().as_bytes().first() {
                Some(b'[') => {
                    let all: Vec<&RawJson> = parsed(value)?;
                    inner.extend(all.into_iter().enumerate().filter_map(|(at, item)| {
                        (is_any || at.to_string() == *step).then_some(item)
                    }));
                }
                Some(b'{') => {
                    let all: RawMembers<'_> = parsed(value)?;
                    let is_meant = |name: &str| is_any || name == step;
                    let meant = all.0.into_iter().filter(|(name, _)| is_meant(name));
                    inner.extend(meant.map(|(_, item)| item));
                }
                _ => {}
            }
            if inner.len() > MOST_ITEMS {
                return Err(format!("more than {MOST_ITEMS} exchanges in one line"));
            }
        }
        values = inner;
    }
    let start = text.as_ptr().addr();
    let range = |value: &RawJson| {
        let from = value.get().as_ptr().addr() - start;
        from..from + value.get().len()
    };
    Ok(values.into_iter().map(range).collect())
}

fn parsed<'a, T: Deserialize<'a>>(value: &'a RawJson) -> Result<T, String> {
    serde_json::from_str(value.get()).map_err(|error| error.to_string())
}
