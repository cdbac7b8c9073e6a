//! A sketch: what was seen at each place of the bodies of one sort, counted.
//!
//! A sketch of many bodies is the sum of the sketches of each, whatever the order in which they are
//! added, so one is made by every worker and they add up at the end.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use serde_json::{Number, Value};

use super::kind::PROBLEM_MEMBERS;
use super::outline::{DataLocations, at_steps};
use faithful_clerk_model::json::pointer::JsonPath;

/// Deeper than this nobody compares.
const MOST_NESTED: usize = 8;

/// An object with more members than this is keyed by data.
pub const MOST_MEMBERS: usize = 256;

/// Objects with less than this in common, in percent of the larger one, are two forms.
pub const LEAST_LIKENESS: usize = 50;

/// In an [uncounted](Sketch::uncounted) sketch there are so many objects, of which some members have fewer.
const ALWAYS: u64 = 2;

/// Where a value stands, for telling whether two are of one form.
#[derive(Debug, Clone, Copy)]
pub(super) enum Nesting {
    /// In the fixed part of a body.
    Fixed,
    /// In a list, or under a key that is data: entries differ in what they have.
    Entry,
    /// In such an entry: what is there depends on the entry's rule or code.
    Inside,
}

impl Nesting {
    pub(super) fn entry(self) -> Self {
        match self {
            Self::Fixed => Self::Entry,
            Self::Entry | Self::Inside => Self::Inside,
        }
    }

    pub(super) fn member(self) -> Self {
        match self {
            Self::Fixed => Self::Fixed,
            Self::Entry | Self::Inside => Self::Inside,
        }
    }
}

/// What was seen at one place.
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(default)]
pub struct InferredShape {
    /// How many values.
    #[serde(skip_serializing_if = "is_zero")]
    pub count: u64,
    /// How many of them were `null`.
    #[serde(skip_serializing_if = "is_zero")]
    pub nulls: u64,
    /// `true` or `false`.
    #[serde(skip_serializing_if = "is_zero")]
    pub booleans: u64,
    /// Numbers without a fraction.
    #[serde(skip_serializing_if = "is_zero")]
    pub integers: u64,
    /// Other numbers.
    #[serde(skip_serializing_if = "is_zero")]
    pub fractions: u64,
    /// Text.
    #[serde(skip_serializing_if = "is_zero")]
    pub texts: u64,
    /// Values of whatever type, which give back what a request had.
    #[serde(skip_serializing_if = "is_zero")]
    pub echoes: u64,
    /// Lists or objects that stand too deep to be looked at.
    #[serde(skip_serializing_if = "is_zero")]
    pub deep: u64,
    /// Lists.
    #[serde(skip_serializing_if = "is_zero")]
    pub lists: u64,
    /// Those of them that are the steps of a location, whatever stands in them.
    #[serde(skip_serializing_if = "is_zero")]
    pub locations: u64,
    /// What was seen in the lists, all items together.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub items: Option<Box<Self>>,
    /// Objects.
    #[serde(skip_serializing_if = "is_zero")]
    pub objects: u64,
    /// Those of them that are keyed by field, nested as what they tell of is.
    #[serde(skip_serializing_if = "is_zero")]
    pub nested: u64,
    /// Their members.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub members: BTreeMap<String, Self>,
    /// The members of objects that are keyed by data, all together.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub keyed: Option<Box<Self>>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde hands over a reference")]
fn is_zero(count: &u64) -> bool {
    *count == 0
}

impl InferredShape {
    /// The sketch of one value.
    #[must_use]
    pub fn of(value: &Value, varying: &DataLocations) -> Self {
        let mut sketch = Self::default();
        sketch.note(value, &JsonPath::Top, varying, 0);
        sketch
    }

