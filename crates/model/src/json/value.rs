//! JSON bodies: parsed where they can be, and three different words where they can't.

use std::borrow::Cow;
use std::cell::RefCell;
use std::collections::HashSet;
use std::fmt;

use serde::de::{DeserializeSeed, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Deserializer};
use serde_json::{Map, Value};

use super::scan::string_end;
use crate::json::pointer::JsonPath;
use crate::snippet::snippet;

/// What a text is, read as JSON.
#[derive(Debug, Clone, PartialEq)]
pub enum Json {
    /// A JSON text, and its value.
    Value(Value),
    /// A JSON text by its grammar that this program does not hold, for this reason. It is not checked.
    Beyond(Bound),
    /// No JSON text. The words say what is wrong and where.
    Malformed(String),
}

/// What this program does not hold of a JSON text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bound {
    /// It nests deeper than 127 levels.
    Depth,
    /// A number is beyond a 64-bit float.
    Number,
    /// A string has half of a surrogate pair, which no text in UTF-8 can hold.
    Surrogate,
}

impl Bound {
    fn of(error: &serde_json::Error) -> Self {
        let words = error.to_string();
        if words.starts_with("recursion limit") {
            Self::Depth
        } else if words.starts_with("number out of range") {
            Self::Number
        } else {
            Self::Surrogate
        }
    }

    /// Why it is not checked.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Depth => "its JSON is nested deeper than 127 levels",
            Self::Number => "its JSON has a number beyond a 64-bit float",
            Self::Surrogate => "its JSON has half of a surrogate pair",
        }
    }
}

impl Json {
    /// Reads a body; a byte order mark before it is passed over. JSON is text in UTF-8 (RFC 8259 section 8.1), so other
    /// bytes are malformed.
    #[must_use]
    pub fn read(bytes: &[u8]) -> Self {
        let bytes = without_mark(bytes);
        let text = match std::str::from_utf8(bytes) {
            Ok(text) => text,
            Err(error) => {
                return Self::Malformed(format!("not UTF-8 at byte {}", error.valid_up_to() + 1));
            }
        };
        match serde_json::from_str(text) {
            Ok(value) => Self::Value(value),
            // Skipping checks the grammar alone: it has no limit of depth and makes no numbers. So
            // what it accepts and the parser does not is JSON all the same.
            Err(error) if serde_json::from_str::<IgnoredAny>(text).is_ok() => {
                Self::Beyond(Bound::of(&error))
            }
            Err(error) => Self::Malformed(error.to_string()),
        }
    }

    /// Every string in it, as [`strings`] gives them; nothing where there is no value.
    #[must_use]
    pub fn strings(&self) -> String {
        match self {
            Self::Value(value) => strings(value),
            Self::Beyond(_) | Self::Malformed(_) => String::new(),
        }
    }
}

/// A text without the byte order mark that may stand before it.
pub fn without_mark(bytes: &[u8]) -> &[u8] {
    bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes)
}

/// The JSON type of a value (RFC 8259 section 3).
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize,
)]
#[serde(rename_all = "kebab-case")]
pub enum JsonType {
    /// `null`.
    Null,
    /// `true` or `false`.
    Boolean,
    /// A number.
    Number,
    /// A string.
    String,
    /// An array.
    Array,
    /// An object.
    Object,
}

impl JsonType {
    /// The type of this value.
    #[must_use]
    pub fn of(value: &Value) -> Self {
        match value {
            Value::Null => Self::Null,
            Value::Bool(_) => Self::Boolean,
            Value::Number(_) => Self::Number,
            Value::String(_) => Self::String,
            Value::Array(_) => Self::Array,
            Value::Object(_) => Self::Object,
        }
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Null => "null",
            Self::Boolean => "boolean",
            Self::Number => "number",
            Self::String => "string",
            Self::Array => "array",
            Self::Object => "object",
        }
    }
}

