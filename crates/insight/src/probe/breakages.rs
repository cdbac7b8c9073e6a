//! Bodies with one thing wrong in each, at every depth, and bodies that stand on a limit.

use std::collections::HashSet;

use serde_json::{Value, json};

use super::body_node::{BodyNode, NodeForm};

/// A list has so many items, so that the first, one between and the last are others.
const ITEMS: usize = 3;

/// A body, and what it is.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct PlannedBody {
    /// What is wrong with it, or on which limit it stands.
    pub(super) says: String,
    pub(super) body: Value,
    /// Does it keep all rules?
    pub(super) is_right: bool,
    /// How deep the place is: 1 for a member of the body.
    pub(super) level: usize,
}

/// All such bodies.
#[derive(Debug, Default)]
pub(super) struct PlannedBodies {
    pub(super) bodies: Vec<PlannedBody>,
    /// So many places were too deep to be looked at.
    pub(super) deeper: usize,
    /// So many bodies were not made up, since there were enough.
    pub(super) beyond: usize,
    /// So many are enough.
    most: usize,
    /// The level that is looked at just now: what is nearest to the top comes first.
    level: usize,
    known: HashSet<String>,
}

/// What breaks any rule.
const OTHER_TYPE: &str = "of another JSON type";

#[derive(Debug, Clone)]
enum BodyStep {
    Member(String),
    Item(usize),
}

/// Where the walk is.
struct BodyPlace<'p> {
    /// A body in which a value that fits is in this place.
    base: &'p Value,
    path: &'p [BodyStep],
    /// What it is called: `crew[0].role`.
    name: &'p str,
    level: usize,
}

impl PlannedBodies {
    /// Breaks the rules of a body one by one, down to this level and no more than so many times. `good` keeps them all.
    pub(super) fn of(node: impl BodyNode, good: &Value, depth: usize, most: usize) -> Self {
        let mut bodies = Self { most, ..Self::default() };
        for level in 1..=depth + 1 {
            (bodies.level, bodies.deeper) = (level, 0);
            let top = BodyPlace { base: good, path: &[], name: "", level: 0 };
            bodies.inside(node, &top, depth);
        }
        bodies
    }

    /// Adds a body, if it is of the level that is looked at. Bodies are large, and are only made where they are wanted.
    fn push(
        &mut self,
        level: usize,
        is_right: bool,
        says: impl FnOnce() -> String,
        body: impl FnOnce() -> Value,
    ) {
        if level != self.level {
            return;
        }
        if self.bodies.len() >= self.most {
            self.beyond += 1;
            return;
        }
        let body = body();
        if self.known.insert(body.to_string()) {
            self.bodies.push(PlannedBody { says: says(), body, is_right, level });
        }
    }

    /// The value in a place, and what it is made of.
    fn node<N: BodyNode>(&mut self, node: N, at: &BodyPlace<'_>, depth: usize) {
        if at.level == self.level {
            let wrong = node.misfits().into_iter().map(|one| (one, false));
            let right = node.on_limits().into_iter().map(|one| (one, true));
            for ((says, value), is_right) in wrong.chain(right) {
                let says = || format!("`{}` {says}", at.name);
                self.push(at.level, is_right, says, || put(at.base, at.path, Some(value)));
            }
        }
        self.inside(node, at, depth);
        for other in node.others() {
            let base = put(at.base, at.path, Some(other.fitting()));
            self.inside(other, &BodyPlace { base: &base, ..*at }, depth);
        }
    }

