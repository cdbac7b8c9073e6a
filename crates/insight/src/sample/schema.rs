//! Samples from a JSON Schema that is spelled out: a value that keeps its rules, and values that break one each.
//!
//! Not every rule is understood. Whoever uses a sample asks the schema itself whether it fits.

use regex::Regex;
use serde_json::{Value, json};

use super::{SOME_TEXT, pattern};

/// No text and no list is made longer than this.
const LONGEST: u64 = 100_000;

/// No list of so many items is made up.
const MOST_ITEMS: u64 = 1000;

/// A schema, with those that hold for the same value.
#[derive(Debug, Clone)]
struct SchemaParts<'s>(Vec<&'s Value>);

impl<'s> SchemaParts<'s> {
    fn of(schema: &'s Value) -> Self {
        let mut parts = vec![schema];
        let mut at = 0;
        while let Some(part) = parts.get(at).copied() {
            let list = |word: &str| part.get(word).and_then(Value::as_array).into_iter().flatten();
            parts.extend(list("allOf"));
            // One of several will do.
            parts.extend(list("oneOf").take(1));
            parts.extend(list("anyOf").take(1));
            at += 1;
        }
        Self(parts)
    }

    fn word(&self, word: &str) -> Option<&'s Value> {
        self.0.iter().find_map(|part| part.get(word))
    }

    fn text(&self, word: &str) -> &'s str {
        self.word(word).and_then(Value::as_str).unwrap_or_default()
    }

    fn number(&self, word: &str) -> Option<f64> {
        self.word(word).and_then(Value::as_f64)
    }

    fn count(&self, word: &str) -> Option<u64> {
        self.word(word).and_then(Value::as_u64)
    }

    /// The kind of value, where it says one that is not null.
    fn kind(&self) -> &'s str {
        match self.word("type") {
            Some(Value::String(kind)) => kind,
            Some(Value::Array(kinds)) => kinds
                .iter()
                .filter_map(Value::as_str)
                .find(|kind| *kind != "null")
                .unwrap_or("null"),
            _ if self.word("properties").is_some() => "object",
            _ if self.word("items").is_some() => "array",
            _ => "",
        }
    }

    fn members(&self) -> impl Iterator<Item = (&'s String, &'s Value)> {
        let named = |part: &&'s Value| part.get("properties").and_then(Value::as_object);
        self.0.clone().into_iter().filter_map(move |part| named(&part)).flatten()
    }

    fn required(&self) -> Vec<&'s str> {
        let lists = self.0.iter().filter_map(|part| part.get("required")?.as_array());
        lists.flatten().filter_map(Value::as_str).collect()
    }
}

/// A value that keeps the rules, as far as one can be made up.
#[must_use]
pub fn fitting(schema: &Value) -> Value {
    let parts = SchemaParts::of(schema);
    let first = || parts.word("examples").and_then(|examples| examples.get(0));
    let given = ["const", "example"].iter().find_map(|word| parts.word(word));
    if let Some(value) = given.or_else(first).or_else(|| parts.word("default")) {
        return value.clone();
    }
    if let Some(first) = parts.word("enum").and_then(|values| values.get(0)) {
        return first.clone();
    }
    match parts.kind() {
        "object" => {
            let required = parts.required();
            let named = |name: &str| {
                parts.members().find(|(known, _)| *known == name).map(|(_, schema)| schema)
            };
            let value = |name: &str| named(name).map_or_else(|| json!(SOME_TEXT), fitting);
            Value::Object(required.iter().map(|name| ((*name).to_owned(), value(name))).collect())
        }
        "array" => {
            let count = parts.count("minItems").unwrap_or(1).clamp(1, MOST_ITEMS);
            let item = parts.word("items").map_or_else(|| json!(SOME_TEXT), fitting);
            (0..count).map(|_| item.clone()).collect()
        }
        "integer" => number(least(&parts).unwrap_or(1.0).ceil()),
        "number" => number(least(&parts).unwrap_or(1.0)),
        "boolean" => json!(true),
        "null" => Value::Null,
        _ => json!(text(&parts)),
    }
}

/// The least number that is allowed; else the largest, if one is not.
fn least(parts: &SchemaParts<'_>) -> Option<f64> {
    let step = parts.number("multipleOf").unwrap_or(1.0);
    let above = parts.number("exclusiveMinimum").map(|least| least + step);
    let most = parts.number("maximum");
    let below = parts.number("exclusiveMaximum").map(|most| most - step);
    let most = most.or(below).filter(|most| *most < 1.0);
    parts.number("minimum").or(above).or(most).or(parts.number("multipleOf"))
}

