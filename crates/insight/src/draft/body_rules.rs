//! The rules for bodies, from those that were accepted and what refusals said of others.
//!
//! What was accepted is allowed; a member is required, or another type of it forbidden, only where a refusal said so.
//! Where a refusal does, the rules are switched on; elsewhere they are comments, to be taken in by whoever agrees. No limits and
//! no patterns are made up, so the rules are partial.

use std::collections::BTreeMap;

use super::shapes::{DraftedShape, MemberPresence, ShapeDeclaration, lines};
use super::write::DraftWriter;
use crate::survey::{EndpointStatus, MemberPath, RefusedBodies, SurveyedEndpoint};
use faithful_clerk_contract::{plain_name, quoted};
use faithful_clerk_shape::InferredShape;

/// So many members are named as the reason for a rule.
const MOST_REASONS: usize = 6;

/// The rules for the body of one endpoint.
struct DraftedBodyRules {
    /// The bodies that were accepted, as far as refusals agree.
    bodies: InferredShape,
    /// What refusals say that the rules say, too: each is a reason to switch them on.
    reasons: Vec<String>,
}

impl DraftedBodyRules {
    /// The rules for an endpoint's body; `None` where no object was accepted.
    fn of(location: &SurveyedEndpoint) -> Option<Self> {
        let facts = &location.facts;
        let accepted = &facts.successes.bodies;
        if accepted.objects == 0 || accepted.members.is_empty() {
            return None;
        }
        let mut rules = Self { bodies: accepted.clone(), reasons: Vec::new() };
        let mut bodies = std::mem::take(&mut rules.bodies);
        rules.refine(&mut bodies, &mut Vec::new(), &facts.refused);
        rules.reasons.sort_unstable();
        rules.bodies = bodies;
        Some(rules)
    }

    /// Takes into what was accepted at one place what refusals say of it.
    fn refine(
        &mut self,
        shape: &mut InferredShape,
        path: &mut MemberPath,
        refused: &RefusedBodies,
    ) {
        let objects = shape.objects;
        for (name, member) in &mut shape.members {
            path.push(name.clone());
            let is_required = refused.missing.contains(path) && member.count >= objects;
            self.types(member, path, refused);
            self.refine(member, path, refused);
            if is_required {
                self.reasons.push(format!("`{}` was missing", path.join(".")));
            }
            // What is always there is required only where a refusal said so.
            member.count = if is_required { objects } else { 0 };
            path.pop();
        }
        if let Some(items) = &mut shape.items {
            path.push("*".to_owned());
            self.types(items, path, refused);
            self.refine(items, path, refused);
            path.pop();
        }
    }

    /// Of what type a value may be: what was accepted, and what was there while only others were named.
    fn types(&mut self, shape: &mut InferredShape, path: &MemberPath, refused: &RefusedBodies) {
        let named = refused.named.get(path);
        let is_named = |kind: &str| named.is_some_and(|named| named.contains(kind));
        for kind in refused.unnamed.get(path).into_iter().flatten().filter(|kind| !is_named(kind)) {
            let count = match kind.as_ref() {
                "null" => &mut shape.nulls,
                "boolean" => &mut shape.booleans,
                "integer" => &mut shape.integers,
                "number" => &mut shape.fractions,
                "string" => &mut shape.texts,
                "array" => &mut shape.lists,
                _ => &mut shape.objects,
            };
            *count = (*count).max(1);
        }
        let known = shape.kinds();
        let is_known = |kind: &str| match kind {
            "null" => shape.nulls > 0,
            "integer" => known.contains(&"integer") || known.contains(&"number"),
            "object" => known.contains(&"object") || known.contains(&"map"),
            kind => known.contains(&kind),
        };
        for kind in named.into_iter().flatten().filter(|kind| !is_known(kind)) {
            let what = match kind.as_ref() {
                "null" => "null",
                "boolean" => "a boolean",
                "integer" => "a number",
                "number" => "a number with a fraction",
                "string" => "a string",
                "array" => "an array",
                _ => "an object",
            };
            self.reasons.push(format!("`{}` was {what}", path.join(".")));
        }
    }
}

