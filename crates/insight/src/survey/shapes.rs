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
    // Of two shapes that would have one name, the rarer gets a longer one: what is in its lists, which members
    // of a problem it has, and at last a mark of the whole.
    let mut taken: BTreeSet<String> = BTreeSet::new();
    for shape in &mut shapes {
        let short = name(&shape.shape);
        let with_items = format!("{short}{}", items(&shape.shape));
        let with_members = format!("{with_items}{}", standard(&shape.shape));
        let marked = format!("{short}-{:04x}", mark(&shape.shape.phrase()));
        let names = [short, with_items, with_members, marked.clone()];
        let free = names.into_iter().find(|name| !taken.contains(name));
        // Two of thousands may still have one mark.
        let again = || (2..).map(|n| format!("{marked}-{n}")).find(|name| !taken.contains(name));
        shape.name = free.or_else(again).unwrap_or(marked);
        taken.insert(shape.name.clone());
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

/// Sixteen bits of a text, the same in every run (FNV-1a).
fn mark(text: &str) -> u32 {
    let hash = text
        .bytes()
        .fold(0x811c_9dc5_u32, |hash, byte| (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193));
    (hash >> 16) ^ (hash & 0xffff)
}
