//! The shapes of error bodies: groups that are of one form are put together, named and told apart.
//!
//! All of it follows from the groups alone, whatever the order in which exchanges came: the two groups
//! that are most alike are put together first, and among equals the order of their outlines decides.

use std::collections::{BTreeMap, BTreeSet};

use super::facts::{ErrorCategory, GroupKey, Occurrences};
use super::survey_data::BodyGroup;
use faithful_clerk_check::classify::LocationForm;
use faithful_clerk_shape::{InferredShape, LEAST_LIKENESS, PROBLEM_MEMBERS};

/// One shape of error bodies.
#[derive(Debug, Clone)]
pub struct ErrorShape {
    /// Its name, made of its content: the same in every run.
    pub name: String,
    /// Which errors it is compared with.
    pub category: ErrorCategory,
    /// What it is made of.
    pub shape: InferredShape,
    /// Where it was seen.
    pub seen: Occurrences,
    /// How its entries name the places of a request, and in how many groups of bodies.
    pub forms: BTreeMap<LocationForm, u64>,
    /// The groups that it is made of.
    pub(super) groups: BTreeSet<GroupKey>,
}

impl ErrorShape {
    /// Are the bodies of that group of this shape?
    #[must_use]
    pub fn has(&self, group: &GroupKey) -> bool {
        self.groups.contains(group)
    }
}

/// The shapes of all groups, the most frequent first.
#[must_use]
pub(super) fn shapes(groups: &BTreeMap<GroupKey, BodyGroup>) -> Vec<ErrorShape> {
    let mut shapes = Vec::new();
    for kind in [ErrorCategory::Validation, ErrorCategory::Other] {
        let mine = groups.iter().filter(|((of, _), _)| *of == kind);
        let mine = mine.map(|(key, group)| ErrorShape {
            name: String::new(),
            category: kind,
            shape: group.shape.clone().settled(),
            seen: group.seen.clone(),
            forms: group.forms.clone(),
            groups: BTreeSet::from([key.clone()]),
        });
        shapes.extend(together(mine.collect()));
    }
    for shape in &mut shapes {
        // Together they may show that an object is keyed, where each alone did not.
        shape.shape = std::mem::take(&mut shape.shape).settled();
    }
    shapes.sort_by(|one, other| {
        let count = |shape: &ErrorShape| std::cmp::Reverse(shape.seen.count);
        (count(one), one.category, &one.groups).cmp(&(count(other), other.category, &other.groups))
    });
    // Of two shapes that would have one name, the rarer gets a longer one, by what tells it apart: what its members are,
    // what is in its lists, which members of a problem it has, and how deep ones are.
    let mut taken: BTreeMap<String, InferredShape> = BTreeMap::new();
    for shape in &mut shapes {
        let short = name(&shape.shape);
        let by_own = taken.get(&short).map(|other| own_members(&shape.shape, other));
        let with_own = format!("{short}{}", by_own.unwrap_or_default());
        let with_kinds = with_kinds(&shape.shape, &short);
        let with_items = format!("{short}{}", items(&shape.shape));
        let with_members = format!("{with_items}{}", standard(&shape.shape));
        let rare = format!("{with_members}{}", rare(&shape.shape));
        let names = [short.clone(), with_own, with_kinds, with_items, with_members, rare];
        let free = names.into_iter().find(|name| !taken.contains_key(name));
        // What has the same words in all of that differs in the types of members deep inside.
        let again = || (2..).map(|n| format!("{short}-{n}")).find(|name| !taken.contains_key(name));
        shape.name = free.or_else(again).unwrap_or(short);
        taken.insert(shape.name.clone(), shape.shape.clone());
    }
    shapes
}

/// Puts those together that resemble each other.
fn together(mut shapes: Vec<ErrorShape>) -> Vec<ErrorShape> {
    loop {
        let mut best: Option<(usize, usize, usize)> = None;
        for (at, one) in shapes.iter().enumerate() {
            for (other_at, other) in shapes.iter().enumerate().skip(at + 1) {
                let likeness = one.shape.likeness(&other.shape);
                let better =
                    likeness >= LEAST_LIKENESS && best.is_none_or(|(most, _, _)| likeness > most);
                if better && one.shape.resembles(&other.shape) {
                    best = Some((likeness, at, other_at));
                }
            }
        }
        let Some((_, at, other_at)) = best else { return shapes };
        let other = shapes.remove(other_at);
        let Some(one) = shapes.get_mut(at) else { return shapes };
        one.shape.add(other.shape);
        one.seen.add(&other.seen);
        for (form, count) in other.forms {
            *one.forms.entry(form).or_default() += count;
        }
        one.groups.extend(other.groups);
    }
}