    /// Adds one value, as the sum of its own sketch would be.
    fn note(&mut self, value: &Value, path: &JsonPath<'_>, varying: &DataLocations, depth: usize) {
        let is = |places: &BTreeSet<String>| !places.is_empty() && places.contains(&path.pointer());
        self.count += 1;
        if varying.is_echo(path) {
            self.echoes += 1;
            return;
        }
        if let Some(fields) = varying.fields_below(path).filter(|_| depth <= MOST_NESTED) {
            self.objects += 1;
            self.fold();
            self.nested += u64::from(fields.iter().any(|steps| steps.len() > 1));
            let keyed = self.keyed.get_or_insert_default();
            for steps in fields {
                at_steps(value, path, &steps, &mut |value, path| {
                    keyed.note(value, path, varying, depth + 1);
                });
            }
            return;
        }
        match value {
            Value::Null => self.nulls += 1,
            Value::Bool(_) => self.booleans += 1,
            Value::Number(number) if is_whole(number) => self.integers += 1,
            Value::Number(_) => self.fractions += 1,
            Value::String(_) => self.texts += 1,
            _ if depth > MOST_NESTED => self.deep += 1,
            // A array of reference tokens names a place; it is one value, whatever stands in it.
            Value::Array(_) if is(&varying.places) => {
                self.lists += 1;
                self.locations += 1;
            }
            Value::Array(list) => {
                self.lists += 1;
                for (at, item) in list.iter().enumerate() {
                    let items = self.items.get_or_insert_default();
                    items.note(item, &JsonPath::Item(path, at), varying, depth + 1);
                }
            }
            Value::Object(members) => {
                self.objects += 1;
                if self.keyed.is_some() || members.len() > MOST_MEMBERS || is(&varying.keyed) {
                    self.fold();
                }
                for (name, member) in members {
                    let path = JsonPath::Member(path, name);
                    let known = match &mut self.keyed {
                        Some(keyed) => Some(&mut **keyed),
                        None => self.members.get_mut(name),
                    };
                    if let Some(known) = known {
                        known.note(member, &path, varying, depth + 1);
                    } else {
                        let mut first = Self::default();
                        first.note(member, &path, varying, depth + 1);
                        self.members.insert(name.clone(), first);
                    }
                }
                if self.members.len() > MOST_MEMBERS {
                    self.fold();
                }
            }
        }
    }

    /// Adds what another sketch saw at the same place.
    pub fn add(&mut self, other: Self) {
        let Self {
            count,
            nulls,
            booleans,
            integers,
            fractions,
            texts,
            echoes,
            deep,
            lists,
            locations,
            items,
            objects,
            nested,
            members,
            keyed,
        } = other;
        self.count += count;
        self.nulls += nulls;
        self.booleans += booleans;
        self.integers += integers;
        self.fractions += fractions;
        self.texts += texts;
        self.echoes += echoes;
        self.deep += deep;
        self.lists += lists;
        self.locations += locations;
        self.objects += objects;
        self.nested += nested;
        add_boxed(&mut self.items, items);
        add_boxed(&mut self.keyed, keyed);
        for (name, sketch) in members {
            self.members.entry(name).or_default().add(sketch);
        }
        if self.keyed.is_some() || self.members.len() > MOST_MEMBERS {
            self.fold();
        }
    }

    /// Takes the object for one that is keyed by data: all its members become one.
    pub(super) fn fold(&mut self) {
        let members = std::mem::take(&mut self.members);
        let keyed = self.keyed.get_or_insert_default();
        for sketch in members.into_values() {
            keyed.add(sketch);
        }
    }

    /// The same without its counts, but for which members are [always](Self::always) there. So it is equal
    /// for lists of any length, as long as one form of items stands in them.
    #[must_use]
    pub fn uncounted(mut self) -> Self {
        self.uncount(ALWAYS);
        self
    }

    fn uncount(&mut self, count: u64) {
        let objects = self.objects;
        self.count = count;
        for kind in [
            &mut self.nulls,
            &mut self.booleans,
            &mut self.integers,
            &mut self.fractions,
            &mut self.texts,
            &mut self.echoes,
            &mut self.deep,
            &mut self.lists,
            &mut self.locations,
            &mut self.nested,
        ] {
            *kind = 1.min(*kind);
        }
        self.objects = if objects > 0 { ALWAYS } else { 0 };
        for member in self.members.values_mut() {
            let is_always = member.count >= objects;
            member.uncount(if is_always { ALWAYS } else { ALWAYS - 1 });
        }
        for inner in [&mut self.items, &mut self.keyed].into_iter().flatten() {
            inner.uncount(ALWAYS);
        }
    }

    /// Is the member of that name in every object that was seen?
    #[must_use]
    pub fn always(&self, member: &Self) -> bool {
        member.count >= self.objects
    }

