//! Bodies that break rules: each rule alone, and all at once.

use std::collections::BTreeMap;

use serde_json::{Map, Value, json};

use crate::sample;
use faithful_clerk_contract::{BodyRules, ErrorContract};
use faithful_clerk_shape::{ConstrainedType, Limit, Shape, ShapeTable, TypeName, value_fits};

/// No text and no list is made longer than this.
const LONGEST: usize = 100_000;

/// Words that stand for text, and how many letters the first has.
const WORDS: &str = "Sample text ";
const WORD: usize = 6;

/// Nothing is looked into deeper than this.
const DEEPEST: usize = 16;

/// A body that keeps all rules, as far as one can be made up; the values that are given by name are in it.
pub(super) fn whole(
    contract: &ErrorContract,
    body: &BodyRules,
    values: &BTreeMap<String, String>,
) -> Value {
    let mut whole = readable(contract, body, made_up(contract, body));
    for (name, member) in whole.as_object_mut().into_iter().flatten() {
        if let Some(value) = values.get(name).filter(|_| member.is_string()) {
            *member = json!(value);
        }
    }
    whole
}

fn made_up(contract: &ErrorContract, body: &BodyRules) -> Value {
    let keeps_rules = |example: &&Value| {
        body.schema.as_ref().is_none_or(|schema| schema.admits(example)) && body.fields.is_none()
    };
    if let Some(example) = body.example.as_ref().filter(keeps_rules) {
        return example.clone();
    }
    match (sample::of_body(body, &contract.shapes), body.schema.as_ref()) {
        (Some(whole), _) => whole,
        (None, Some(schema)) => sample::schema::fitting(schema.spelled()),
        (None, None) => json!({}),
    }
}

/// The body with words where a sign only stands for text, if it keeps the rules so: a service may take fewer signs than letters.
fn readable(contract: &ErrorContract, rules: &BodyRules, body: Value) -> Value {
    let keeps_rules = |body: &Value| rules.mismatches(body, &contract.shapes).is_empty();
    let texts: [fn(usize) -> String; 2] = [
        |length| WORDS.chars().cycle().take(length.max(WORD)).collect(),
        |length| "x".repeat(length),
    ];
    let candidates = texts.into_iter().map(|text| {
        let mut body = body.clone();
        put_words(&mut body, text, 0);
        body
    });
    candidates.into_iter().find(keeps_rules).unwrap_or(body)
}

fn put_words(value: &mut Value, words: fn(usize) -> String, depth: usize) {
    match value {
        Value::String(text)
            if !text.is_empty() && text.replace(sample::SOME_TEXT, "").is_empty() =>
        {
            *text = words(text.chars().count());
        }
        Value::Array(items) if depth < DEEPEST => {
            items.iter_mut().for_each(|item| put_words(item, words, depth + 1));
        }
        Value::Object(members) if depth < DEEPEST => {
            members.values_mut().for_each(|member| put_words(member, words, depth + 1));
        }
        _ => {}
    }
}

/// Every member wrong at once.
pub(super) fn all_wrong(contract: &ErrorContract, fields: &Shape) -> Value {
    if let Some(of) = &fields.of {
        return sample::misfitting(of, &contract.shapes).unwrap_or_default();
    }
    let members = fields.members.iter().filter_map(|member| {
        Some((member.name.clone(), sample::misfitting(&member.constrained, &contract.shapes)?))
    });
    Value::Object(members.collect::<Map<_, _>>())
}

