//! YAML, read into the same values as JSON.
//!
//! Aliases are copies, and a few lines of them can stand for a billion values; so what they expand to is
//! counted, and there is a limit to it.

use std::collections::HashMap;

use saphyr_parser::{Event, Parser, ScalarStyle, Span};
use serde_json::{Map, Number, Value};

/// A description of 10 MB has about half a million values.
const MOST_VALUES: usize = 2_000_000;

/// Text counts as one more value for each of so many bytes.
const BYTES_OF_A_VALUE: usize = 64;

/// As deep as JSON is read.
const MOST_NESTED: usize = 127;

/// Reads the first document of a YAML text.
///
/// # Errors
/// What is wrong, with line and column.
pub(super) fn read(text: &str) -> Result<Value, String> {
    let mut reader =
        YamlReader { anchors: HashMap::new(), values: 0, stack: Vec::new(), whole: None };
    for event in Parser::new_from_str(text) {
        let (event, span) = event.map_err(|error| error.to_string())?;
        if reader.event(event).map_err(|reason| place(&reason, span))? == Progress::Done {
            break;
        }
    }
    Ok(reader.whole.unwrap_or(Value::Null))
}

fn place(reason: &str, span: Span) -> String {
    format!("{reason} at line {} column {}", span.start.line(), span.start.col() + 1)
}

#[derive(PartialEq)]
enum Progress {
    More,
    Done,
}

struct YamlReader {
    /// What aliases stand for, each with its size.
    anchors: HashMap<usize, (Value, usize)>,
    values: usize,
    stack: Vec<OpenCollection>,
    whole: Option<Value>,
}

/// A list or a mapping that has not ended yet.
struct OpenCollection {
    anchor: usize,
    /// How many values there were when it began.
    before: usize,
    inner: Collection,
}

enum Collection {
    List(Vec<Value>),
    /// The members so far, what merge keys add behind them, and the key whose value comes next.
    Mapping(Map<String, Value>, Vec<Value>, Option<String>),
}

impl YamlReader {
    fn event(&mut self, event: Event<'_>) -> Result<Progress, String> {
        match event {
            Event::Scalar(text, style, anchor, _) => {
                let size = 1 + text.len() / BYTES_OF_A_VALUE;
                self.count(size)?;
                let value = scalar(&text, style);
                self.remember(anchor, &value, size);
                self.add(value)?;
            }
            Event::SequenceStart(anchor, _) => self.open(anchor, Collection::List(Vec::new()))?,
            Event::MappingStart(anchor, _) => {
                self.open(anchor, Collection::Mapping(Map::new(), Vec::new(), None))?;
            }
            Event::SequenceEnd | Event::MappingEnd => self.close()?,
            Event::Alias(anchor) => {
                let found = self.anchors.get(&anchor).cloned();
                let (value, size) = found.ok_or("an alias to a node that has not ended")?;
                self.count(size)?;
                self.add(value)?;
            }
            Event::DocumentEnd => return Ok(Progress::Done),
            Event::Nothing | Event::StreamStart | Event::StreamEnd | Event::DocumentStart(_) => {}
        }
        Ok(Progress::More)
    }

    fn count(&mut self, values: usize) -> Result<(), String> {
        self.values = self.values.saturating_add(values);
        if self.values > MOST_VALUES {
            return Err(format!("its aliases make more than {MOST_VALUES} values of it"));
        }
        Ok(())
    }

    fn remember(&mut self, anchor: usize, value: &Value, size: usize) {
        if anchor > 0 {
            self.anchors.insert(anchor, (value.clone(), size));
        }
    }

    fn open(&mut self, anchor: usize, inner: Collection) -> Result<(), String> {
        let before = self.values;
        self.count(1)?;
        if self.stack.len() >= MOST_NESTED {
            return Err(format!("nested more than {MOST_NESTED} levels deep"));
        }
        self.stack.push(OpenCollection { anchor, before, inner });
        Ok(())
    }

    fn close(&mut self) -> Result<(), String> {
        let Some(OpenCollection { anchor, before, inner }) = self.stack.pop() else {
            return Ok(());
        };
        let value = match inner {
            Collection::List(items) => Value::Array(items),
            Collection::Mapping(mut members, merged, _) => {
                // What stands in the mapping itself wins over what is merged into it.
                for value in merged {
                    merge(&mut members, value)?;
                }
                Value::Object(members)
            }
        };
        self.remember(anchor, &value, self.values - before);
        self.add(value)
    }