fn text(parts: &SchemaParts<'_>) -> String {
    let by_format = match parts.text("format") {
        "date" => "2027-01-31",
        "date-time" => "2027-01-31T12:00:00Z",
        "time" => "12:00:00Z",
        "email" => "somebody@harbour.example",
        "uuid" => "3f2a1b4c-5d6e-4f70-8a91-b2c3d4e5f607",
        "uri" | "url" | "iri" => "https://harbour.example/",
        "uri-reference" => "/x",
        "hostname" => "harbour.example",
        "ipv4" => "192.0.2.1",
        "ipv6" => "2001:db8::1",
        _ => "",
    };
    if !by_format.is_empty() {
        return by_format.to_owned();
    }
    let matching = Regex::new(parts.text("pattern")).ok().filter(|of| !of.as_str().is_empty());
    let (least, most) = (parts.count("minLength"), parts.count("maxLength"));
    let is_of_length = |text: &String| {
        let length = text.chars().count() as u64;
        least.is_none_or(|least| length >= least) && most.is_none_or(|most| length <= most)
    };
    let mut texts = matching.into_iter().flat_map(|pattern| pattern::matching(&pattern));
    texts.find(is_of_length).unwrap_or_else(|| repeated(least.unwrap_or(1).max(1)))
}

/// A text that fits, but for its last character.
fn wrong_in_the_end(text: &str) -> String {
    let mut letters: Vec<char> = text.chars().collect();
    letters.pop();
    letters.into_iter().chain(['!']).collect()
}

fn repeated(length: u64) -> String {
    "x".repeat(usize::try_from(length.min(LONGEST)).unwrap_or_default())
}

/// A number, without a fraction where there is none.
fn number(value: f64) -> Value {
    let text = if value.fract() == 0.0 { format!("{value:.0}") } else { value.to_string() };
    serde_json::from_str(&text).unwrap_or(Value::Null)
}

/// Values that may not fit, each with words for what is wrong with it.
#[must_use]
pub fn misfitting(schema: &Value) -> Vec<(&'static str, Value)> {
    let parts = SchemaParts::of(schema);
    let mut found: Vec<(&'static str, Value)> = Vec::new();
    let mut add = |says: &'static str, value: Option<Value>| {
        let is_new =
            |value: &Value| found.iter().all(|(known, other)| *known != says && other != value);
        found.extend(value.filter(is_new).map(|value| (says, value)));
    };
    let lowest = parts.number("minimum").map(|least| least - 1.0);
    let highest = parts.number("maximum").map(|most| most + 1.0);
    add("too small", lowest.or(parts.number("exclusiveMinimum")).map(number));
    add("too large", highest.or(parts.number("exclusiveMaximum")).map(number));
    let short = parts.count("minLength").and_then(|least| least.checked_sub(1));
    add("too short", short.map(|length| json!(repeated(length))));
    let long = parts.count("maxLength").filter(|most| *most < LONGEST);
    add("too long", long.map(|most| json!(repeated(most + 1))));
    let item = || parts.word("items").map_or_else(|| json!(SOME_TEXT), fitting);
    let list = |count: u64| (0..count).map(|_| item()).collect::<Value>();
    let few = parts.count("minItems").and_then(|least| least.checked_sub(1));
    add("with too few items", few.filter(|count| *count < MOST_ITEMS).map(list));
    let many = parts.count("maxItems").filter(|most| *most < MOST_ITEMS);
    add("with too many items", many.map(|most| list(most + 1)));
    let has_form = !parts.text("pattern").is_empty() || !parts.text("format").is_empty();
    add("of the wrong format", has_form.then(|| json!("no such thing %")));
    let has_pattern = !parts.text("pattern").is_empty();
    add("wrong in its last character", has_pattern.then(|| json!(wrong_in_the_end(&text(&parts)))));
    let is_text = parts.kind() == "string";
    add("empty", is_text.then(|| json!("")));
    add("blank", is_text.then(|| json!("   ")));
    add("a fraction", (parts.kind() == "integer").then(|| json!(1.5)));
    let is_listed = parts.word("enum").is_some() || parts.word("const").is_some();
    add("none of those that are allowed", is_listed.then(|| json!("no-such-value")));
    let kinds = [("string", json!(true)), ("boolean", json!("17")), ("object", json!("17"))];
    let other = kinds.into_iter().find(|(kind, _)| *kind == parts.kind());
    add("of another JSON type", Some(other.map_or_else(|| json!({}), |(_, value)| value)));
    add("null", Some(Value::Null));
    found
}

