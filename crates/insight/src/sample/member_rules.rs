//! Bodies that keep the rules across their members, and bodies that break one.

use faithful_clerk_contract::{BodyRules, MemberRelation};
use faithful_clerk_model::json::pointer::from_tokens;
use faithful_clerk_shape::{ShapeTable, TypeName, is_date, is_date_time};
use serde_json::{Value, json};

use super::values::{fitting, of_shape};

/// A body of the contract's own members with those that have to be there; where none has, with all.
#[must_use]
pub fn of_body(rules: &BodyRules, shapes: &ShapeTable) -> Option<Value> {
    let fields = rules.fields.as_ref()?;
    let mut body = match fields.is_all_optional() {
        // An empty body would say nothing.
        true => fields
            .members
            .iter()
            .filter(|one| !matches!(one.constrained.name, TypeName::Absent))
            .map(|one| (one.name.clone(), fitting(&one.constrained, shapes)))
            .collect(),
        false => of_shape(fields, shapes),
    };
    for rule in &rules.member_rules {
        keep(&mut body, &rule.member, &rule.relation, rules, shapes);
    }
    Some(body)
}

/// Bodies that each break one rule across members, and nothing else; with what that is.
#[must_use]
pub fn each_broken(rules: &BodyRules, good: &Value, shapes: &ShapeTable) -> Vec<(String, Value)> {
    let mut bodies = Vec::new();
    for rule in &rules.member_rules {
        let mut body = good.clone();
        let member = from_tokens(&rule.member);
        for other in rule.relation.others() {
            let is_one_of = matches!(rule.relation, MemberRelation::OneOf(_));
            if !is_one_of && value(&body, other).is_none() {
                put(&mut body, other, sample(rules, other, shapes));
            }
        }
        match &rule.relation {
            MemberRelation::LaterThan(other) | MemberRelation::DiffersFrom(other) => {
                let same = value(&body, other).cloned();
                put(&mut body, &rule.member, same);
            }
            MemberRelation::RequiredWith(_) => take(&mut body, &rule.member),
            MemberRelation::OneOf(each) => each.iter().for_each(|one| take(&mut body, one)),
        }
        let found = rules.mismatches(&body, shapes);
        if matches!(found.as_slice(), [only] if only.pointer == member) {
            bodies.push((format!("`{member}` not {}", rule.relation.words()), body));
        }
    }
    bodies
}

/// Changes a made-up body until it keeps the rule, where that can be done without knowing more.
fn keep(
    body: &mut Value,
    member: &[String],
    relation: &MemberRelation,
    rules: &BodyRules,
    shapes: &ShapeTable,
) {
    match relation {
        MemberRelation::LaterThan(other) | MemberRelation::DiffersFrom(other) => {
            let (Some(own), Some(other)) = (value(body, member), value(body, other)) else {
                return;
            };
            let is_kept = matches!(relation, MemberRelation::DiffersFrom(_)) && own != other;
            let later = other_than(other).filter(|_| !is_kept);
            later.into_iter().for_each(|later| put(body, member, Some(later)));
        }
        MemberRelation::RequiredWith(other) => {
            if value(body, other).is_some() && value(body, member).is_none() {
                put(body, member, sample(rules, member, shapes));
            }
        }
        MemberRelation::OneOf(each) => {
            let there = each.iter().position(|one| value(body, one).is_some());
            match there {
                Some(first) => each.iter().skip(first + 1).for_each(|one| take(body, one)),
                None => {
                    let first = each.first().map(Vec::as_slice).unwrap_or_default();
                    put(body, first, sample(rules, first, shapes));
                }
            }
        }
    }
}

/// A value that is later than this one, or at least another.
fn other_than(value: &Value) -> Option<Value> {
    match value {
        Value::Number(number) => Some(json!(number.as_i64()?.checked_add(1)?)),
        Value::String(text) if is_date(text) => {
            Some(json!(text.parse::<jiff::civil::Date>().ok()?.tomorrow().ok()?.to_string()))
        }
        Value::String(text) if is_date_time(text) => {
            let instant = text.parse::<jiff::Timestamp>().ok()?;
            Some(json!(instant.checked_add(jiff::SignedDuration::from_hours(24)).ok()?.to_string()))
        }
        Value::String(text) => Some(json!(format!("{text}{text}"))),
        _ => None,
    }
}

fn value<'v>(body: &'v Value, pointer: &[String]) -> Option<&'v Value> {
    faithful_clerk_model::json::pointer::resolve(body, pointer).filter(|value| !value.is_null())
}

/// A value for a member of the top.
fn sample(rules: &BodyRules, pointer: &[String], shapes: &ShapeTable) -> Option<Value> {
    let [name] = pointer else { return None };
    let member = rules.fields.as_ref()?.member(name)?;
    Some(fitting(&member.constrained, shapes))
}

fn put(body: &mut Value, pointer: &[String], value: Option<Value>) {
    let (Some(value), Some((last, parent))) = (value, pointer.split_last()) else { return };
    if let Some(Value::Object(members)) = body.pointer_mut(&from_tokens(parent)) {
        members.insert(last.clone(), value);
    }
}

fn take(body: &mut Value, pointer: &[String]) {
    let Some((last, parent)) = pointer.split_last() else { return };
    if let Some(Value::Object(members)) = body.pointer_mut(&from_tokens(parent)) {
        members.shift_remove(last);
    }
}
