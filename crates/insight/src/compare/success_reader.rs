//! One look at the JSON of a success, without keeping its values: what it is made of, as a number, and which of the ids in it
//! were sent somewhere.
//!
//! Most of a recording are successes, and most of them are made of the same as others. Two bodies with one number have one
//! shape, so the shape is only made for the first.

use std::cell::RefCell;
use std::fmt;
use std::hash::BuildHasher as _;

use foldhash::fast::FixedState;
use serde::de::{DeserializeSeed, Deserializer, Error, MapAccess, SeqAccess, Visitor};

use super::sent_values::SentValues;
use crate::survey::{BorrowedName, SegmentForm};
use faithful_clerk_model::json::pointer::JsonPath;
use faithful_clerk_model::json::without_mark;

/// Of one response, so many ids are followed.
const MOST_IDS: usize = 200;

/// Ids stand no deeper than this.
const MOST_NESTED: usize = 4;

/// What the JSON of a success is made of, and the ids in it that were sent, each with where it stands.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct SuccessContent {
    pub(super) structure: u64,
    pub(super) ids: Vec<(String, String)>,
}

/// Reads a body; `None` where it is no JSON in UTF-8.
pub(super) fn read(bytes: &[u8], sent: &SentValues) -> Option<SuccessContent> {
    let text = std::str::from_utf8(without_mark(bytes)).ok()?;
    let ids = RefCell::new(Vec::new());
    let mut json = serde_json::Deserializer::from_str(text);
    let reader = StructureReader { sent, ids: &ids, path: JsonPath::Top, depth: 0 };
    let structure = reader.deserialize(&mut json).ok()?;
    json.end().ok()?;
    Some(SuccessContent { structure, ids: ids.into_inner() })
}

/// Stands for a JSON type in a structure.
#[derive(Clone, Copy)]
enum StructureKind {
    Null = 1,
    Boolean,
    Integer,
    Fraction,
    Text,
    Array,
    Object,
}

/// Reads a value, and gives its structure.
struct StructureReader<'r> {
    sent: &'r SentValues,
    ids: &'r RefCell<Vec<(String, String)>>,
    path: JsonPath<'r>,
    depth: usize,
}

impl StructureReader<'_> {
    fn note(&self, id: &str) {
        let mut ids = self.ids.borrow_mut();
        let is_id = SegmentForm::may_be_id(id)
            && !matches!(SegmentForm::of(id), SegmentForm::Date | SegmentForm::DateTime);
        if is_id && ids.len() < MOST_IDS {
            ids.push((self.path.pointer(), id.to_owned()));
        }
    }
}

/// Mixes a part into a structure, so that `{"a": {"b": 1}}` is none of `{"a": 1, "b": 1}`.
fn mixed(kind: u64, part: u64) -> u64 {
    (part ^ kind.wrapping_mul(0x9E37_79B9_7F4A_7C15))
        .wrapping_mul(0xD6E8_FEB8_6659_FD93)
        .rotate_left(29)
}