impl fmt::Display for JsonType {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// A value in few words: its text where that is short, else its start or only its kind.
#[must_use]
pub fn in_brief(value: &Value) -> String {
    const MOST: usize = 80;
    match value {
        Value::Array(items) => format!("array of {}", items.len()),
        Value::Object(_) => "object".to_owned(),
        Value::String(text) => Value::from(snippet(text, MOST)).to_string(),
        other => other.to_string(),
    }
}

/// A number or a text as text, as codes and statuses are compared: numbers by value, so that 4017.0 is 4017. Nothing else
/// is one.
#[must_use]
pub fn scalar_text(value: &Value) -> Option<String> {
    /// Up to here a 64-bit float holds every whole number.
    const WHOLE: f64 = 9_007_199_254_740_992.0;
    match value {
        Value::Number(number) => Some(match number.as_f64().filter(|_| number.is_f64()) {
            Some(value) if value.fract() == 0.0 && value.abs() < WHOLE => format!("{value:.0}"),
            _ => number.to_string(),
        }),
        Value::String(text) => Some(text.clone()),
        _ => None,
    }
}

/// Members by name. Most objects have few, and comparing each of those costs less than hashing the name.
pub trait MemberLookup {
    /// The member of that name.
    fn member(&self, name: &str) -> Option<&Value>;
}

impl MemberLookup for Map<String, Value> {
    fn member(&self, name: &str) -> Option<&Value> {
        if self.len() > FEW {
            return self.get(name);
        }
        self.iter().find(|(known, _)| *known == name).map(|(_, value)| value)
    }
}

impl MemberLookup for Value {
    /// The member of that name, where the value is an object.
    fn member(&self, name: &str) -> Option<&Value> {
        self.as_object()?.member(name)
    }
}

/// Does any string in a value say anything?
#[must_use]
pub fn has_words(value: &Value) -> bool {
    match value {
        Value::String(text) => !text.trim().is_empty(),
        Value::Array(items) => items.iter().any(has_words),
        Value::Object(members) => members.values().any(has_words),
        Value::Null | Value::Bool(_) | Value::Number(_) => false,
    }
}

/// Every string in a value, in document order, each with a line end behind it.
#[must_use]
pub fn strings(value: &Value) -> String {
    fn walk(value: &Value, text: &mut String) {
        match value {
            Value::String(string) => {
                text.push_str(string);
                text.push('\n');
            }
            Value::Array(items) => items.iter().for_each(|item| walk(item, text)),
            Value::Object(members) => members.values().for_each(|member| walk(member, text)),
            Value::Null | Value::Bool(_) | Value::Number(_) => {}
        }
    }
    let mut text = String::with_capacity(256);
    walk(value, &mut text);
    text
}

/// The place of the first member whose name stands twice in one object, where there is one.
///
/// A parsed value has each name once, so where it has fewer members than its text, that is read anew, without
/// keeping anything of it.
#[must_use]
pub fn repeated_name(bytes: &[u8], value: &Value) -> Option<String> {
    let bytes = without_mark(bytes);
    if colons(bytes) == count(value) {
        return None;
    }
    let found = RefCell::new(None);
    let mut reader = serde_json::Deserializer::from_slice(bytes);
    let _ = NameVisitor { found: &found, way: &JsonPath::Top }.deserialize(&mut reader);
    found.into_inner()
}

/// How many colons stand outside of strings: in JSON, one for each member.
fn colons(bytes: &[u8]) -> usize {
    let (mut count, mut at) = (0, 0);
    while let Some(byte) = bytes.get(at) {
        at = match byte {
            b'"' => string_end(bytes, at + 1).unwrap_or(bytes.len()),
            _ => at + 1,
        };
        count += usize::from(*byte == b':');
    }
    count
}

/// How many members there are, at any depth.
fn count(value: &Value) -> usize {
    match value {
        Value::Array(items) => items.iter().map(count).sum(),
        Value::Object(members) => members.len() + members.values().map(count).sum::<usize>(),
        Value::Null | Value::Bool(_) | Value::Number(_) | Value::String(_) => 0,
    }
}

/// Visits a value for the names of its members.
struct NameVisitor<'f> {
    found: &'f RefCell<Option<String>>,
    way: &'f JsonPath<'f>,
}

/// A name; borrowed from the text where it has no escapes.
#[derive(Debug, Deserialize)]
pub struct MemberName<'a>(#[serde(borrow)] pub Cow<'a, str>);

/// Of an object with fewer members, each name is compared with each.
const FEW: usize = 32;