    fn inside<N: BodyNode>(&mut self, node: N, at: &BodyPlace<'_>, depth: usize) {
        match node.form() {
            NodeForm::Object { members, is_closed, each } => {
                for (name, _, _) in members.iter().filter(|(_, is_required, _)| *is_required) {
                    let path = below(at.path, BodyStep::Member(name.clone()));
                    let says = || format!("without `{}`", member_name(at.name, name));
                    self.push(at.level + 1, false, says, || put(at.base, &path, None));
                }
                if is_closed {
                    let path = below(at.path, BodyStep::Member("no_such_member".to_owned()));
                    let says = || match at.level {
                        0 => "an unknown member".to_owned(),
                        _ => format!("an unknown member in `{}`", at.name),
                    };
                    self.push(at.level + 1, false, says, || put(at.base, &path, Some(json!(1))));
                }
                let others = each.map(|node| ("some_key".to_owned(), false, node));
                for (name, _, node) in members.into_iter().chain(others) {
                    let path = below(at.path, BodyStep::Member(name.clone()));
                    self.descend(node, at, &path, &member_name(at.name, &name), depth);
                }
            }
            NodeForm::List { item, most, is_unique } => {
                self.list(item, at, (most, is_unique), depth);
            }
            NodeForm::Plain => {}
        }
    }

    fn list<N: BodyNode>(
        &mut self,
        item: N,
        at: &BodyPlace<'_>,
        (most, is_unique): (Option<usize>, bool),
        depth: usize,
    ) {
        let one = item.fitting();
        if is_unique {
            let twice = json!([one, one]);
            let says = || match at.name {
                "" => "a duplicate item".to_owned(),
                name => format!("a duplicate item in `{name}`"),
            };
            self.push(at.level + 1, false, says, || put(at.base, at.path, Some(twice)));
        }
        let count = if is_unique { 1 } else { most.unwrap_or(ITEMS).min(ITEMS) };
        if count == 0 {
            return;
        }
        let items: Value = std::iter::repeat_n(one, count).collect();
        let base = put(at.base, at.path, Some(items));
        let list = BodyPlace { base: &base, ..*at };
        let path = below(at.path, BodyStep::Item(0));
        self.descend(item, &list, &path, &format!("{}[0]", at.name), depth);
        // Whatever is wrong with the first is wrong with the others, too; whether they are looked at, one shows.
        for index in [count / 2, count - 1].into_iter().filter(|index| *index > 0) {
            if at.level >= depth {
                continue;
            }
            let path = below(at.path, BodyStep::Item(index));
            let mut misfits = item.misfits().into_iter();
            if let Some((says, value)) = misfits.find(|(says, _)| *says == OTHER_TYPE) {
                let says = || format!("`{}[{index}]` {says}", at.name);
                self.push(at.level + 1, false, says, || put(&base, &path, Some(value)));
            }
        }
    }

    /// Goes to a place below, where a value is put if there is none.
    fn descend<N: BodyNode>(
        &mut self,
        node: N,
        at: &BodyPlace<'_>,
        path: &[BodyStep],
        name: &str,
        depth: usize,
    ) {
        if at.level >= depth {
            self.deeper += 1;
            return;
        }
        // Nothing of this level is below here, and nothing of it is made twice.
        let is_last_pass = self.level > depth;
        if at.level >= self.level && !is_last_pass {
            return;
        }
        let level = at.level + 1;
        // What is only counted needs no value in its place.
        match is_there(at.base, path) || self.bodies.len() >= self.most {
            true => self.node(node, &BodyPlace { base: at.base, path, name, level }, depth),
            false => {
                let base = put(at.base, path, Some(node.fitting()));
                self.node(node, &BodyPlace { base: &base, path, name, level }, depth);
            }
        }
    }
}

fn below(path: &[BodyStep], step: BodyStep) -> Vec<BodyStep> {
    path.iter().cloned().chain([step]).collect()
}

fn member_name(above: &str, name: &str) -> String {
    if above.is_empty() { name.to_owned() } else { format!("{above}.{name}") }
}

fn is_there(body: &Value, path: &[BodyStep]) -> bool {
    path.iter()
        .try_fold(body, |value, step| match step {
            BodyStep::Member(name) => value.get(name),
            BodyStep::Item(index) => value.get(index),
        })
        .is_some()
}