impl<'de> DeserializeSeed<'de> for StructureReader<'_> {
    type Value = u64;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<u64, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for StructureReader<'_> {
    type Value = u64;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<u64, A::Error> {
        let mut structure = StructureKind::Object as u64;
        while let Some(name) = map.next_key_seed(BorrowedName)? {
            let path = JsonPath::Member(&self.path, &name);
            let (sent, ids, depth) = (self.sent, self.ids, self.depth + 1);
            let member = map.next_value_seed(StructureReader { sent, ids, path, depth })?;
            let name = FixedState::default().hash_one(name.as_ref());
            // In whatever order.
            structure = structure.wrapping_add(mixed(name, member));
        }
        Ok(mixed(StructureKind::Object as u64, structure))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<u64, A::Error> {
        // What is there any number of times is one.
        let mut items: Vec<u64> = Vec::new();
        let mut index = 0;
        loop {
            let path = JsonPath::Item(&self.path, index);
            let (sent, ids, depth) = (self.sent, self.ids, self.depth + 1);
            let reader = StructureReader { sent, ids, path, depth };
            let Some(item) = list.next_element_seed(reader)? else { break };
            if items.last() != Some(&item) {
                items.push(item);
            }
            index += 1;
        }
        items.sort_unstable();
        items.dedup();
        let kind = StructureKind::Array as u64;
        Ok(items.into_iter().fold(mixed(kind, kind), mixed))
    }

    fn visit_bool<E>(self, _: bool) -> Result<u64, E> {
        Ok(StructureKind::Boolean as u64)
    }

    fn visit_i64<E>(self, number: i64) -> Result<u64, E> {
        if self.depth <= MOST_NESTED && self.sent.has_integer(number) {
            self.note(&number.to_string());
        }
        Ok(StructureKind::Integer as u64)
    }

    fn visit_u64<E: Error>(self, number: u64) -> Result<u64, E> {
        match i64::try_from(number) {
            Ok(number) => self.visit_i64(number),
            Err(_) => Ok(StructureKind::Integer as u64),
        }
    }

    fn visit_f64<E>(self, number: f64) -> Result<u64, E> {
        let is_whole = number.fract() == 0.0;
        Ok(if is_whole { StructureKind::Integer } else { StructureKind::Fraction } as u64)
    }

    fn visit_str<E>(self, text: &str) -> Result<u64, E> {
        if self.depth <= MOST_NESTED && self.sent.has_text(text) {
            self.note(text);
        }
        Ok(StructureKind::Text as u64)
    }

    fn visit_unit<E>(self) -> Result<u64, E> {
        Ok(StructureKind::Null as u64)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_shape::{DataLocations, InferredShape};
    use proptest::prelude::*;
    use serde_json::{Value, json};

    fn body() -> impl Strategy<Value = Value> {
        let leaf = prop_oneof![
            Just(Value::Null),
            any::<bool>().prop_map(Value::from),
            any::<i8>().prop_map(Value::from),
            Just(json!(2.0)),
            Just(json!(0.5)),
            "[a-c]{0,2}".prop_map(Value::from),
        ];
        leaf.prop_recursive(4, 24, 4, |inner| {
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
                prop::collection::vec(("[a-c]", inner), 0..4)
                    .prop_map(|members| Value::Object(members.into_iter().collect())),
            ]
        })
    }

    fn structure(value: &Value) -> u64 {
        read(value.to_string().as_bytes(), &SentValues::default()).unwrap().structure
    }

    fn reversed(value: &Value) -> Value {
        match value {
            Value::Array(items) => items.iter().rev().map(reversed).collect(),
            Value::Object(members) => members
                .iter()
                .rev()
                .map(|(name, member)| (name.clone(), reversed(member)))
                .collect(),
            other => other.clone(),
        }
    }

    proptest! {
        /// What has one number has one shape, and order makes no difference.
        #[test]
        fn one_structure_is_one_shape(one in body(), other in body()) {
            let shape = |value: &Value| InferredShape::of(value, &DataLocations::default()).uncounted();
            prop_assert_eq!(structure(&one), structure(&reversed(&one)));
            if structure(&one) == structure(&other) {
                prop_assert_eq!(shape(&one), shape(&other));
            }
        }
    }

    #[test]
    fn what_differs_has_another_number() {
        let all = [
            "null",
            "true",
            "1",
            "0.5",
            "\"a\"",
            "[]",
            "{}",
            "[null]",
            "[1]",
            "[1,\"a\"]",
            "[[1]]",
            "{\"a\":1}",
            "{\"b\":1}",
            "{\"a\":\"1\"}",
            "{\"a\":{\"b\":1}}",
            "{\"a\":1,\"b\":1}",
            "{\"a\":1,\"b\":{}}",
            "[{\"a\":1}]",
            "[{\"a\":1},{}]",
            "[{\"a\":1},{\"b\":1}]",
        ];
        let numbers: std::collections::BTreeSet<u64> =
            all.iter().map(|text| structure(&serde_json::from_str(text).unwrap())).collect();
        assert_eq!(numbers.len(), all.len());
        for same in
            [("[1,2]", "[3]"), ("2.0", "7"), ("{\"a\":1,\"b\":\"x\"}", "{\"b\":\"\",\"a\":9}")]
        {
            let of = |text: &str| read(text.as_bytes(), &SentValues::default()).unwrap().structure;
            assert_eq!(of(same.0), of(same.1), "{same:?}");
        }
        for text in ["{", "", "\"\\ud800\"", "1e999"] {
            assert_eq!(read(text.as_bytes(), &SentValues::default()), None, "{text}");
        }
    }
}