/// Values that do not fit, one for each way not to, each with words for it.
pub(super) fn misfits(typed: &ConstrainedType, shapes: &ShapeTable) -> Vec<(&'static str, Value)> {
    let mut found: Vec<(&'static str, Value)> = Vec::new();
    let mut add = |says: &'static str, value: Value| {
        let is_known = found.iter().any(|(known, other)| *known == says || *other == value);
        if !is_known && !value_fits(&value, typed, shapes) {
            found.push((says, value));
        }
    };
    for limit in &typed.limits {
        match (limit, &typed.name) {
            (Limit::AtLeast(least), TypeName::Number | TypeName::Integer | TypeName::Status) => {
                add("too small", number(least - 1.0));
            }
            (Limit::AtMost(most), TypeName::Number | TypeName::Integer | TypeName::Status) => {
                add("too large", number(most + 1.0));
            }
            (Limit::AtLeast(least), TypeName::String) => {
                add("too short", json!("x".repeat(length(*least).saturating_sub(1))));
            }
            (Limit::AtMost(most), TypeName::String) => {
                add("too long", json!("x".repeat(length(*most) + 1)));
            }
            (Limit::AtLeast(least), TypeName::Array(item)) => {
                let items = vec![sample::fitting(item, shapes); length(*least).saturating_sub(1)];
                add("with too few items", Value::Array(items));
            }
            (Limit::AtMost(most), TypeName::Array(item)) if *most < 1000.0 => {
                add(
                    "with too many items",
                    json!(vec![sample::fitting(item, shapes); length(*most) + 1]),
                );
            }
            (Limit::Matching(_), _) => {
                add("of the wrong format", json!("?"));
                let fitting = sample::fitting(typed, shapes);
                let mut letters: Vec<char> = fitting.as_str().unwrap_or_default().chars().collect();
                letters.pop();
                let wrong: String = letters.into_iter().chain(['!']).collect();
                add("wrong in its last character", json!(wrong));
            }
            (Limit::NotBefore(_), TypeName::Date) => add("too early", json!("1999-12-31")),
            (Limit::NotBefore(_), TypeName::DateTime) => {
                add("too early", json!("1999-12-31T00:00:00Z"));
            }
            _ => {}
        }
    }
    match &typed.name {
        TypeName::OneOf(_) | TypeName::Exactly(_) => {
            add("none of those that are allowed", json!("no-such-value"));
        }
        TypeName::NotExactly(unwanted) => add("the one that is not allowed", unwanted.clone()),
        TypeName::HttpDate => add("of the wrong format", json!("31 January 2027")),
        TypeName::Date => add("of the wrong format", json!("2027-02-30")),
        TypeName::DateTime => add("of the wrong format", json!("2027-01-31T12:00:00")),
        TypeName::Uri | TypeName::UriReference | TypeName::JsonPointer | TypeName::LanguageTag => {
            add("of the wrong format", json!("no such thing %"));
        }
        _ => {}
    }
    if matches!(typed.name, TypeName::String) {
        add("empty", json!(""));
        add("blank", json!("   "));
    }
    if matches!(typed.name, TypeName::Integer) {
        add("a fraction", json!(1.5));
    }
    for other in [json!(true), json!({}), json!("17")] {
        add("of another JSON type", other);
    }
    add("null", Value::Null);
    found
}

/// Values that fit, and stand on a limit.
pub(super) fn on_limits(
    typed: &ConstrainedType,
    shapes: &ShapeTable,
) -> Vec<(&'static str, Value)> {
    let mut found: Vec<(&'static str, Value)> = Vec::new();
    let mut add = |says: &'static str, value: Value| {
        if value_fits(&value, typed, shapes) {
            found.push((says, value));
        }
    };
    for limit in &typed.limits {
        match (limit, &typed.name) {
            (Limit::AtLeast(least), TypeName::Number | TypeName::Integer) => {
                add("at its least", number(*least));
            }
            (Limit::AtMost(most), TypeName::Number | TypeName::Integer) => {
                add("at its most", number(*most));
            }
            (Limit::AtLeast(least), TypeName::String) => {
                add("at its shortest", json!("x".repeat(length(*least))));
            }
            (Limit::AtMost(most), TypeName::String) => {
                add("at its longest", json!("x".repeat(length(*most))));
            }
            (Limit::AtLeast(least), TypeName::Array(item)) => {
                let items = vec![sample::fitting(item, shapes); length(*least)];
                add("with as few items as it may have", Value::Array(items));
            }
            (Limit::AtMost(most), TypeName::Array(item)) if *most < 1000.0 => {
                let items = vec![sample::fitting(item, shapes); length(*most)];
                add("with as many items as it may have", Value::Array(items));
            }
            _ => {}
        }
    }
    found
}

pub(super) fn length(limit: f64) -> usize {
    (0..LONGEST).find(|length| *length as f64 >= limit).unwrap_or(LONGEST)
}

fn number(value: f64) -> Value {
    serde_json::Number::from_f64(value).map_or(Value::Null, |number| {
        // Without a fraction, where there is none: an integer's rule is not about that.
        let text = if value.fract() == 0.0 { format!("{value:.0}") } else { number.to_string() };
        serde_json::from_str(&text).unwrap_or(Value::Null)
    })
}