    /// The kinds that were seen, `null` left out, in words; lists and objects without what is in them.
    #[must_use]
    pub fn kinds(&self) -> Vec<&'static str> {
        if self.echoes > 0 {
            return vec!["anything"];
        }
        let numbers = if self.fractions > 0 { "number" } else { "integer" };
        [
            (self.booleans, "boolean"),
            (self.integers + self.fractions, numbers),
            (self.texts, "string"),
            (self.lists, "array"),
            (self.objects + self.deep, if self.keyed.is_some() { "map" } else { "object" }),
        ]
        .into_iter()
        .filter_map(|(count, word)| (count > 0).then_some(word))
        .collect()
    }

    /// The whole in one line, the same for all sketches of one form: members by name, `?` behind those
    /// that can be left out.
    #[must_use]
    pub fn phrase(&self) -> String {
        let mut words: Vec<String> = Vec::new();
        for kind in self.kinds() {
            words.push(match kind {
                "array" if self.locations > 0 => "array of string or number".to_owned(),
                "array" => match &self.items {
                    Some(items) => format!("array of {}", items.phrase()),
                    None => "array".to_owned(),
                },
                "map" => match &self.keyed {
                    Some(keyed) => format!("map of {}", keyed.phrase()),
                    None => "map".to_owned(),
                },
                "object" => {
                    let member = |(name, member): (&String, &Self)| {
                        let mark = if self.always(member) { "" } else { "?" };
                        format!("{name}{mark}: {}", member.phrase())
                    };
                    let members: Vec<String> = self.members.iter().map(member).collect();
                    format!("{{{}}}", members.join(", "))
                }
                "integer" => "number".to_owned(),
                other => other.to_owned(),
            });
        }
        if self.nulls > 0 && self.echoes == 0 {
            words.push("null".to_owned());
        }
        words.join(" or ")
    }

    /// Are both of one form: would one declaration with optional members serve both? Null goes with anything, an echo
    /// too, and an empty list with any list. Members that only one of them has can be left out, as long as half of the
    /// members are in both; of the entries of a list, as long as any is; of what is inside an entry, anyhow.
    #[must_use]
    pub fn resembles(&self, other: &Self) -> bool {
        self.resembles_at(other, Nesting::Fixed)
    }

    fn resembles_at(&self, other: &Self, nesting: Nesting) -> bool {
        if self.echoes > 0 || other.echoes > 0 {
            return true;
        }
        let (mine, others) = (self.sorts(), other.sorts());
        if mine != 0 && others != 0 && mine != others {
            return false;
        }
        let both = |one: &Option<Box<Self>>, other: &Option<Box<Self>>| match (one, other) {
            (Some(one), Some(other)) => one.resembles_at(other, nesting.entry()),
            _ => true,
        };
        let as_map = |map: &Self, object: &Self| {
            let fits = |keyed: &Self| {
                object.members.values().all(|m| keyed.resembles_at(m, nesting.entry()))
            };
            map.keyed.as_deref().is_none_or(fits)
        };
        let is_empty = self.members.is_empty() || other.members.is_empty();
        let of_members = is_empty
            || match nesting {
                Nesting::Fixed => self.likeness(other) >= LEAST_LIKENESS,
                Nesting::Entry => self.members.keys().any(|name| other.members.contains_key(name)),
                Nesting::Inside => true,
            };
        // What a rule says of itself may be a number here and a text there.
        let of_keys = matches!(nesting, Nesting::Inside)
            || (both(&self.keyed, &other.keyed) && as_map(self, other) && as_map(other, self));
        of_members
            && of_keys
            && (self.locations > 0 || other.locations > 0 || both(&self.items, &other.items))
            && self.members.iter().all(|(name, member)| {
                let inner = nesting.member();
                other.members.get(name).is_none_or(|same| member.resembles_at(same, inner))
            })
    }

    /// What part of the members that are usual in one of them the other knows, too, in percent of the
    /// larger one. A member is usual if half of the objects have it.
    #[must_use]
    pub fn likeness(&self, other: &Self) -> usize {
        let known = |one: &Self, other: &Self| {
            one.usual().filter(|(name, _)| other.members.contains_key(*name)).count()
        };
        let (mine, others) = (self.usual().count(), other.usual().count());
        let common = known(self, other).min(known(other, self));
        (common * 100).checked_div(mine.max(others)).unwrap_or(100)
    }

    /// The members that half of the objects have, or more.
    pub fn usual(&self) -> impl Iterator<Item = (&String, &Self)> {
        self.members.iter().filter(|(_, member)| member.count * 2 >= self.objects)
    }

