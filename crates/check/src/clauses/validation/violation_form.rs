//! The form of a validation error: what a caller's code has to know to find the fields in it.
//!
//! It is where the violations stand, in what container, under which member the field is named and under which the
//! reason. What else a violation has (parameters of its rule, the value that was sent, a code that some rules have) may
//! come and go without another form.

use serde_json::Value;

use crate::classify::{ReportedField, location_steps, reason_member};
use faithful_clerk_model::json::JsonType;
use faithful_clerk_model::json::pointer::{resolve, tokens};

/// The form, as an outline of the body without what may come and go.
pub(super) fn violation_form(body: &Value, entries: &[ReportedField]) -> String {
    let located = entries.iter().find(|entry| entry.location.is_some());
    let Some(entry) = located.or_else(|| entries.first()) else {
        return "no member for fields".to_owned();
    };
    let (Some(at), Some(own)) = (tokens(&entry.pointer), tokens(&entry.entry)) else {
        return "no member for fields".to_owned();
    };
    let item = resolve(body, &own);
    if at == own {
        return keyed(entry, at, item);
    }
    let mut list = own;
    let last = list.pop();
    let is_list = last.as_deref().is_some_and(is_index);
    let inner = at.get(list.len() + 1..).unwrap_or_default().join(".");
    let location = with_type(&inner, resolve(body, &at));
    let reason = item.and_then(reason_member).map(|(name, value)| with_type(name, Some(value)));
    let members: Vec<String> = std::iter::once(location).chain(reason).collect();
    let item = format!("{{{}}}", members.join(", "));
    within(&list, if is_list { format!("array of {item}") } else { item })
}

/// An object keyed by field, perhaps nested as the body is; or a list of sentences.
fn keyed(entry: &ReportedField, mut at: Vec<String>, item: Option<&Value>) -> String {
    let is_in_list =
        at.last().is_some_and(|last| is_index(last) && entry.location.as_ref() != Some(last));
    if is_in_list {
        at.pop();
    }
    let of = match item {
        Some(item) => with_reason(item),
        None => "string".to_owned(),
    };
    let of = if is_in_list { format!("array of {of}") } else { of };
    if entry.location.is_none() {
        return within(&at, of);
    }
    // A name for the whole of an object is no step.
    if at.last().is_some_and(|last| location_steps(last).is_empty()) {
        at.pop();
        if entry.steps.is_empty() {
            return within(&at, format!("map of {of}"));
        }
    }
    let above = match at.ends_with(&entry.steps) {
        true => at.len() - entry.steps.len(),
        false => at.len().saturating_sub(1),
    };
    within(at.get(..above).unwrap_or_default(), format!("map of {of}"))
}

fn with_reason(item: &Value) -> String {
    match item {
        Value::Array(_) => "array of string".to_owned(),
        Value::Object(_) => match reason_member(item) {
            Some((name, value)) => format!("{{{}}}", with_type(name, Some(value))),
            None => "object".to_owned(),
        },
        other => JsonType::of(other).to_string(),
    }
}

/// A member, with its JSON type where that is not a string; null is a member that is left out.
fn with_type(name: &str, value: Option<&Value>) -> String {
    match value {
        None | Some(Value::Null | Value::String(_)) => name.to_owned(),
        Some(other) => format!("{name}: {}", JsonType::of(other)),
    }
}

fn within(at: &[String], inner: String) -> String {
    at.iter().rev().fold(inner, |inner, member| format!("{{{member}: {inner}}}"))
}

fn is_index(step: &str) -> bool {
    !step.is_empty() && step.bytes().all(|byte| byte.is_ascii_digit())
}
