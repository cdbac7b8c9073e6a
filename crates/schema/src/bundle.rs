//! A schema with all that it refers to and nothing else, as a validator can compile it.
//!
//! Documents are kept as they were read. What a description means by its own words (`nullable`, `readOnly`,
//! `discriminator`) is put into JSON Schema here, for the direction in which the value goes.

use std::collections::{BTreeMap, HashSet};

use serde_json::{Map, Value};

use super::dialect::modernise;
use super::documents::{
    DocumentId, DocumentSet, REFERENCES, is_of_json_schema, references as words_of,
};
use super::one_way::Direction;
use super::references::{change, in_place, look};
use super::schema_dialect::SchemaDialect;
use faithful_clerk_model::json::pointer::JsonPath;

/// The parts of one document that a schema reaches.
#[derive(Debug)]
pub(super) struct BundledDocument {
    pub(super) uri: String,
    /// The document's path, for messages.
    pub(super) path: String,
    pub(super) value: Value,
    pub(super) dialect: SchemaDialect,
}

/// A schema, ready to be compiled.
#[derive(Debug)]
pub(super) struct Bundle {
    pub(super) documents: Vec<BundledDocument>,
    /// The reference to the schema itself.
    pub(super) root: String,
    pub(super) dialect: SchemaDialect,
}

/// How a schema is reached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Reach {
    /// With its variants.
    Whole,
    /// As the variant that a value says it is.
    Variant,
    /// From one of its variants, which has said already which it is.
    FromHeir,
}

type Target = (DocumentId, String, Reach);

const URI: &str = "document:///";

/// What only describes a schema, or is in reach by reference.
const LEFT_OUT: [&str; 10] = [
    "$id",
    "$anchor",
    "$dynamicAnchor",
    "$recursiveAnchor",
    "$defs",
    "definitions",
    "discriminator",
    "description",
    "xml",
    "externalDocs",
];

/// A part of a document.
struct Part {
    document: DocumentId,
    location: String,
    value: Value,
}

struct Bundler<'d> {
    documents: &'d DocumentSet,
    direction: Direction,
    numbers: BTreeMap<Target, usize>,
    open: Vec<Target>,
    parts: Vec<Part>,
}

impl Bundle {
    /// Gathers the schema at a place.
    ///
    /// # Errors
    /// Which reference leads nowhere, or comes back to itself for the same value, as checking would then never end.
    pub(super) fn gather(
        documents: &DocumentSet,
        id: DocumentId,
        location: &str,
        direction: Direction,
    ) -> Result<Self, String> {
        let (numbers, open, parts) = Default::default();
        let mut bundler = Bundler { documents, direction, numbers, open, parts };
        let root = bundler.reference((id, location.to_owned(), Reach::Whole));
        let mut next = 0;
        while let Some(target) = bundler.open.get(next).cloned() {
            let part = bundler.part(target)?;
            bundler.parts.push(part);
            next += 1;
        }
        bundler.check_rings()?;
        let dialect = documents.document(id).ok_or("no such document")?.dialect;
        Ok(Self { documents: bundler.documents(), root, dialect })
    }
}

impl Bundle {
    /// The names of all members that its schemas know; none where names make no difference to what they refuse: where
    /// nothing is said of members that no schema has looked at, or members are known by patterns, too.
    pub(super) fn known_members(&self) -> Option<HashSet<String>> {
        let (mut names, mut asks, mut has_patterns) = (HashSet::new(), false, false);
        for document in &self.documents {
            look(&document.value, &JsonPath::Top, &mut |schema, _| {
                asks |= schema.contains_key("unevaluatedProperties");
                has_patterns |= schema.contains_key("patternProperties");
                let members = schema.get("properties").and_then(Value::as_object);
                names.extend(members.into_iter().flatten().map(|(name, _)| name.clone()));
            });
        }
        (asks && !has_patterns).then_some(names)
    }
}