/// Values that fit, and stand on a limit.
#[must_use]
pub fn on_limits(schema: &Value) -> Vec<(&'static str, Value)> {
    let parts = SchemaParts::of(schema);
    let mut found = Vec::new();
    let mut add =
        |says: &'static str, value: Option<Value>| found.extend(value.map(|value| (says, value)));
    add("at its least", parts.number("minimum").map(number));
    add("at its most", parts.number("maximum").map(number));
    // A text of that length may break a pattern or a format; whoever uses it asks the schema.
    let is_plain = parts.text("pattern").is_empty() && parts.text("format").is_empty();
    let length = |word: &str| parts.count(word).filter(|length| is_plain && *length < LONGEST);
    add("at its shortest", length("minLength").map(|length| json!(repeated(length))));
    add("at its longest", length("maxLength").map(|length| json!(repeated(length))));
    let item = || parts.word("items").map_or_else(|| json!(SOME_TEXT), fitting);
    let is_unique = parts.word("uniqueItems") == Some(&Value::Bool(true));
    let list = |word: &str| {
        let count =
            parts.count(word).filter(|count| *count < MOST_ITEMS && !(is_unique && *count > 1));
        count.map(|count| (0..count).map(|_| item()).collect::<Value>())
    };
    add("with as few items as it may have", list("minItems"));
    add("with as many items as it may have", list("maxItems"));
    found
}

/// What a schema is made of, as far as it says so.
#[derive(Debug)]
pub enum SchemaStructure<'s> {
    /// An object.
    Object {
        /// Its members, each with whether it has to be there.
        members: Vec<(String, bool, &'s Value)>,
        /// Does it forbid others?
        is_closed: bool,
        /// What others are.
        each: Option<&'s Value>,
    },
    /// A list.
    List {
        /// Its items.
        item: &'s Value,
        /// How many it may have.
        most: Option<usize>,
        /// Has each to be another?
        is_unique: bool,
    },
    /// Anything else.
    Plain,
}

/// What a schema is made of; of several alternatives, the first.
#[must_use]
pub fn structure(schema: &Value) -> SchemaStructure<'_> {
    let parts = SchemaParts::of(schema);
    match parts.kind() {
        "object" => {
            let required = parts.required();
            let member = |(name, schema): (&String, _)| {
                (name.clone(), required.contains(&name.as_str()), schema)
            };
            let others = parts.word("additionalProperties");
            SchemaStructure::Object {
                members: parts.members().map(member).collect(),
                is_closed: others == Some(&Value::Bool(false)),
                each: others.filter(|others| others.is_object()),
            }
        }
        "array" => match parts.word("items") {
            Some(item) => SchemaStructure::List {
                item,
                most: parts.count("maxItems").and_then(|most| usize::try_from(most).ok()),
                is_unique: parts.word("uniqueItems") == Some(&Value::Bool(true)),
            },
            None => SchemaStructure::Plain,
        },
        _ => SchemaStructure::Plain,
    }
}

/// The alternatives of a schema behind the first.
#[must_use]
pub fn others(schema: &Value) -> Vec<&Value> {
    let list = |word: &str| schema.get(word).and_then(Value::as_array).into_iter().flatten();
    list("oneOf").skip(1).chain(list("anyOf").skip(1)).collect()
}

/// Every member wrong at once.
#[must_use]
pub fn all_wrong(schema: &Value) -> Value {
    let parts = SchemaParts::of(schema);
    let members = parts.members().filter_map(|(name, schema)| {
        // What is of another JSON type breaks rules of every sort.
        let wrong =
            misfitting(schema).into_iter().find(|(says, _)| *says == "of another JSON type");
        Some((name.clone(), wrong?.1))
    });
    Value::Object(members.collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn samples_keep_the_rules_and_break_them_one_by_one() {
        let schema = json!({
            "type": "object", "additionalProperties": false, "required": ["a", "b", "c"],
            "properties": {
                "a": {"type": "integer", "minimum": 3, "maximum": 5},
                "b": {"type": "string", "pattern": "^[A-Z]{2}$", "maxLength": 4},
                "c": {"allOf": [{"type": "array", "minItems": 2, "items": {"enum": ["x", "y"]}}]},
                "d": {"type": ["null", "string"], "format": "date"},
            },
        });
        let good = fitting(&schema);
        assert_eq!(good, json!({"a": 3, "b": "AA", "c": ["x", "x"]}));
        assert_eq!(all_wrong(&schema)["b"], true);
    }
}
