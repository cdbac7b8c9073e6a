//! Shapes as small trees, and how one differs from another.

use std::collections::BTreeMap;

use faithful_clerk_shape::InferredShape;

use crate::page::{StyledText, TreeLine};

/// Deeper than this, a drawn shape only gets wider.
const MOST_DRAWN: usize = 24;

/// A shape with what is said of it.
#[derive(Debug, Clone)]
pub(crate) struct AnnotatedShape {
    pub(crate) head: Vec<StyledText>,
    pub(crate) tree: Vec<TreeLine>,
}

/// A shape as a small tree.
pub(crate) fn tree(inferred: &InferredShape) -> Vec<TreeLine> {
    let mut branches = Vec::new();
    if inferred.keyed.is_some() {
        let of = inferred.keyed.as_deref().map(kinds).unwrap_or_default();
        let name = "(each field)".to_owned();
        branches.push(TreeLine { depth: 0, name, is: of, share: String::new() });
        inferred.keyed.iter().for_each(|keyed| below(keyed, 1, &mut branches));
    } else if inferred.objects == 0 || inferred.lists > 0 {
        branches.push(TreeLine {
            depth: 0,
            name: "(whole)".to_owned(),
            is: kinds(inferred),
            share: String::new(),
        });
        below(inferred, 1, &mut branches);
    } else {
        below(inferred, 0, &mut branches);
    }
    branches
}

fn below(inferred: &InferredShape, depth: usize, branches: &mut Vec<TreeLine>) {
    for (name, member) in &inferred.members {
        let is_full = branches.len() >= MOST_DRAWN;
        if is_full {
            branches.push(TreeLine {
                depth,
                name: "…".to_owned(),
                is: "and more".to_owned(),
                share: String::new(),
            });
            return;
        }
        let optional = if inferred.always(member) { "" } else { "?" };
        let share = if optional.is_empty() {
            String::new()
        } else {
            format!(", in {} of {}", member.count, inferred.objects)
        };
        let name = format!("{name}{optional}");
        branches.push(TreeLine { depth, name, is: kinds(member), share });
        below(member, depth + 1, branches);
    }
    for inner in [&inferred.items, &inferred.keyed].into_iter().flatten() {
        below(inner, depth, branches);
    }
}

/// The kind of a member, with the kind of what is in it where that has no members of its own.
fn kinds(inferred: &InferredShape) -> String {
    let inner = |inner: &Option<Box<InferredShape>>| match inner {
        Some(inner) if inner.members.is_empty() || inner.objects < inner.count => {
            format!(" of {}", kinds(inner))
        }
        Some(_) => " of".to_owned(),
        None => ", empty".to_owned(),
    };
    let mut words: Vec<String> = inferred
        .kinds()
        .into_iter()
        .map(|kind| match kind {
            "array" if inferred.locations > 0 => "array of steps".to_owned(),
            "array" => format!("array{}", inner(&inferred.items)),
            "map" => format!("map{}", inner(&inferred.keyed)),
            other => other.to_owned(),
        })
        .collect();
    if inferred.nulls > 0 {
        words.push("null".to_owned());
    }
    words.join(" or ")
}

/// How a line of a tree compares with another tree.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum LineDifference {
    /// It is the same there.
    No,
    /// It is only here.
    Added,
    /// It is only there.
    Missing,
    /// It is of another JSON type there.
    OtherType,
}

/// The lines of a tree beside those of the usual one, with what is missing where it would have stood.
pub(crate) fn beside(usual: &[TreeLine], here: &[TreeLine]) -> Vec<(LineDifference, TreeLine)> {
    let there: BTreeMap<String, &TreeLine> = paths(usual).into_iter().zip(usual).collect();
    let mine = paths(here);
    let mut lines: Vec<(LineDifference, TreeLine)> = mine
        .iter()
        .zip(here)
        .map(|(path, branch)| {
            let differs = match there.get(path) {
                None => LineDifference::Added,
                Some(other) if other.is != branch.is => LineDifference::OtherType,
                Some(_) => LineDifference::No,
            };
            (differs, branch.clone())
        })
        .collect();
    // Behind what stands before it there, if that is here.
    let mut paths_here = mine;
    let mut before: Option<String> = None;
    for (path, branch) in paths(usual).into_iter().zip(usual) {
        // What need not be there is not missing.
        if !paths_here.contains(&path) && !is_optional(&branch.name) {
            let at = before.as_ref().and_then(|before| paths_here.iter().position(|p| p == before));
            let at = at.map_or(0, |at| at + 1);
            paths_here.insert(at, path.clone());
            lines.insert(at, (LineDifference::Missing, branch.clone()));
        }
        before = Some(path);
    }
    lines
}

fn is_optional(name: &str) -> bool {
    name.ends_with('?')
}

/// The way from the top to each line.
fn paths(branches: &[TreeLine]) -> Vec<String> {
    let mut above: Vec<&str> = Vec::new();
    let path = |branch| {
        let TreeLine { depth, name, .. }: &TreeLine = branch;
        above.truncate(*depth);
        above.push(name.trim_end_matches('?'));
        above.join("\u{0}")
    };
    branches.iter().map(path).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_missing_stands_where_it_would_have_stood() {
        let tree = |lines: &[(usize, &str, &str)]| -> Vec<TreeLine> {
            let branch = |(depth, name, is): &(usize, &str, &str)| TreeLine {
                depth: *depth,
                name: (*name).to_owned(),
                is: (*is).to_owned(),
                share: String::new(),
            };
            lines.iter().map(branch).collect()
        };
        let usual = tree(&[
            (0, "type", "string"),
            (0, "errors", "array of"),
            (1, "code", "string"),
            (0, "x?", "string"),
            (0, "y?", "string"),
        ]);
        let here = tree(&[
            (0, "code", "string"),
            (0, "errors", "array of"),
            (1, "code", "integer"),
            (0, "x", "string"),
        ]);
        let lines = beside(&usual, &here);
        let words: Vec<(LineDifference, &str)> =
            lines.iter().map(|(differs, branch)| (*differs, branch.name.as_str())).collect();
        assert_eq!(
            words,
            [
                (LineDifference::Missing, "type"),
                (LineDifference::Added, "code"),
                (LineDifference::No, "errors"),
                (LineDifference::OtherType, "code"),
                (LineDifference::No, "x"),
            ]
        );
    }
}