/// The body with another value in a place, or with none there.
fn put(body: &Value, path: &[BodyStep], value: Option<Value>) -> Value {
    let mut body = body.clone();
    let Some((last, above)) = path.split_last() else { return value.unwrap_or(body) };
    let mut inner = &mut body;
    for step in above {
        let next = match step {
            BodyStep::Member(name) => {
                if !inner.is_object() {
                    *inner = json!({});
                }
                inner
                    .as_object_mut()
                    .map(|members| members.entry(name.clone()).or_insert(json!({})))
            }
            BodyStep::Item(index) => inner.get_mut(index),
        };
        match next {
            Some(next) => inner = next,
            None => return Value::Null,
        }
    }
    match (last, value, inner) {
        (BodyStep::Member(name), Some(value), Value::Object(members)) => {
            members.insert(name.clone(), value);
        }
        (BodyStep::Member(name), None, Value::Object(members)) => _ = members.shift_remove(name),
        (BodyStep::Item(index), Some(value), Value::Array(items)) => {
            if let Some(item) = items.get_mut(*index) {
                *item = value;
            }
        }
        _ => {}
    }
    body
}

#[cfg(test)]
mod tests {
    use super::super::body_node::SchemaNode;
    use super::*;

    #[test]
    fn rules_are_broken_at_every_depth_one_by_one() {
        let schema = json!({
            "type": "object", "required": ["crew", "owner"],
            "properties": {
                "crew": {"type": "array", "items": {"type": "object", "required": ["role"], "additionalProperties": false,
                    "properties": {"role": {"type": "string", "enum": ["hand"]}}}},
                "owner": {"type": "object", "required": ["mail"], "properties": {"mail": {"type": "string", "maxLength": 9}}},
                "tags": {"type": "array", "uniqueItems": true, "items": {"type": "string"}},
                "depths": {"type": "object", "additionalProperties": {"type": "integer", "minimum": 1}},
                "load": {"oneOf": [{"type": "string"}, {"type": "object", "required": ["tons"], "properties": {"tons": {"type": "integer"}}}]},
            },
        });
        let good = json!({"crew": [{"role": "hand"}], "owner": {"mail": "x"}});
        let bodies = PlannedBodies::of(SchemaNode(&schema), &good, 3, 1000);
        assert_eq!(bodies.deeper, 0);
        let of = |says: &str| {
            let found = bodies.bodies.iter().find(|one| one.says == says);
            let found = found.unwrap_or_else(|| panic!("{says}: {:#?}", bodies.bodies));
            (found.body.clone(), found.is_right, found.level)
        };
        let hand = json!({"role": "hand"});
        let with = |name: &str, value: Value| {
            let mut body = good.clone();
            body[name] = value;
            body
        };
        for (says, body, level) in [
            ("without `owner`", json!({"crew": [hand]}), 1),
            ("without `owner.mail`", with("owner", json!({})), 2),
            ("`owner.mail` too long", with("owner", json!({"mail": "x".repeat(10)})), 2),
            ("without `crew[0].role`", with("crew", json!([{}, hand, hand])), 3),
            (
                "an unknown member in `crew[0]`",
                with("crew", json!([{"role": "hand", "no_such_member": 1}, hand, hand])),
                3,
            ),
            (
                "`crew[0].role` none of those that are allowed",
                with("crew", json!([{"role": "no-such-value"}, hand, hand])),
                3,
            ),
            ("`crew[1]` of another JSON type", with("crew", json!([hand, "17", hand])), 2),
            ("`crew[2]` of another JSON type", with("crew", json!([hand, hand, "17"])), 2),
            ("a duplicate item in `tags`", with("tags", json!(["x", "x"])), 2),
            ("`depths.some_key` too small", with("depths", json!({"some_key": 0})), 2),
            // The second alternative of a choice.
            ("without `load.tons`", with("load", json!({})), 2),
        ] {
            assert_eq!(of(says), (body, false, level), "{says}");
        }
        let longest = with("owner", json!({"mail": "x".repeat(9)}));
        assert_eq!(of("`owner.mail` at its longest"), (longest, true, 2));
        let shallow = PlannedBodies::of(SchemaNode(&schema), &good, 1, 1000);
        assert!(shallow.deeper > 0 && shallow.bodies.iter().all(|one| one.level <= 2));
        let few = PlannedBodies::of(SchemaNode(&schema), &good, 3, 5);
        assert_eq!(few.bodies.len(), 5);
        assert!(few.beyond > 10 && few.bodies.iter().all(|one| one.level == 1), "{}", few.beyond);
    }
}
