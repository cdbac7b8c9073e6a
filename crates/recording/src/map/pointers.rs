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
/// A step into an array is an index, or the name of an element: of `{"key": "url.path", "value": …}` and of
/// `["url.path", …]` it is `url.path`.
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
                    }
                    if let Ok(NamedItem { name, value }) = serde_json::from_str(item.get())
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

/// An element of a list of attributes or header fields: an object, or a pair.
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
pub(super) struct RawName<'a>(#[serde(borrow)] pub(super) Cow<'a, str>);

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
                while let Some(RawName(name)) = map.next_key()? {
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
        while let Some(name) = map.next_key::<RawName<'de>>()? {
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use serde_json::{Value, json};

    fn found<'a>(pointers: &[&str], text: &'a str) -> Vec<Option<&'a str>> {
        let mut tree = PointerTree::default();
        for (number, pointer) in pointers.iter().enumerate() {
            tree.add(&MapPointer::read(pointer).unwrap(), number);
        }
        let mut found = vec![None; pointers.len()];
        tree.find(serde_json::from_str(text).unwrap(), &mut found).unwrap();
        found
    }

    #[test]
    fn a_step_into_a_list_is_an_index_or_the_name_of_an_element() {
        let text = r#"{"a": {"b": 1, "c": null}, "list": [{"key": "url.path", "value": {"stringValue": "/x"}}, {"name": "n", "value": {"deep": 2}}, [7]], "a/b": {"~": 3}}"#;
        let pointers = [
            "/a/b",
            "/a",
            "/a/c",
            "/a/d",
            "/list/url.path",
            "/list/n/deep",
            "/list/2/0",
            "/list/1/name",
            "/a~1b/~0",
            "/list/9",
        ];
        let values = [
            Some("1"),
            Some(r#"{"b": 1, "c": null}"#),
            None,
            None,
            Some("\"/x\""),
            Some("2"),
            Some("7"),
            Some("\"n\""),
            Some("3"),
            None,
        ];
        assert_eq!(found(&pointers, text), values);
        // Of two members of one name the last counts.
        assert_eq!(found(&["/a"], r#"{"a": 1, "\u0061": 2}"#), [Some("2")]);
    }

    #[test]
    fn every_item_is_found_where_it_stands() {
        let text = r#"{"x": [{"spans": [{"a": 1}, 2]}, {"spans": []}, {"spans": [[3]]}], "y": {"p": [4], "q": [5]}}"#;
        let at = |pointer: &str| -> Vec<&str> {
            let ranges = items(text, &MapPointer::read(pointer).unwrap()).unwrap();
            ranges.into_iter().map(|range| &text[range]).collect()
        };
        assert_eq!(at("/x/*/spans/*"), [r#"{"a": 1}"#, "2", "[3]"]);
        assert_eq!(at("/x/0/spans/1"), ["2"]);
        assert_eq!(at("/y/*/0"), ["4", "5"]);
        assert_eq!(at(""), [text]);
        assert_eq!(at("/z/*"), [""; 0]);
        let many = format!("[{}0]", "0,".repeat(MOST_ITEMS));
        assert!(items(&many, &MapPointer::read("/*").unwrap()).unwrap_err().contains("more than"));
        assert!(items("{", &MapPointer::read("/*").unwrap()).is_err());
    }

    fn value() -> impl Strategy<Value = Value> {
        let leaf = prop_oneof![
            Just(Value::Null),
            any::<i32>().prop_map(Value::from),
            "[ab/~\"é]{0,3}".prop_map(Value::from)
        ];
        leaf.prop_recursive(4, 24, 4, |inner| {
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
                prop::collection::btree_map("[ab/~01]{0,2}", inner, 0..4)
                    .prop_map(|members| json!(members)),
            ]
        })
    }

    proptest! {
        /// What stands at a pointer is what a general reader of JSON finds there, but for elements that are found by name.
        #[test]
        fn what_is_found_is_what_stands_there(
            value in value(),
            pointers in prop::collection::vec(prop::collection::vec("[ab/~01]{0,2}", 0..4), 1..5),
        ) {
            let text = value.to_string();
            let written: Vec<String> = pointers.iter().map(|steps| pointer::from_tokens(steps)).collect();
            let all: Vec<&str> = written.iter().map(String::as_str).collect();
            for (pointer, found) in all.iter().zip(found(&all, &text)) {
                let there = value.pointer(pointer).filter(|value| !value.is_null());
                let found = found.map(|raw| serde_json::from_str::<Value>(raw).unwrap());
                prop_assert_eq!(found.as_ref(), there);
            }
        }
    }
}
