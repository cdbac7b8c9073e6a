//! Shapes as type expressions: a sketch of bodies becomes `[shape.*]` tables.

use faithful_clerk_contract::{key, plain_name, quoted};
use faithful_clerk_shape::InferredShape;

/// Objects within objects get tables of their own, down to this depth.
const MOST_NESTED: usize = 3;

/// A shape gets so many members; more are data.
const MOST_MEMBERS: usize = 40;

/// The lines of a shape's members, and the tables of the shapes within it.
#[derive(Debug, Default)]
pub(super) struct DraftedShape {
    /// `name = "phrase"`, one a member.
    pub(super) members: Vec<(String, String)>,
    /// The shapes within it, each a table of its own.
    pub(super) tables: Vec<ShapeDeclaration>,
}

/// A shape to be declared: `[shape.NAME]`, and `name = "phrase"` for each member.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct ShapeDeclaration {
    pub(super) name: String,
    pub(super) members: Vec<(String, String)>,
}

impl ShapeDeclaration {
    /// Its table as TOML.
    pub(super) fn toml(&self) -> String {
        format!("[shape.{}]\n{}", self.name, lines(&self.members))
    }
}

/// How a member is declared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum MemberPresence {
    /// It is always there.
    Always,
    /// It can be left out.
    Optional,
}

impl MemberPresence {
    /// As it was seen.
    pub(super) fn of(object: &InferredShape, member: &InferredShape) -> Self {
        if object.always(member) { Self::Always } else { Self::Optional }
    }
}

impl DraftedShape {
    /// Adds a member.
    pub(super) fn add(
        &mut self,
        owner: &str,
        name: &str,
        member: &InferredShape,
        presence: MemberPresence,
    ) {
        if self.members.len() >= MOST_MEMBERS {
            return;
        }
        let phrase = self.phrase(&format!("{owner}-{}", plain_name(name)), member, 0);
        let optional = if presence == MemberPresence::Optional { "optional " } else { "" };
        self.members.push((name.to_owned(), format!("{optional}{phrase}")));
    }

    /// Gives the entries of the only list of objects a name of their own.
    pub(super) fn call_entries(&mut self, name: &str) {
        let entries = |(_, phrase): &(String, String)| {
            let (_, item) = phrase.split_once("array of ")?;
            let item = item.split([',', ' ']).next()?.to_owned();
            self.tables.iter().any(|table| table.name == item).then_some(item)
        };
        let lists: Vec<String> = self.members.iter().filter_map(entries).collect();
        let [old] = lists.as_slice() else { return };
        let renamed = |text: &str| text.replace(old, name);
        for (_, phrase) in &mut self.members {
            *phrase = renamed(phrase);
        }
        for table in &mut self.tables {
            table.name = renamed(&table.name);
            for (_, phrase) in &mut table.members {
                *phrase = renamed(phrase);
            }
        }
    }

    /// The phrase for whole bodies.
    pub(super) fn whole(&mut self, name: &str, bodies: &InferredShape) -> String {
        self.phrase(name, bodies, 0)
    }

    /// The phrase for what was seen at one place.
    fn phrase(&mut self, name: &str, inferred: &InferredShape, depth: usize) -> String {
        let kinds = inferred.kinds();
        let or_null = if inferred.nulls > 0 { " or null" } else { "" };
        match kinds.as_slice() {
            [] if inferred.nulls > 0 => "anything".to_owned(),
            [] => "anything".to_owned(),
            ["array"] => match inferred.items.as_deref() {
                // What is behind `or` would belong to the items.
                _ if inferred.nulls > 0 => "anything".to_owned(),
                // The steps of a location.
                _ if inferred.locations > 0 => "array of (string or integer)".to_owned(),
                None => "array of anything".to_owned(),
                Some(items) => format!("array of {}", self.inner(name, items, depth)),
            },
            ["map"] => match inferred.keyed.as_deref() {
                Some(keyed) if inferred.nulls == 0 => {
                    format!("map of {}", self.inner(name, keyed, depth))
                }
                _ => format!("object{or_null}"),
            },
            ["object"] if depth < MOST_NESTED && !inferred.members.is_empty() => {
                format!("{}{or_null}", self.table(name, inferred, depth))
            }
            [kind] => format!("{kind}{or_null}"),
            kinds
                if kinds
                    .iter()
                    .all(|k| matches!(*k, "string" | "integer" | "number" | "boolean")) =>
            {
                format!("{}{or_null}", kinds.join(" or "))
            }
            _ => "anything".to_owned(),
        }
    }

    /// The phrase for items and values: one kind only.
    fn inner(&mut self, name: &str, inferred: &InferredShape, depth: usize) -> String {
        if inferred.kinds().len() == 1 && inferred.nulls == 0 {
            self.phrase(name, inferred, depth + 1)
        } else {
            "anything".to_owned()
        }
    }

    fn table(&mut self, name: &str, inferred: &InferredShape, depth: usize) -> String {
        let mut lines = Vec::new();
        for (member, inner) in inferred.members.iter().take(MOST_MEMBERS) {
            let phrase = self.phrase(&format!("{name}-{}", plain_name(member)), inner, depth + 1);
            let optional = if inferred.always(inner) { "" } else { "optional " };
            lines.push((member.clone(), format!("{optional}{phrase}")));
        }
        self.tables.push(ShapeDeclaration { name: name.to_owned(), members: lines });
        name.to_owned()
    }
}

/// `name = "phrase"`, the signs of equality under one another.
pub(super) fn lines(members: &[(String, String)]) -> String {
    let keys: Vec<String> = members.iter().map(|(name, _)| key(name)).collect();
    let width = keys.iter().map(|key| key.chars().count()).max().unwrap_or_default();
    let line = |(key, (_, phrase)): (&String, &(String, String))| {
        format!("{key:width$} = {}\n", quoted(phrase))
    };
    keys.iter().zip(members).map(line).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use faithful_clerk_shape::DataLocations;
    use serde_json::json;

    #[test]
    fn a_member_becomes_a_phrase() {
        let body = json!({"at": [{"x": 1, "y": null}], "m": {"code": "a"}, "n": [1, "a"], "e": []});
        let inferred = InferredShape::of(&body, &DataLocations::default());
        let mut drafted = DraftedShape::default();
        for (name, member) in &inferred.members {
            drafted.add("error", name, member, MemberPresence::Always);
        }
        let phrases: Vec<&str> =
            drafted.members.iter().map(|(_, phrase)| phrase.as_str()).collect();
        assert_eq!(
            phrases,
            ["array of error-at", "array of anything", "error-m", "array of anything"]
        );
        assert_eq!(
            drafted.tables.iter().map(ShapeDeclaration::toml).collect::<Vec<_>>(),
            [
                "[shape.error-at]\nx = \"integer\"\ny = \"anything\"\n",
                "[shape.error-m]\ncode = \"string\"\n"
            ]
        );
    }
}