impl<'de> DeserializeSeed<'de> for NameVisitor<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for NameVisitor<'_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let (mut few, mut many): (Vec<Cow<'de, str>>, HashSet<Cow<'de, str>>) = Default::default();
        while let Some(MemberName(name)) = map.next_key()? {
            let way = JsonPath::Member(self.way, &name);
            if few.contains(&name) || many.contains(&name) {
                self.found.borrow_mut().get_or_insert_with(|| way.pointer());
            }
            map.next_value_seed(NameVisitor { found: self.found, way: &way })?;
            if few.len() < FEW {
                few.push(name);
            } else {
                many.insert(name);
            }
        }
        Ok(())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<(), A::Error> {
        let mut index = 0;
        loop {
            let way = JsonPath::Item(self.way, index);
            if list.next_element_seed(NameVisitor { found: self.found, way: &way })?.is_none() {
                return Ok(());
            }
            index += 1;
        }
    }

    fn visit_bool<E>(self, _: bool) -> Result<(), E> {
        Ok(())
    }

    fn visit_i64<E>(self, _: i64) -> Result<(), E> {
        Ok(())
    }

    fn visit_u64<E>(self, _: u64) -> Result<(), E> {
        Ok(())
    }

    fn visit_f64<E>(self, _: f64) -> Result<(), E> {
        Ok(())
    }

    fn visit_str<E>(self, _: &str) -> Result<(), E> {
        Ok(())
    }

    fn visit_unit<E>(self) -> Result<(), E> {
        Ok(())
    }
}

/// Is this what is left of a member's name without the marks of a naming style? What it is
/// compared with is in lower case and ASCII; for such names it is as to compare with [`folded`], without
/// making that.
#[must_use]
pub fn folds_to(name: &str, known: &str) -> bool {
    let mut left = known.bytes();
    let mut marked = name.bytes().filter(|byte| !matches!(byte, b'_' | b'-'));
    marked.all(|byte| left.next() == Some(byte.to_ascii_lowercase())) && left.next().is_none()
}

/// A member's name without the marks of a naming style.
#[must_use]
pub fn folded(name: &str) -> String {
    name.chars().filter(|c| !matches!(c, '_' | '-')).flat_map(char::to_lowercase).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn deep_nesting_and_great_numbers_are_json_that_is_not_held() {
        let deep = format!("{}{}", "[".repeat(200), "]".repeat(200));
        for text in [deep.as_str(), "1e400", r#"{"a":"\ud800"}"#] {
            assert!(matches!(Json::read(text.as_bytes()), Json::Beyond(_)), "{text}");
        }
    }

    #[test]
    fn what_is_no_json_says_where() {
        let Json::Malformed(words) = Json::read(b"{\"a\":1,}") else { panic!("it was read") };
        assert!(words.contains("line 1 column 8"), "{words}");
        assert!(matches!(Json::read(b""), Json::Malformed(_)));
        assert!(matches!(Json::read(b"\xff"), Json::Malformed(_)));
    }

    #[test]
    fn a_name_that_stands_twice_is_found_at_any_depth() {
        for (text, location) in [
            (r#"{"a":1,"b":{"a":2}}"#, None),
            (r#"{"a":1,"a":2}"#, Some("/a")),
            (r#"{"a":[{"x":1},{"y":1,"y":[]}]}"#, Some("/a/1/y")),
            (r#"{"a":1,"\u0061":2}"#, Some("/a")),
            (r#"{"a:\":":":","b":"\\","c":{}}"#, None),
            (r#"{"a:\":":":","b":"\\","b":{}}"#, Some("/b")),
        ] {
            let value = serde_json::from_str(text).unwrap();
            assert_eq!(repeated_name(text.as_bytes(), &value).as_deref(), location, "{text}");
        }
    }

    #[test]
    fn a_byte_order_mark_is_passed_over() {
        assert!(matches!(Json::read(b"\xef\xbb\xbf{}"), Json::Value(_)));
    }

    #[test]
    fn a_long_text_is_cut_in_brief() {
        assert_eq!(in_brief(&Value::String("é".repeat(200))).chars().count(), 83);
        let words = in_brief(&Value::String("berth ".repeat(20)));
        assert!(words.ends_with("berth …\""), "{words}");
    }
}