    fn add(&mut self, value: Value) -> Result<(), String> {
        match self.stack.last_mut().map(|open| &mut open.inner) {
            None => self.whole = Some(value),
            Some(Collection::List(items)) => items.push(value),
            Some(Collection::Mapping(members, merged, key)) => match key.take() {
                None => *key = Some(name(&value)?),
                Some(key) if key == "<<" => merged.push(value),
                Some(key) => {
                    if members.insert(key.clone(), value).is_some() {
                        return Err(format!("the key `{key}` is repeated in one mapping"));
                    }
                }
            },
        }
        Ok(())
    }
}

/// A key as JSON has it: `200:` is the member "200".
fn name(value: &Value) -> Result<String, String> {
    match value {
        Value::String(text) => Ok(text.clone()),
        Value::Number(_) | Value::Bool(_) | Value::Null => Ok(value.to_string()),
        Value::Array(_) | Value::Object(_) => Err("a key that is not a plain scalar".to_owned()),
    }
}

fn merge(members: &mut Map<String, Value>, value: Value) -> Result<(), String> {
    match value {
        Value::Object(more) => {
            for (key, value) in more {
                members.entry(key).or_insert(value);
            }
            Ok(())
        }
        Value::Array(items) => items.into_iter().try_for_each(|item| merge(members, item)),
        _ => Err("`<<` merges mappings only".to_owned()),
    }
}

/// The core schema of YAML 1.2 (section 10.3.2): `yes` and `on` are texts.
fn scalar(text: &str, style: ScalarStyle) -> Value {
    if style != ScalarStyle::Plain {
        return Value::from(text);
    }
    match text {
        "" | "~" | "null" | "Null" | "NULL" => return Value::Null,
        "true" | "True" | "TRUE" => return Value::Bool(true),
        "false" | "False" | "FALSE" => return Value::Bool(false),
        _ => {}
    }
    let digits = text.strip_prefix(['+', '-']).unwrap_or(text);
    if !digits.starts_with(|c: char| c.is_ascii_digit() || c == '.') {
        return Value::from(text);
    }
    let whole = || text.strip_prefix('+').unwrap_or(text).parse::<i64>().ok();
    let hex = || i64::from_str_radix(text.strip_prefix("0x")?, 16).ok();
    let octal = || i64::from_str_radix(text.strip_prefix("0o")?, 8).ok();
    if let Some(number) = whole().or_else(hex).or_else(octal) {
        return Value::from(number);
    }
    let float = text.parse::<f64>().ok().and_then(Number::from_f64);
    float.map_or_else(|| Value::from(text), Value::Number)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn values_are_those_of_the_core_schema() {
        let text = "a: 1\nb: -2.5\nc: yes\nd: ~\ne: 'true'\nf: true\n200: {g: [x, 0x1f, \"1\"]}\nh: 2031-04-05\ni: |\n  two\n  lines\n";
        let value = json!({"a": 1, "b": -2.5, "c": "yes", "d": null, "e": "true", "f": true,
            "200": {"g": ["x", 31, "1"]}, "h": "2031-04-05", "i": "two\nlines\n"});
        assert_eq!(read(text), Ok(value));
    }

    #[test]
    fn anchors_are_copied_and_merge_keys_give_way() {
        let text = "base: &b {x: 1, y: 2}\none: {<<: *b, y: 3}\ntwo: {<<: [*b, {z: 4}]}\n";
        let value = json!({"base": {"x": 1, "y": 2}, "one": {"y": 3, "x": 1}, "two": {"x": 1, "y": 2, "z": 4}});
        assert_eq!(read(text), Ok(value));
    }

    #[test]
    fn what_would_grow_without_end_is_refused() {
        let mut bomb = "a0: &a0 [x, x, x, x, x, x, x, x, x]\n".to_owned();
        for n in 1..12 {
            bomb.push_str(&format!(
                "a{n}: &a{n} [{}]\n",
                vec![format!("*a{}", n - 1); 9].join(", ")
            ));
        }
        assert!(read(&bomb).unwrap_err().contains("aliases"));
        assert!(read(&"[".repeat(500)).is_err());
        assert!(read("a: &a [*a]").is_err());
    }

    #[test]
    fn mistakes_say_where() {
        assert!(read("a: [1\nb: 2").unwrap_err().contains("line 2"));
        assert!(read("a: 1\na: 2").unwrap_err().contains("repeated in one mapping at line 2"));
        assert!(read("[1]: 2").is_err());
        assert!(read("<<: 3").is_err());
    }
}
