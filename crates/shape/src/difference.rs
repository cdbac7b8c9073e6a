//! How one form of bodies differs from another, place by place.

use super::sketch::InferredShape;
use faithful_clerk_model::json::pointer::join;

/// How they differ at one place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum DifferenceKind {
    /// It is always in the usual form, and never here.
    Missing,
    /// It is never in the usual form, and it is here.
    Added,
    /// It is always in the usual form, and only sometimes here.
    Optional,
    /// It is of another JSON type here.
    OtherType,
    /// An object whose members are all of one form has others here: it may be keyed by data.
    OtherKeys,
}

/// One location at which a form differs from the usual one.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ShapeDifference {
    /// The location, as a JSON Pointer in which `*` stands for every item of a list and every key of a map.
    pub pointer: String,
    /// How.
    pub kind: DifferenceKind,
    /// What the usual form has there, in words.
    pub usual: String,
    /// What is here, in words.
    pub here: String,
}

/// Every location at which `here` differs from `usual`; below a difference nothing more is told.
#[must_use]
pub fn differences(usual: &InferredShape, here: &InferredShape) -> Vec<ShapeDifference> {
    let mut found = Vec::new();
    walk(usual, here, "", &mut found);
    found
}

fn walk(
    usual: &InferredShape,
    here: &InferredShape,
    location: &str,
    found: &mut Vec<ShapeDifference>,
) {
    let words = |sketch: &InferredShape| match sketch.kinds().as_slice() {
        [] => "null".to_owned(),
        kinds => kinds.join(" or "),
    };
    let mut differ = |location: String, how, usual: String, here: String| {
        found.push(ShapeDifference { pointer: location, kind: how, usual, here });
    };
    let whole =
        |sketch: &InferredShape| sketch.kinds().iter().map(|kind| loose(kind)).collect::<Vec<_>>();
    let (mine, others) = (whole(usual), whole(here));
    if !mine.is_empty() && !others.is_empty() && mine != others {
        return differ(location.to_owned(), DifferenceKind::OtherType, words(usual), words(here));
    }
    let other_keys = (!location.is_empty()).then(|| other_keys(usual, here)).flatten();
    if let Some([gone, came]) = &other_keys {
        differ(location.to_owned(), DifferenceKind::OtherKeys, gone.clone(), came.clone());
    }
    for (name, member) in &usual.members {
        let at = join(location, name);
        match here.members.get(name) {
            Some(same) => {
                if usual.always(member) && !here.always(same) {
                    let (usual, here) = (words(member), words(same));
                    let (pointer, kind) = (at.clone(), DifferenceKind::Optional);
                    found.push(ShapeDifference { pointer, kind, usual, here });
                }
                walk(member, same, &at, found);
            }
            None if other_keys.is_some() => {}
            None if here.objects > 0 && here.keyed.is_none() && usual.always(member) => {
                let usual = words(member);
                found.push(ShapeDifference {
                    pointer: at,
                    kind: DifferenceKind::Missing,
                    usual,
                    here: String::new(),
                });
            }
            None => {}
        }
    }
    for (name, member) in &here.members {
        let is_new = usual.objects > 0 && !usual.members.contains_key(name);
        if is_new && usual.keyed.is_none() && other_keys.is_none() {
            let (location, here) = (join(location, name), words(member));
            found.push(ShapeDifference {
                pointer: location,
                kind: DifferenceKind::Added,
                usual: String::new(),
                here,
            });
        }
    }
    let inside = [(&usual.items, &here.items), (&usual.keyed, &here.keyed)];
    for (usual, here) in inside {
        if let (Some(usual), Some(here)) = (usual, here) {
            walk(usual, here, &format!("{location}/*"), found);
        }
    }
}

/// The names that are gone and those that came, where all members of both are objects of one form, which data may be the
/// keys of.
fn other_keys(usual: &InferredShape, here: &InferredShape) -> Option<[String; 2]> {
    let names = |one: &InferredShape, other: &InferredShape| -> Vec<String> {
        one.members.keys().filter(|name| !other.members.contains_key(*name)).cloned().collect()
    };
    let [gone, came] = [names(usual, here), names(here, usual)];
    if gone.is_empty() || came.is_empty() {
        return None;
    }
    let mut members = usual.members.values().chain(here.members.values());
    let first = members.next()?;
    let is_record = first.objects > 0 && first.members.len() > 1;
    let phrase = first.phrase();
    let are_even = is_record && members.all(|member| member.phrase() == phrase);
    let listed = |names: Vec<String>| names.into_iter().take(8).collect::<Vec<_>>().join(", ");
    are_even.then(|| [gone, came].map(listed))
}

/// A whole number stands where another number could.
fn loose(kind: &'static str) -> &'static str {
    if kind == "integer" { "number" } else { kind }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::DataLocations;
    use serde_json::{Value, json};

    #[test]
    fn what_is_gone_added_or_of_another_kind_is_told_at_its_place() {
        let one = |body: &Value| InferredShape::of(body, &DataLocations::default());
        let usual =
            json!({"title": "x", "errors": [{"pointer": "/a", "detail": "b"}], "n": 1, "e": []});
        let here = json!({"message": "x", "errors": [{"field": "a", "detail": ["b"]}], "n": 1.5, "e": [1]});
        let told: Vec<String> = differences(&one(&usual), &one(&here))
            .into_iter()
            .map(|d| format!("{} {:?} {} {}", d.pointer, d.kind, d.usual, d.here))
            .collect();
        assert_eq!(
            told,
            [
                "/errors/*/detail OtherType string array",
                "/errors/*/pointer Missing string ",
                "/errors/*/field Added  string",
                "/title Missing string ",
                "/message Added  string",
            ]
        );
        assert!(differences(&one(&usual), &one(&usual)).is_empty());
    }
}