/// The members that a shape has and another does not: its own, else those of what is in its lists.
fn own_members(inferred: &InferredShape, other: &InferredShape) -> String {
    let own = |here: &InferredShape, there: &InferredShape| -> Vec<String> {
        let usual = here.usual().filter(|(name, _)| !there.members.contains_key(*name));
        usual.map(|(name, _)| format!("-{}", plain(name))).collect()
    };
    let mut found = own(inferred, other);
    for (name, member) in &inferred.members {
        let there = other.members.get(name).and_then(|same| same.items.as_deref());
        if let (Some(here), Some(there)) = (member.items.as_deref(), there) {
            found.extend(own(here, there));
        }
    }
    found.truncate(2);
    found.concat()
}

/// The name with what each of its members is.
fn with_kinds(inferred: &InferredShape, short: &str) -> String {
    let kind = |member: &InferredShape| match member.kinds().first() {
        Some(&"array") => "list",
        Some(kind) => kind,
        None => "null",
    };
    let is_problem = inferred.is_problem();
    let own = |name: &str| !(is_problem && PROBLEM_MEMBERS.contains(&name));
    let usual = inferred.usual().filter(|(name, _)| own(name));
    let words: Vec<String> =
        usual.take(3).map(|(name, member)| format!("{}-{}", plain(name), kind(member))).collect();
    match (words.is_empty(), is_problem) {
        (true, _) => short.to_owned(),
        (false, true) => format!("problem-{}", words.join("-")),
        (false, false) => words.join("-"),
    }
}

/// The members that are not usual.
fn rare(inferred: &InferredShape) -> String {
    let usual: BTreeSet<&String> = inferred.usual().map(|(name, _)| name).collect();
    let others = inferred.members.keys().filter(|name| !usual.contains(name));
    others.take(3).map(|name| format!("-{}", plain(name))).collect()
}

/// The members of the items of a shape's lists.
fn items(inferred: &InferredShape) -> String {
    let items = inferred.members.values().filter_map(|member| member.items.as_deref());
    let names = items.flat_map(|items| items.usual().map(|(name, _)| name));
    names.map(|name| format!("-{}", plain(name))).collect()
}

/// A member's name without what a name of ours can't have.
fn plain(name: &str) -> String {
    name.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '_').collect()
}

/// The members of problem details that are usual in a shape.
fn standard(inferred: &InferredShape) -> String {
    let usual = inferred.usual().filter(|(name, _)| PROBLEM_MEMBERS.contains(&name.as_str()));
    usual.map(|(name, _)| format!("-{name}")).collect()
}

/// A name made of what is usually there.
fn name(inferred: &InferredShape) -> String {
    let usual: Vec<(&String, &InferredShape)> = inferred.usual().collect();
    if inferred.keyed.is_some() {
        return "by-field".to_owned();
    }
    if inferred.objects == 0 {
        return match &inferred.items {
            Some(items) if items.objects > 0 => format!("array-of-{}", name(items)),
            _ => inferred.phrase().replace(' ', "-"),
        };
    }
    let is_problem = inferred.is_problem();
    let mut words: Vec<String> = Vec::new();
    if is_problem {
        words.push("problem".to_owned());
    }
    let others =
        usual.iter().filter(|(name, _)| !(is_problem && PROBLEM_MEMBERS.contains(&name.as_str())));
    for (name, member) in others.take(3) {
        let of = match member.kinds().as_slice() {
            ["array"] if member.items.as_ref().is_some_and(|items| items.texts > 0) => "-strings",
            ["map"] => "-map",
            ["string"] if is_problem => "-string",
            _ => "",
        };
        words.push(format!("{}{of}", plain(name)));
    }
    words.retain(|word| !word.is_empty());
    if words.is_empty() { "object".to_owned() } else { words.join("-") }
}
