//! Which variant a value says that it is (OpenAPI 3.1.1 section 4.8.25).
//!
//! A schema with a discriminator is rewritten so that a value is held against the variant that it names, and what is wrong
//! with it is found in its place. A value that names no variant is held against the alternatives as they are written.

use std::collections::{HashMap, HashSet};

use serde_json::{Map, Value, json};

use super::documents::{DocumentId, DocumentSet};
use faithful_clerk_model::json::pointer::{join, tokens};

/// A place in a document.
type SchemaPlace = (DocumentId, String);

/// A schema that some values of the discriminating member stand for.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Variant {
    pub(super) values: Vec<String>,
    pub(super) target: SchemaPlace,
}

/// What tells the variants of a schema apart.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Discriminator {
    property: String,
    pub(super) variants: Vec<Variant>,
    /// What a value is held against that names none of them (OpenAPI 3.2.0 section 4.24.1).
    pub(super) default: Option<SchemaPlace>,
}

const COMPONENTS: &str = "/components/schemas";

impl DocumentSet {
    /// The discriminator of a schema; none where it has none that could be used. `at` is its place, if it is a component.
    pub(super) fn discriminator(
        &self,
        id: DocumentId,
        at: Option<&str>,
        schema: &Map<String, Value>,
    ) -> Option<Discriminator> {
        let discriminator = schema.get("discriminator")?;
        let property = discriminator.get("propertyName")?.as_str()?.to_owned();
        let mapped = self.mapped(id, discriminator);
        let alternatives = ["oneOf", "anyOf"].iter().find_map(|word| schema.get(*word)?.as_array());
        let mut targets: Vec<SchemaPlace> = match (alternatives, at) {
            (Some(items), _) => items.iter().filter_map(|item| self.named(id, item)).collect(),
            (None, Some(at)) => self.heirs(id, at),
            (None, None) => Vec::new(),
        };
        let more = mapped.iter().filter(|_| alternatives.is_none()).map(|(_, target)| target);
        for target in more {
            if !targets.contains(target) {
                targets.push(target.clone());
            }
        }
        let variant = |target: SchemaPlace| {
            let values = mapped.iter().filter(|(_, mapped)| *mapped == target);
            let mut values: Vec<String> = values.map(|(value, _)| value.clone()).collect();
            if values.is_empty() {
                values = self.own_values(target.0, &target.1, &property, 3);
            }
            if values.is_empty() {
                values.extend(tokens(&target.1).and_then(|steps| steps.last().cloned()));
            }
            Variant { values, target }
        };
        let variants =
            targets.into_iter().map(variant).filter(|variant| !variant.values.is_empty());
        let variants: Vec<Variant> = variants.collect();
        let default = discriminator.get("defaultMapping").and_then(Value::as_str);
        let default = default.and_then(|name| self.schema_called(id, name));
        (!variants.is_empty()).then_some(Discriminator { property, variants, default })
    }

    /// The values of a mapping, each with its schema.
    fn mapped(&self, id: DocumentId, discriminator: &Value) -> Vec<(String, SchemaPlace)> {
        let mapping = discriminator.get("mapping").and_then(Value::as_object);
        let target = |(value, name): (&String, &Value)| {
            Some((value.clone(), self.schema_called(id, name.as_str()?)?))
        };
        mapping.into_iter().flatten().filter_map(target).collect()
    }

    /// The schema of that name or, where no component is called so, at that reference.
    fn schema_called(&self, id: DocumentId, name: &str) -> Option<SchemaPlace> {
        let component = join(COMPONENTS, name);
        if self.at(id, &component).is_ok() {
            return Some((id, component));
        }
        let (id, location) = self.locate(id, name).ok()?;
        self.at(id, &location).is_ok().then_some((id, location))
    }

    /// Where an alternative leads, if it is a reference; others have no name that a value could say.
    fn named(&self, id: DocumentId, alternative: &Value) -> Option<SchemaPlace> {
        self.locate(id, alternative.get("$ref")?.as_str()?).ok()
    }