impl Bundler<'_> {
    /// The reference to a part, which is made if it is new.
    fn reference(&mut self, target: Target) -> String {
        let document = target.0.0;
        let next = self.open.len();
        let number = *self.numbers.entry(target.clone()).or_insert(next);
        if number == next {
            self.open.push(target);
        }
        format!("{URI}{document}#/{number}")
    }

    fn part(&mut self, (id, location, reach): Target) -> Result<Part, String> {
        let documents = self.documents;
        let mut value = documents.at(id, &location)?.clone();
        let dialect = documents.document(id).ok_or("no such document")?.dialect;
        let mut wrong = None;
        change(&mut value, &JsonPath::Top, &mut |schema, path| {
            if let Err(reason) = self.adapt(schema, path, &location, (id, dialect, reach)) {
                wrong.get_or_insert(reason);
            }
        });
        match wrong {
            Some(reason) => Err(reason),
            None => Ok(Part { document: id, location, value }),
        }
    }

    /// Puts one schema into words that a validator knows, and its references into those of the bundle.
    fn adapt(
        &mut self,
        schema: &mut Map<String, Value>,
        path: &JsonPath<'_>,
        location: &str,
        (id, dialect, reach): (DocumentId, SchemaDialect, Reach),
    ) -> Result<(), String> {
        if dialect == SchemaDialect::OpenApi30 {
            modernise(schema);
        }
        if dialect.is_of_description() {
            let at = is_top(path).then_some(location);
            self.apply_discriminator(schema, id, at, reach);
            self.direction.narrow(self.documents, id, schema);
        }
        schema.retain(|word, _| !LEFT_OUT.contains(&word.as_str()) && !word.starts_with("x-"));
        // Those of `allOf` come before their own turn: a schema that takes another over is one of its variants.
        let is_variant = reach != Reach::Whole && is_top(path);
        let is_heir = dialect.is_of_description() && (is_variant || is_heir(schema));
        if is_heir && let Some(Value::Array(items)) = schema.get_mut("allOf") {
            for item in items.iter_mut().filter_map(Value::as_object_mut) {
                self.rewrite(item, id, Reach::FromHeir)?;
            }
        }
        self.rewrite(schema, id, Reach::Whole)
    }

    /// Writes the references of a schema as the bundle knows them.
    fn rewrite(
        &mut self,
        schema: &mut Map<String, Value>,
        id: DocumentId,
        reach: Reach,
    ) -> Result<(), String> {
        for word in REFERENCES {
            let Some(Value::String(reference)) = schema.get(word) else { continue };
            if reference.starts_with(URI) || is_of_json_schema(reference) {
                continue;
            }
            let (id, location) = self.documents.locate(id, reference)?;
            self.documents.at(id, &location)?;
            let reference = Value::from(self.reference((id, location, reach)));
            schema.remove(word);
            if word == "$ref" || !schema.contains_key("$ref") {
                schema.insert("$ref".to_owned(), reference);
            }
        }
        Ok(())
    }

    fn apply_discriminator(
        &mut self,
        schema: &mut Map<String, Value>,
        id: DocumentId,
        at: Option<&str>,
        reach: Reach,
    ) {
        let documents = self.documents;
        let has_alternatives = schema.contains_key("oneOf") || schema.contains_key("anyOf");
        // A value has said which variant it is, and that is the one of them all.
        if reach != Reach::Whole && !has_alternatives {
            return;
        }
        let Some(discriminator) = documents.discriminator(id, at, schema) else { return };
        if let (Some(at), Reach::FromHeir) = (at, reach) {
            let place = (id, at.to_owned());
            let is_heir = |target: &(DocumentId, String)| {
                let variant = documents.at(target.0, &target.1);
                variant.is_ok_and(|variant| documents.takes_over(target.0, variant, &place))
            };
            // The alternatives of which this is one lead back here.
            if discriminator.variants.iter().any(|variant| is_heir(&variant.target)) {
                schema.retain(|word, _| word != "oneOf" && word != "anyOf");
            }
            return;
        }
        let mut variant = |(id, location): &(DocumentId, String)| {
            self.reference((*id, location.clone(), Reach::Variant))
        };
        let references: Vec<String> =
            discriminator.variants.iter().map(|one| variant(&one.target)).collect();
        let default = discriminator.default.as_ref().map(variant);
        discriminator.apply(schema, &references, default);
    }

    /// Does a part check a value by itself, through however many others?
    fn check_rings(&self) -> Result<(), String> {
        #[derive(Clone, Copy, PartialEq)]
        enum Visit {
            Due,
            OnPath,
            Done,
        }
        let edges: Vec<Vec<usize>> = self.parts.iter().map(|part| edges(&part.value)).collect();
        let mut visits = vec![Visit::Due; edges.len()];
        for start in 0..edges.len() {
            let mut path = vec![(start, 0)];
            if visits[start] == Visit::Done {
                continue;
            }
            while let Some((part, next)) = path.pop() {
                visits[part] = Visit::OnPath;
                let Some(target) = edges[part].get(next).copied() else {
                    visits[part] = Visit::Done;
                    continue;
                };
                path.push((part, next + 1));
                match visits.get(target) {
                    Some(Visit::Due) => path.push((target, 0)),
                    Some(Visit::OnPath) => {
                        let part = &self.parts[target];
                        return Err(self.documents.ring(part.document, &part.location));
                    }
                    Some(Visit::Done) | None => {}
                }
            }
        }
        Ok(())
    }

    fn documents(self) -> Vec<BundledDocument> {
        let mut values: BTreeMap<DocumentId, Map<String, Value>> = BTreeMap::new();
        for (number, part) in self.parts.into_iter().enumerate() {
            values.entry(part.document).or_default().insert(number.to_string(), part.value);
        }
        let document = |(id, value): (DocumentId, Map<String, Value>)| {
            let document = self.documents.document(id)?;
            let (uri, path) = (format!("{URI}{}", id.0), document.path.clone());
            let (value, dialect) = (Value::Object(value), document.dialect);
            Some(BundledDocument { uri, path, value, dialect })
        };
        values.into_iter().filter_map(document).collect()
    }
}

/// Is this the schema of the part itself? A nullable one has been moved one step in.
fn is_top(path: &JsonPath<'_>) -> bool {
    matches!(path, JsonPath::Top | JsonPath::Member(JsonPath::Top, "else"))
}

/// Does a schema take others over and add to them? With one `allOf` and nothing else it only wraps what it names.
fn is_heir(schema: &Map<String, Value>) -> bool {
    let items = schema.get("allOf").and_then(Value::as_array).map_or(0, Vec::len);
    items > 1 || items == 1 && schema.contains_key("properties")
}

/// The parts that check the same value as this one does.
fn edges(value: &Value) -> Vec<usize> {
    let mut found = Vec::new();
    let mut open: Vec<&Map<String, Value>> = value.as_object().into_iter().collect();
    while let Some(schema) = open.pop() {
        let number = |(_, reference): (&str, &str)| {
            reference.strip_prefix(URI)?.split_once("#/")?.1.parse::<usize>().ok()
        };
        found.extend(words_of(schema).filter_map(number));
        open.extend(in_place(schema));
    }
    found
}

/// The validator's words, without the addresses that are ours.
pub(super) fn plain(message: &str) -> String {
    message.replace(URI, "").chars().take(200).collect()
}
