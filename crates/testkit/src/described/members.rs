//! Members of things: how they are described, and values that fit and that do not.

use serde_json::{Map, Value, json};

use crate::chance::Chance;

/// So many schemas are shared by all things.
pub(super) const PARTS: usize = 40;

/// What a member holds.
#[derive(Debug, Clone, Copy)]
pub(super) enum MadeMember {
    Text(usize),
    Count,
    Day,
    Word,
    Flag,
    TextOrNull,
    Part(usize),
    Parts(usize),
    Counts,
}

const WORDS: [&str; 3] = ["north", "mill", "outer"];

impl MadeMember {
    /// A few of them with their names, which are all required but the last.
    pub(super) fn some(more: usize, chance: &mut Chance) -> Vec<(String, Self)> {
        let few = usize::try_from(chance.below(6)).unwrap_or_default();
        (0..3 + few + more).map(|at| (format!("m{at}"), Self::any(chance))).collect()
    }

    fn any(chance: &mut Chance) -> Self {
        let part = usize::try_from(chance.below(PARTS as u64)).unwrap_or_default();
        match chance.below(9) {
            0 => Self::Text(4 + part),
            1 => Self::Count,
            2 => Self::Day,
            3 => Self::Word,
            4 => Self::Flag,
            5 => Self::TextOrNull,
            6 => Self::Part(part),
            7 => Self::Parts(part),
            _ => Self::Counts,
        }
    }

    fn schema(self, is_new: bool) -> Value {
        let part = |number: usize| json!({"$ref": format!("#/components/schemas/Part{number}")});
        match self {
            Self::Text(most) => json!({"type": "string", "maxLength": most}),
            Self::Count if is_new => json!({"type": "integer", "exclusiveMinimum": -1}),
            Self::Count => json!({"type": "integer", "minimum": -1, "exclusiveMinimum": true}),
            Self::Day => json!({"type": "string", "format": "date"}),
            Self::Word => json!({"type": "string", "enum": WORDS}),
            Self::Flag => json!({"type": "boolean"}),
            Self::TextOrNull if is_new => json!({"type": ["string", "null"]}),
            Self::TextOrNull => json!({"type": "string", "nullable": true}),
            Self::Part(number) => part(number),
            Self::Parts(number) => json!({"type": "array", "items": part(number)}),
            Self::Counts => json!({"type": "object", "additionalProperties": {"type": "integer"}}),
        }
    }

    pub(super) fn good(self, chance: &mut Chance) -> Value {
        match self {
            Self::Text(most) => json!("x".repeat(1 + most / 2)),
            Self::Count => json!(chance.below(1000)),
            Self::Day => json!(format!("2027-03-{:02}", 1 + chance.below(28))),
            Self::Word => json!(chance.of(&WORDS)),
            Self::Flag => json!(chance.below(2) == 0),
            Self::TextOrNull => chance.of(&[json!("a text"), Value::Null]).clone(),
            Self::Part(_) => part(chance),
            Self::Parts(_) => (0..chance.below(3)).map(|_| part(chance)).collect(),
            Self::Counts => json!({"a": chance.below(9), "b b": 1}),
        }
    }

    /// A value that does not fit, and where in it.
    pub(super) fn bad(self, chance: &mut Chance) -> (Value, &'static str) {
        match self {
            Self::Text(most) => (json!("x".repeat(most + 1)), ""),
            Self::Count => (json!(-1), ""),
            Self::Day => (json!("tomorrow"), ""),
            Self::Word => (json!("south"), ""),
            Self::Flag => (json!("yes"), ""),
            Self::TextOrNull => (json!(7), ""),
            Self::Part(_) => (json!({"number": "one", "note": null}), "/number"),
            Self::Parts(_) => (json!([part(chance), {"note": "x"}]), "/1/number"),
            Self::Counts => (json!({"a": 1, "b/b": "many"}), "/b~1b"),
        }
    }
}

fn part(chance: &mut Chance) -> Value {
    json!({"number": chance.below(99), "note": MadeMember::TextOrNull.good(chance)})
}

pub(super) fn part_schema(number: usize, is_new: bool) -> Value {
    let note = MadeMember::TextOrNull.schema(is_new);
    json!({
        "type": "object",
        "description": format!("Part number {number} of some things."),
        "required": ["number"],
        "properties": {"number": {"type": "integer"}, "note": note},
    })
}

/// The schema of an object with these members, and of that kind where there are several.
pub(super) fn object_schema(
    members: &[(String, MadeMember)],
    kind: Option<&str>,
    is_new: bool,
    description_words: usize,
) -> Value {
    let last = members.len().saturating_sub(1);
    let mut required: Vec<&str> =
        members.iter().take(last).map(|(name, _)| name.as_str()).collect();
    let mut properties = Map::new();
    for (name, member) in members {
        let mut schema = member.schema(is_new);
        if description_words > 0 && schema.get("$ref").is_none() {
            schema["description"] =
                json!("what it is about ".repeat(description_words.div_ceil(4)));
        }
        properties.insert(name.clone(), schema);
    }
    if let Some(kind) = kind {
        required.push("kind");
        properties.insert("kind".to_owned(), json!({"type": "string", "enum": [kind]}));
    }
    json!({"type": "object", "required": required, "properties": properties})
}
