//! Rules across members of a request's body, such as one date that has to be later than another.

use faithful_clerk_model::finding::{Expected, Got, MismatchKind};
use faithful_clerk_model::json::pointer::from_tokens;
use faithful_clerk_shape::{MOST_MISMATCHES, Mismatch, order, values_equal};
use serde_json::Value;

/// A rule that looks at several members of a body.
#[derive(Debug, Clone)]
pub struct MemberRule {
    /// The member that is reported, as reference tokens; `*` is each item of an array.
    pub member: Vec<String>,
    /// What has to hold.
    pub relation: MemberRelation,
}

/// What has to hold between members. A `*` in another member's pointer is the item that the same `*` of the reported
/// member's pointer is.
#[derive(Debug, Clone)]
pub enum MemberRelation {
    /// It is later than, or greater than, the other one.
    LaterThan(Vec<String>),
    /// It is another value than the other one.
    DiffersFrom(Vec<String>),
    /// It is there if the other one is.
    RequiredWith(Vec<String>),
    /// Exactly one of these is there.
    OneOf(Vec<Vec<String>>),
}

impl MemberRelation {
    /// The words for it.
    #[must_use]
    pub fn words(&self) -> String {
        let pointer = |tokens: &[String]| format!("`{}`", from_tokens(tokens));
        match self {
            Self::LaterThan(other) => format!("later than {}", pointer(other)),
            Self::DiffersFrom(other) => format!("another value than {}", pointer(other)),
            Self::RequiredWith(other) => format!("there if {} is", pointer(other)),
            Self::OneOf(each) => {
                let each: Vec<String> = each.iter().map(|one| pointer(one)).collect();
                format!("exactly one of {}", each.join(", "))
            }
        }
    }

    /// The other members.
    #[must_use]
    pub fn others(&self) -> Vec<&[String]> {
        match self {
            Self::LaterThan(other) | Self::DiffersFrom(other) | Self::RequiredWith(other) => {
                vec![other]
            }
            Self::OneOf(each) => each.iter().map(Vec::as_slice).collect(),
        }
    }
}

impl MemberRule {
    /// Every location at which a body breaks the rule, as far as `MOST_MISMATCHES`.
    #[must_use]
    pub fn mismatches(&self, body: &Value) -> Vec<Mismatch> {
        let mut found = Vec::new();
        for location in locations(body, &self.member) {
            if found.len() == MOST_MISMATCHES {
                break;
            }
            found.extend(self.broken_at(body, &location));
        }
        found
    }

    fn broken_at(&self, body: &Value, location: &[String]) -> Option<Mismatch> {
        let items: Vec<&String> = self
            .member
            .iter()
            .zip(location)
            .filter(|(step, _)| *step == "*")
            .map(|(_, at)| at)
            .collect();
        let there = |pattern: &[String]| {
            let mut items = items.iter();
            let steps: Vec<&str> = pattern
                .iter()
                .map(|step| match step.as_str() {
                    "*" => items.next().map_or("*", |item| item.as_str()),
                    step => step,
                })
                .collect();
            value_at(body, &steps).filter(|value| !value.is_null())
        };
        let own = value_at(body, location).filter(|value| !value.is_null());
        let kind = match &self.relation {
            MemberRelation::LaterThan(other) => {
                let is_later = order(own?, there(other)?)?.is_gt();
                (!is_later).then_some(MismatchKind::Rule)
            }
            MemberRelation::DiffersFrom(other) => {
                values_equal(own?, there(other)?).then_some(MismatchKind::Rule)
            }
            MemberRelation::RequiredWith(other) => {
                (own.is_none() && there(other).is_some()).then_some(MismatchKind::Missing)
            }
            MemberRelation::OneOf(each) => {
                match each.iter().filter(|one| there(one).is_some()).count() {
                    1 => None,
                    0 => Some(MismatchKind::Missing),
                    _ => Some(MismatchKind::Rule),
                }
            }
        }?;
        Some(Mismatch {
            pointer: from_tokens(location),
            kind,
            expected: Expected::Type(self.relation.words()),
            got: own.map_or(Got::None, Got::value),
        })
    }
}

/// The locations that a pointer with `*` stands for. Its last step need not be there; what leads to it has to.
fn locations(body: &Value, pattern: &[String]) -> Vec<Vec<String>> {
    let mut open: Vec<(&Value, Vec<String>)> = vec![(body, Vec::new())];
    let Some((last, steps)) = pattern.split_last() else { return vec![Vec::new()] };
    for step in steps {
        open = open.into_iter().flat_map(|(value, way)| below(value, &way, step)).collect();
    }
    let ends = open.into_iter().flat_map(|(value, way)| match (last.as_str(), value) {
        ("*", _) => below(value, &way, last).into_iter().map(|(_, way)| way).collect(),
        (_, Value::Object(_)) => vec![[way.as_slice(), std::slice::from_ref(last)].concat()],
        _ => Vec::new(),
    });
    ends.collect()
}

/// What stands one step below a value.
fn below<'v>(value: &'v Value, way: &[String], step: &String) -> Vec<(&'v Value, Vec<String>)> {
    let with = |step: String| [way, &[step]].concat();
    match value {
        Value::Array(items) if step == "*" => {
            items.iter().enumerate().map(|(at, item)| (item, with(at.to_string()))).collect()
        }
        value => value_at(value, std::slice::from_ref(step))
            .map(|below| (below, with(step.clone())))
            .into_iter()
            .collect(),
    }
}

fn value_at<'v, T: AsRef<str>>(body: &'v Value, steps: &[T]) -> Option<&'v Value> {
    faithful_clerk_model::json::pointer::resolve(body, steps)
}
