//! Finds what stands at some JSON Pointers of a text, in one pass over it. Of what is on none of their ways only brackets and
//! quotation marks are followed.

use std::borrow::Cow;
use std::fmt;
use std::ops::Range;

use faithful_clerk_model::json::pointer;
use serde::Deserialize;
use serde::de::{self, Deserializer, IgnoredAny};

use crate::cursor::JsonCursor;

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
    steps: Vec<(String, Self)>,
}

impl PointerTree {
    pub(super) fn add(&mut self, pointer: &MapPointer, number: usize) {
        let mut node = self;
        for step in &pointer.0 {
            let known = node.steps.iter().position(|(name, _)| name == step);
            let at = known.unwrap_or(node.steps.len());
            if known.is_none() {
                node.steps.push((step.clone(), Self::default()));
            }
            node = &mut node.steps[at].1;
        }
        node.ends.push(number);
    }

    /// Puts the JSON text of what stands at each pointer at its number. Of a member that is there twice the last counts;
    /// `null` is nothing. `None` where the text is no JSON, as far as it is looked at.
    pub(super) fn find<'a>(&self, text: &'a str, found: &mut [Option<&'a str>]) -> Option<()> {
        let mut json = JsonCursor::new(text);
        json.skip_space();
        self.walk(&mut json, text, found)?;
        json.skip_space();
        json.is_at_end().then_some(())
    }

    fn walk<'a>(
        &self,
        json: &mut JsonCursor<'a>,
        text: &'a str,
        found: &mut [Option<&'a str>],
    ) -> Option<()> {
        let start = json.position();
        match json.peek()? {
            b'{' if !self.steps.is_empty() => {
                json.open_object()?;
                while let Some(name) = json.next_member()? {
                    match self.step(&name) {
                        Some(step) => {
                            step.clear(found);
                            step.walk(json, text, found)?;
                        }
                        None => json.skip_value()?,
                    }
                }
            }
            b'[' if !self.steps.is_empty() => {
                json.open_array()?;
                let mut at = 0_usize;
                while json.next_item()? {
                    self.item(at, json.raw()?, found)?;
                    at += 1;
                }
            }
            _ => json.skip_value()?,
        }
        if !self.ends.is_empty() {
            let here = text.get(start..json.position()).filter(|text| *text != "null");
            for number in &self.ends {
                if let Some(place) = found.get_mut(*number) {
                    *place = here;
                }
            }
        }
        Some(())
    }

    /// An element of an array: by its index, and by its name.
    fn item<'a>(&self, at: usize, item: &'a str, found: &mut [Option<&'a str>]) -> Option<()> {
        if let Some(step) = self.step(&at.to_string()) {
            step.find(item, found)?;
        }
        if let Some((name, value)) = named(item)
            && let Some(step) = self.step(&name)
        {
            step.find(plain(value), found)?;
        }
        Some(())
    }

    fn step(&self, name: &str) -> Option<&Self> {
        self.steps.iter().find(|(step, _)| step == name).map(|(_, node)| node)
    }

    fn clear(&self, found: &mut [Option<&str>]) {
        for number in &self.ends {
            if let Some(place) = found.get_mut(*number) {
                *place = None;
            }
        }
        self.steps.iter().for_each(|(_, step)| step.clear(found));
    }
}

/// The name and the value of an element of a list of attributes or header fields: an object with `key` or `name` and `value`,
/// or a pair.
pub(super) fn named(item: &str) -> Option<(Cow<'_, str>, &str)> {
    let mut json = JsonCursor::new(item);
    let (mut name, mut value) = (None, None);
    if json.peek()? == b'[' {
        json.open_array()?;
        if json.next_item()? {
            name = Some(json.string()?);
        }
        if json.next_item()? {
            value = Some(json.raw()?);
        }
    } else {
        json.open_object()?;
        while let Some(member) = json.next_member()? {
            match member.as_ref() {
                "name" | "key" | "Name" | "Key" => name = Some(json.string()?),
                "value" | "Value" => value = Some(json.raw()?),
                _ => json.skip_value()?,
            }
        }
    }
    Some((name?, value.unwrap_or("null")))
}

/// A value without the object that tells its type, as telemetry writes them: of `{"stringValue": "GET"}`, `"GET"`.
pub(super) fn plain(value: &str) -> &str {
    let inner = || {
        let mut json = JsonCursor::new(value);
        json.open_object()?;
        let inner = match json.next_member()??.as_ref() {
            "stringValue" | "intValue" | "doubleValue" | "boolValue" | "bytesValue" => {
                json.raw()?
            }
            "arrayValue" => {
                json.open_object()?;
                json.next_member()?.filter(|name| name == "values")?;
                let values = json.raw()?;
                json.next_member()?.is_none().then_some(values)?
            }
            _ => return None,
        };
        json.next_member()?.is_none().then_some(inner)
    };
    if value.starts_with('{') { inner().unwrap_or(value) } else { value }
}

/// Where in a text the values stand that a pointer with `*` leads to, which stands for any member or element.
pub(super) fn items(text: &str, pointer: &MapPointer) -> Result<Vec<Range<usize>>, String> {
    let mut values = vec![text];
    for step in &pointer.0 {
        let mut inner = Vec::new();
        for value in values {
            step_into(value, step, &mut inner).ok_or_else(|| no_json(text))?;
            if inner.len() > MOST_ITEMS {
                return Err(format!("more than {MOST_ITEMS} exchanges in one line"));
            }
        }
        values = inner;
    }
    let start = text.as_ptr().addr();
    let range = |value: &str| {
        let from = value.as_ptr().addr() - start;
        from..from + value.len()
    };
    Ok(values.into_iter().map(range).collect())
}

/// Adds the members or elements of a value that a step means.
fn step_into<'a>(value: &'a str, step: &str, inner: &mut Vec<&'a str>) -> Option<()> {
    let mut json = JsonCursor::new(value);
    json.skip_space();
    let is_any = step == "*";
    match json.peek()? {
        b'[' => {
            json.open_array()?;
            let mut at = 0_usize;
            while json.next_item()? {
                let item = json.raw()?;
                if is_any || step == at.to_string() {
                    inner.push(item);
                }
                at += 1;
            }
        }
        b'{' => {
            json.open_object()?;
            while let Some(name) = json.next_member()? {
                let member = json.raw()?;
                if is_any || name == step {
                    inner.push(member);
                }
            }
        }
        _ => json.skip_value()?,
    }
    json.skip_space();
    json.is_at_end().then_some(())
}

/// What is wrong with a text that is no JSON.
pub(super) fn no_json(text: &str) -> String {
    match serde_json::from_str::<IgnoredAny>(text) {
        Err(error) => format!("it is no JSON: {error}"),
        Ok(_) => "it holds half of a surrogate pair where a name should be".to_owned(),
    }
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
        tree.find(text, &mut found).unwrap();
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