    /// The components that take a schema over by `allOf`, directly or through others.
    fn heirs(&self, id: DocumentId, at: &str) -> Vec<SchemaPlace> {
        let components = self.at(id, COMPONENTS).ok().and_then(Value::as_object);
        let mut children: HashMap<SchemaPlace, Vec<SchemaPlace>> = HashMap::new();
        for (name, schema) in components.into_iter().flatten() {
            for parent in self.parents(id, schema) {
                children.entry(parent).or_default().push((id, join(COMPONENTS, name)));
            }
        }
        let first = (id, at.to_owned());
        let mut known = HashSet::from([first.clone()]);
        let (mut found, mut above) = (Vec::new(), vec![first]);
        while let Some(parent) = above.pop() {
            for child in children.get(&parent).into_iter().flatten() {
                if known.insert(child.clone()) {
                    found.push(child.clone());
                    above.push(child.clone());
                }
            }
        }
        found
    }

    /// What a schema takes over by `allOf`.
    fn parents<'s>(
        &'s self,
        id: DocumentId,
        schema: &'s Value,
    ) -> impl Iterator<Item = SchemaPlace> {
        let items = schema.get("allOf").and_then(Value::as_array).into_iter().flatten();
        items.filter_map(move |item| self.named(id, item))
    }

    /// Has a schema an `allOf` with a reference to that one?
    pub(super) fn takes_over(&self, id: DocumentId, schema: &Value, parent: &SchemaPlace) -> bool {
        self.parents(id, schema).any(|place| place == *parent)
    }

    /// The values that a schema itself allows its discriminating member.
    fn own_values(&self, id: DocumentId, at: &str, property: &str, depth: usize) -> Vec<String> {
        let Ok((id, at, schema)) = self.follow(id, at) else { return Vec::new() };
        let member = join(&join(&at, "properties"), property);
        if let Ok((_, _, member)) = self.follow(id, &member) {
            let listed = member.get("enum").and_then(Value::as_array).into_iter().flatten();
            let values = listed.chain(member.get("const")).filter_map(Value::as_str);
            let values: Vec<String> = values.map(str::to_owned).collect();
            if !values.is_empty() {
                return values;
            }
        }
        let Some(less) = depth.checked_sub(1) else { return Vec::new() };
        let items = schema.get("allOf").and_then(Value::as_array).into_iter().flatten();
        // What is written there itself: a parent's values are those of all its heirs.
        let inline = items.enumerate().filter(|(_, item)| item.get("$ref").is_none());
        inline
            .flat_map(|(index, _)| {
                let at = format!("{at}/allOf/{index}");
                self.own_values(id, &at, property, less)
            })
            .collect()
    }
}

impl Discriminator {
    /// Rewrites the schema: each variant where its value is said, and the alternatives where none is. The references are
    /// those of the variants, and the default's.
    pub(super) fn apply(
        &self,
        schema: &mut Map<String, Value>,
        references: &[String],
        default: Option<String>,
    ) {
        let is = |values: &[&String]| {
            let mut known = Map::new();
            known.insert(self.property.clone(), json!({ "enum": values }));
            json!({ "type": "object", "required": [self.property], "properties": known })
        };
        let mut parts = Vec::new();
        let mut all = Vec::new();
        for (variant, reference) in self.variants.iter().zip(references) {
            let values: Vec<&String> = variant.values.iter().collect();
            parts.push(json!({ "if": is(&values), "then": { "$ref": reference } }));
            all.extend(values);
        }
        all.dedup();
        let word = ["oneOf", "anyOf"].into_iter().find(|word| schema.contains_key(*word));
        let alternatives = word.and_then(|word| Some((word, schema.remove(word)?)));
        let otherwise = match (default, alternatives) {
            (Some(default), _) => Some(json!({ "$ref": default })),
            (None, Some((word, items))) => Some(json!({ "if": { word: items }, "else": is(&all) })),
            (None, None) => None,
        };
        if let Some(otherwise) = otherwise {
            parts.push(json!({ "if": { "not": is(&all) }, "then": otherwise }));
        }
        let items = schema.entry("allOf").or_insert_with(|| Value::Array(Vec::new()));
        if let Value::Array(items) = items {
            items.extend(parts);
        }
    }
}