    /// Are bodies of this form meant to be problem details: by a title or a type, and one more of their members?
    #[must_use]
    pub fn is_problem(&self) -> bool {
        let has = |name: &str| self.usual().any(|(known, _)| known == name);
        let common = PROBLEM_MEMBERS.into_iter().filter(|name| has(name)).count();
        common >= 2 && (has("title") || has("type"))
    }

    /// The kinds as a set, numbers of both kinds as one; `null` is of every kind.
    fn sorts(&self) -> u8 {
        [
            self.booleans > 0,
            self.integers + self.fractions > 0,
            self.texts > 0,
            self.lists > 0,
            self.objects + self.deep > 0,
        ]
        .into_iter()
        .fold(0, |set, is| set << 1 | u8::from(is))
    }
}

fn add_boxed(sum: &mut Option<Box<InferredShape>>, more: Option<Box<InferredShape>>) {
    if let Some(more) = more {
        sum.get_or_insert_default().add(*more);
    }
}

fn is_whole(number: &Number) -> bool {
    number.as_f64().is_some_and(|value| value.fract() == 0.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn sketch(bodies: &[Value]) -> InferredShape {
        let mut sum = InferredShape::default();
        for body in bodies {
            sum.add(InferredShape::of(body, &DataLocations::default()));
        }
        sum.settled()
    }

    #[test]
    fn what_is_not_always_there_can_be_left_out() {
        let bodies = [
            json!({"title": "a", "errors": [{"p": "/x", "n": 1}, {"p": null}]}),
            json!({"title": "b", "errors": []}),
            json!({"title": "c"}),
        ];
        assert_eq!(
            sketch(&bodies).phrase(),
            "{errors?: array of {n?: number, p: string or null}, title: string}"
        );
    }

    #[test]
    fn an_object_keyed_by_data_is_known_by_its_keys() {
        let keyed: Vec<Value> =
            ["a", "b", "c", "d"].iter().map(|k| json!({"at": {*k: ["no"]}})).collect();
        assert_eq!(sketch(&keyed).phrase(), "{at: map of array of string}");
        // The same keys each time are members.
        let members = vec![json!({"at": {"x": "1", "y": "2", "z": "3"}}); 4];
        assert_eq!(sketch(&members).phrase(), "{at: {x: string, y: string, z: string}}");
        let mut many = serde_json::Map::new();
        for key in 0..10_000 {
            many.insert(format!("k{key}"), json!("no"));
        }
        assert_eq!(sketch(&[json!({"errors": many})]).phrase(), "{errors: map of string}");
    }

    #[test]
    fn without_counts_lists_of_any_length_are_one() {
        let one = |body: Value| InferredShape::of(&body, &DataLocations::default()).uncounted();
        let item = || json!({"id": 1, "berth": {"length": 2.5}});
        assert_eq!(one(json!([item()])), one(json!([item(), item(), item()])));
        assert_ne!(one(json!([item()])), one(json!([item(), {"id": 1}])));
        assert_ne!(one(json!([item()])), one(json!([])));
        let some = one(json!([item(), {"id": 1}, {"id": null}]));
        let items = some.items.unwrap();
        assert!(items.always(&items.members["id"]) && !items.always(&items.members["berth"]));
        assert_eq!(items.phrase(), "{berth?: {length: number}, id: number or null}");
    }

    #[test]
    fn kinds_that_differ_do_not_agree() {
        let one = |body: Value| InferredShape::of(&body, &DataLocations::default());
        for (a, b, agree) in [
            (json!({"e": []}), json!({"e": [{"x": 1}]}), true),
            (json!({"e": null}), json!({"e": "x"}), true),
            (json!({"e": 1}), json!({"e": 1.5, "f": true}), true),
            (json!({"e": [1]}), json!({"e": {"x": 1}}), false),
            (json!({"e": [{"x": 1}]}), json!({"e": [{"x": "1"}]}), false),
            (json!([1]), json!({"e": 1}), false),
            (json!({"e": 1}), json!({"f": 1}), false),
            (
                json!({"e": [{"field": "x", "message": "y"}]}),
                json!({"e": [{"p": "x", "d": "y"}]}),
                false,
            ),
        ] {
            assert_eq!(one(a.clone()).resembles(&one(b.clone())), agree, "{a} {b}");
            assert_eq!(one(b).resembles(&one(a)), agree);
        }
    }
}
