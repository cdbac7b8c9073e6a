//! How values are written into a document.

use serde::Serialize as _;
use serde_json::Value;
use serde_json::ser::{PrettyFormatter, Serializer};

/// Words that YAML 1.1 or 1.2 take for something else than text.
const WORDS: [&str; 9] = ["true", "false", "null", "yes", "no", "on", "off", "y", "n"];

/// What the line of a place starts with.
pub(super) fn line_indent(text: &str, at: usize) -> &str {
    let start = text.get(..at).and_then(|before| before.rfind('\n')).map_or(0, |line| line + 1);
    let line = text.get(start..).unwrap_or_default();
    let end = line.find(|c| c != ' ' && c != '\t').unwrap_or(line.len());
    line.get(..end).unwrap_or_default()
}

/// A text as YAML has it: plain where nobody can take it for something else.
pub(super) fn scalar(text: &str) -> String {
    let is_plain = text.starts_with(|c: char| c.is_ascii_alphabetic() || c == '$')
        && text.chars().all(|c| c.is_ascii_alphanumeric() || " $_./+-".contains(c))
        && !text.ends_with(' ')
        && !WORDS.contains(&text.to_ascii_lowercase().as_str());
    if is_plain { text.to_owned() } else { Value::from(text).to_string() }
}

/// A value in one line of YAML.
pub(super) fn flow(value: &Value) -> String {
    match value {
        Value::String(text) => Value::from(text.as_str()).to_string(),
        Value::Array(items) => {
            let items: Vec<String> = items.iter().map(flow).collect();
            format!("[{}]", items.join(", "))
        }
        Value::Object(members) => {
            let members =
                members.iter().map(|(name, value)| format!("{}: {}", scalar(name), flow(value)));
            format!("{{ {} }}", members.collect::<Vec<_>>().join(", "))
        }
        other => other.to_string(),
    }
}

/// An entry of a YAML block: its key, and its value in lines below where it has any.
pub(super) fn block(key: &str, value: &Value, indent: &str, step: &str) -> String {
    format!("{indent}{}:{}", scalar(key), below(value, indent, step))
}

/// A value behind its key or its dash, to the end of its last line.
fn below(value: &Value, indent: &str, step: &str) -> String {
    let deeper = format!("{indent}{step}");
    match value {
        Value::Object(members) if !members.is_empty() => {
            let entries = members.iter().map(|(name, value)| block(name, value, &deeper, step));
            format!("\n{}", entries.collect::<String>())
        }
        Value::Array(items) if !items.is_empty() => {
            let item = |item: &Value| {
                let inner = format!("{deeper}  ");
                match item {
                    Value::Object(members) if !members.is_empty() => {
                        let lines: String = members
                            .iter()
                            .map(|(name, value)| block(name, value, &inner, step))
                            .collect();
                        format!("{deeper}- {}", lines.trim_start())
                    }
                    other => format!("{deeper}-{}", below(other, &deeper, step)),
                }
            };
            format!("\n{}", items.iter().map(item).collect::<String>())
        }
        Value::Object(_) => " {}\n".to_owned(),
        Value::String(text) => format!(" {}\n", scalar(text)),
        other => format!(" {other}\n"),
    }
}

/// A member of a JSON object in lines, without the indent of its first.
pub(super) fn json_lines(key: &str, value: &Value, indent: &str, step: &str) -> String {
    let mut bytes = Vec::new();
    let mut serializer =
        Serializer::with_formatter(&mut bytes, PrettyFormatter::with_indent(step.as_bytes()));
    let written =
        value.serialize(&mut serializer).ok().and_then(|()| String::from_utf8(bytes).ok());
    let written = written.unwrap_or_else(|| value.to_string());
    format!("{}: {}", Value::from(key), written.replace('\n', &format!("\n{indent}")))
}