/// The shapes of nested objects that were declared, so that equal ones are declared once.
type DeclaredShapes = BTreeMap<String, Vec<(String, String)>>;

impl DraftWriter<'_> {
    /// The section with the rules for the body of every endpoint.
    pub(super) fn body_rules(&mut self) {
        let places: Vec<&SurveyedEndpoint> =
            self.places.iter().copied().filter(|p| p.status == EndpointStatus::Endpoint).collect();
        let mut declared = DeclaredShapes::new();
        let mut is_first = true;
        for location in places {
            let template = self.base.below(&location.template);
            // Where it can't be an endpoint, it has been asked about.
            if self.drawn(location, &template).is_none() {
                continue;
            }
            let Some(rules) = DraftedBodyRules::of(location) else { continue };
            if std::mem::take(&mut is_first) {
                self.line("\n# ── body rules ──");
                self.comment(
                    "With them a check knows from a request which members are invalid. They have what was accepted, and what was refused as missing or as of another type. Limits and patterns don't show in a recording: add them, and then take `partial` out.",
                );
            }
            self.rules(location, &template, &rules, &mut declared);
        }
    }

    fn rules(
        &mut self,
        location: &SurveyedEndpoint,
        template: &str,
        rules: &DraftedBodyRules,
        declared: &mut DeclaredShapes,
    ) {
        let is_on = !rules.reasons.is_empty();
        let accepted = match rules.bodies.objects {
            1 => "1 accepted".to_owned(),
            count => format!("{count} accepted"),
        };
        self.line("");
        if is_on {
            let named = rules.reasons.iter().take(MOST_REASONS).cloned().collect::<Vec<_>>();
            let more = match rules.reasons.len().saturating_sub(MOST_REASONS) {
                0 => String::new(),
                more => format!(", and {more} more"),
            };
            self.comment(&format!("{accepted}; refused where {}{more}", named.join(", ")));
        } else {
            self.ask(&format!(
                "the body of {} {template}: no request was refused for a missing member or one of another type; {accepted} had these members:",
                location.method
            ));
        }
        let last = location.template.rsplit('/').find(|segment| !segment.starts_with('{'));
        let resource = last.unwrap_or_default();
        let owners = [
            resource.to_owned(),
            format!("{} {resource}", location.method),
            format!("{} {template}", location.method),
        ];
        let drafts = owners.map(|owner| drafted(&plain_name(&owner), &rules.bodies));
        let differs = |table: &ShapeDeclaration| {
            declared.get(&table.name).is_some_and(|known| !is_on || *known != table.members)
        };
        let is_free = |drafted: &DraftedShape| !drafted.tables.iter().any(differs);
        // What is only a suggestion may be taken in or not, so it shares no shape with others.
        let mut drafts = drafts.into_iter().skip(usize::from(!is_on));
        let Some(drafted) = drafts.find(is_free) else { return };
        let endpoint = quoted(&format!("{} {template}", location.method));
        let mut text = format!(
            "[endpoint.{endpoint}.body-members]\npartial = true\n{}",
            lines(&drafted.members)
        );
        for table in drafted.tables {
            if declared.insert(table.name.clone(), table.members.clone()).is_some() {
                continue;
            }
            text.push('\n');
            text.push_str(&table.toml());
        }
        for line in text.lines() {
            match (is_on, line.is_empty()) {
                (false, true) => self.line("#"),
                (false, false) => self.line(&format!("# {line}")),
                (true, _) => self.line(line),
            }
        }
    }
}

fn drafted(owner: &str, bodies: &InferredShape) -> DraftedShape {
    let mut drafted = DraftedShape::default();
    for (name, member) in &bodies.members {
        drafted.add(owner, name, member, MemberPresence::of(bodies, member));
    }
    drafted
}
