//! What `[envelope]` says of a body, put where it belongs in a drafted one.

use serde_json::{Map, Value};

use crate::sample::SOME_TEXT;
use faithful_clerk_contract::{ErrorContract, ErrorStyle, Fault, LANGUAGE};
use faithful_clerk_shape::{ConstrainedType, Shape, ShapeTable, TypeName, value_fits};

/// A fault whose envelope is filled.
pub(super) struct EnvelopeSample<'p> {
    pub(super) contract: &'p ErrorContract,
    pub(super) fault: &'p Fault,
    pub(super) style: &'p ErrorStyle,
    pub(super) shape: Option<&'p Shape>,
    /// The language that is due.
    pub(super) language: Option<&'p str>,
}

/// Fills in the status, the code, the title, the message and the flag, wherever they belong.
pub(super) fn fill_envelope(body: &mut Value, of: &EnvelopeSample<'_>) {
    let envelope = &of.style.envelope;
    let fitting = |steps: &[String], text: &str| {
        let number = text.parse::<i64>().map_or(Value::from(text), Value::from);
        let declared = of.shape.and_then(|shape| type_at(shape, steps, &of.contract.shapes));
        match declared {
            Some(declared) if !value_fits(&number, declared, &of.contract.shapes) => {
                Value::from(text)
            }
            _ => number,
        }
    };
    let code_member = || vec!["code".to_owned()];
    if let Some(code) = &of.fault.code {
        let steps = envelope.code.clone().unwrap_or_else(code_member);
        put(body, &steps, &fitting(&steps, code));
    }
    if let Some(steps) = &envelope.status {
        put(body, steps, &fitting(steps, &of.fault.status.to_string()));
    }
    if let Some(steps) = &envelope.success {
        let declared = of.shape.and_then(|shape| type_at(shape, steps, &of.contract.shapes));
        let no = Value::from(false);
        if declared.is_none_or(|declared| value_fits(&no, declared, &of.contract.shapes)) {
            put(body, steps, &no);
        }
    }
    for (steps, text) in [(&envelope.title, true), (&envelope.message, false)] {
        let Some(steps) = steps else { continue };
        for (steps, language) in by_language(steps, of) {
            let words = if text { of.fault.title_in(language) } else { Some(SOME_TEXT) };
            if let Some(words) = words {
                put(body, &steps, &Value::from(words));
            }
        }
    }
}

/// The places of a text: one, in the language that is due, or one for each language.
fn by_language<'p>(
    steps: &[String],
    of: &EnvelopeSample<'p>,
) -> Vec<(Vec<String>, Option<&'p str>)> {
    if !steps.iter().any(|step| step == LANGUAGE) {
        return vec![(steps.to_vec(), of.language)];
    }
    let place = |language: &'p String| {
        let step = |step: &String| if step == LANGUAGE { language } else { step }.clone();
        (steps.iter().map(step).collect(), Some(language.as_str()))
    };
    of.contract.languages.iter().map(place).collect()
}

/// What a shape says of the value at a place of it.
pub(super) fn type_at<'p>(
    shape: &'p Shape,
    steps: &[String],
    shapes: &'p ShapeTable,
) -> Option<&'p ConstrainedType> {
    let (first, rest) = steps.split_first()?;
    let mut declared = &shape.members.iter().find(|member| member.name == *first)?.constrained;
    for step in rest {
        declared = match &declared.name {
            TypeName::Array(item) => item,
            TypeName::Map(inner) => inner,
            TypeName::Shape(id) => {
                &shapes.get(*id)?.members.iter().find(|member| member.name == *step)?.constrained
            }
            _ => return None,
        };
    }
    Some(declared)
}

/// Puts a value at a place, making the objects on the way; `*` is each item of an array, or its first.
pub(super) fn put(body: &mut Value, steps: &[String], value: &Value) {
    let Some((first, rest)) = steps.split_first() else {
        *body = value.clone();
        return;
    };
    match body {
        Value::Array(items) if first == "*" => {
            if items.is_empty() {
                items.push(Value::Object(Map::new()));
            }
            items.iter_mut().for_each(|item| put(item, rest, value));
        }
        Value::Object(members) => {
            let empty = || match rest.first() {
                Some(next) if next == "*" => Value::Array(Vec::new()),
                _ => Value::Object(Map::new()),
            };
            put(members.entry(first.clone()).or_insert_with(empty), rest, value);
        }
        _ => {}
    }
}

/// Puts the members of an object in the order of its shape.
pub(super) fn in_order(value: &mut Value, shape: &Shape) {
    let Value::Object(members) = value else { return };
    let order = |name: &str| shape.members.iter().position(|member| member.name == name);
    let mut all: Vec<(String, Value)> = std::mem::take(members).into_iter().collect();
    all.sort_by_key(|(name, _)| order(name).unwrap_or(usize::MAX));
    members.extend(all);
}
