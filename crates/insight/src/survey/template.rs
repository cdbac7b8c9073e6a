//! Path templates, inferred from the paths that were seen.
//!
//! What stands at one position of a path is a parameter if it is a value by its form; if several codes
//! (`A-3`, `B-1`) behave alike; if several words behave alike and come back in the response as the id of
//! what was requested, or another response calls things so; if a creation gave it in `Location`; or if it stands beside values and led to nothing but errors: then it was a wrong
//! one. A word that succeeds beside values is a name, such as `/vessels/mine` beside `/vessels/{id}`.

use std::collections::{BTreeMap, BTreeSet};

use super::facts::{EndpointFacts, SuccessFacts};
use super::given_names::GivenNames;
use super::resource_shape::ResourceShape;
use super::segment::SegmentForm;
use super::tree::{PathNode, SegmentValues};

/// So many words that behave alike are values, even if nothing in the responses says so.
const MANY_ALIKE: usize = 6;

/// A place that was found: a template, and what was seen there by method.
#[derive(Debug, Clone, Default)]
pub struct InferredEndpoint {
    /// The template, such as `/berths/{id}`.
    pub template: String,
    /// Some values of its last parameter.
    pub values: Vec<String>,
    /// What was seen, by method.
    pub methods: BTreeMap<String, EndpointFacts>,
}

/// Every template of a tree, in the order of its paths.
#[must_use]
pub fn templates(tree: PathNode, names: &GivenNames) -> Vec<InferredEndpoint> {
    let mut found = Vec::new();
    walk(tree, &NodePath::default(), names, &mut found);
    found
}

/// The way to a node.
#[derive(Debug, Clone, Default)]
struct NodePath {
    template: String,
    last: String,
    parameters: Vec<String>,
    values: Vec<String>,
}

impl NodePath {
    fn named(&self, name: &str) -> Self {
        let template = format!("{}/{}", self.template, encoded(name));
        Self { template, last: name.to_owned(), ..self.clone() }
    }

    fn parameter(&self, values: &SegmentValues) -> Self {
        let days = !values.forms.is_empty()
            && values
                .forms
                .iter()
                .all(|form| matches!(form, SegmentForm::Date | SegmentForm::Word))
            && values.forms.contains(&SegmentForm::Date);
        let is_words =
            |form: &SegmentForm| matches!(form, SegmentForm::Word | SegmentForm::Encoded);
        let words = values.forms.contains(&SegmentForm::Word) && values.forms.iter().all(is_words);
        let usual = if days {
            "date"
        } else if words {
            "name"
        } else {
            "id"
        };
        let mut name = usual.to_owned();
        if self.parameters.contains(&name) {
            name = format!("{}_{usual}", singular(&self.last));
        }
        while self.parameters.contains(&name) {
            name.push_str("_2");
        }
        let mut parameters = self.parameters.clone();
        parameters.push(name.clone());
        let template = format!("{}/{{{name}}}", self.template);
        let values = values.some.iter().cloned().collect();
        Self { template, last: self.last.clone(), parameters, values }
    }
}

/// A name as a template writes it: what templates give a meaning to is percent-encoded.
fn encoded(name: &str) -> String {
    let mut text = String::with_capacity(name.len());
    for c in name.chars() {
        match c {
            '{' | '}' | '/' | '?' | '#' | '%' | ' ' => {
                text.push_str(&format!("%{:02X}", u32::from(c)));
            }
            c => text.push(c),
        }
    }
    text
}

fn singular(word: &str) -> String {
    let word: String =
        word.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).collect();
    let one = match word.strip_suffix("ies") {
        Some(stem) => format!("{stem}y"),
        None => word.strip_suffix('s').unwrap_or(&word).to_owned(),
    };
    if one.is_empty() { "other".to_owned() } else { one }
}

fn walk(mut node: PathNode, way: &NodePath, names: &GivenNames, found: &mut Vec<InferredEndpoint>) {
    sort_out(&mut node, names);
    if !node.here.is_empty() {
        let template = if way.template.is_empty() { "/" } else { &way.template }.to_owned();
        found.push(InferredEndpoint { template, values: way.values.clone(), methods: node.here });
    }
    for (name, inner) in node.names {
        walk(inner, &way.named(&name), names, found);
    }
    if let Some(values) = node.values {
        let way = way.parameter(&values);
        walk(values.node, &way, names, found);
    }
}

/// Moves the names of a node that are values to its values.
fn sort_out(node: &mut PathNode, names: &GivenNames) {
    let profiles: BTreeMap<String, ResourceProfile> =
        node.names.iter().map(|(name, inner)| (name.clone(), ResourceProfile::of(inner))).collect();
    let mut moved: BTreeSet<String> = BTreeSet::new();
    let creates = node.here.get("POST").is_some_and(EndpointFacts::has_created);
    let beside = node.values.as_ref().map(|values| ResourceProfile::of(&values.node));
    let alike = |one: &str, other: &str| match (profiles.get(one), profiles.get(other)) {
        (Some(one), Some(other)) => one.is_like(other),
        _ => false,
    };
    for (name, profile) in &profiles {
        if name.is_empty() {
            // A trailing slash, which makes another path.
            continue;
        }
        let is_code = SegmentForm::of(name) == SegmentForm::Code;
        let twins: Vec<&String> =
            profiles.keys().filter(|other| *other != name && alike(name, other)).collect();
        let like_values = beside.as_ref().is_some_and(|beside| profile.is_like(beside));
        let is_value = if is_code {
            like_values || twins.iter().any(|twin| are_values(name, twin, &profiles))
        } else if profile.succeeded {
            let echoing = |name: &String| profiles.get(name).is_some_and(|p| p.echoes);
            let echoed = profile.echoes && (like_values || twins.iter().any(|twin| echoing(twin)));
            let is_given = |name: &String| names.identifiers.has(&[name]);
            let given = !profile.is_collection
                && is_given(name)
                && (like_values || twins.iter().any(|twin| is_given(twin)));
            let created = creates && names.created.has(&[name]);
            echoed || given || created || (profile.is_told && twins.len() + 1 >= MANY_ALIKE)
        } else {
            false
        };
        if is_value {
            moved.insert(name.clone());
        }
    }
    // What never succeeded beside values was a wrong value, if nothing but values is asked for there.
    let values_there = beside.is_some() || !moved.is_empty();
    if values_there {
        let mut all = beside.unwrap_or_default();
        moved.iter().filter_map(|name| profiles.get(name)).for_each(|p| all.add(p));
        for (name, profile) in &profiles {
            if !name.is_empty() && profile.only_failed() && profile.is_within(&all) {
                moved.insert(name.clone());
            }
        }
    }
    for name in moved {
        if let Some(inner) = node.names.remove(&name) {
            node.values.get_or_insert_default().take(&name, inner);
        }
    }
}

/// Are two codes that behave alike values? Where neither ever succeeded, `A-3` and `B-1` still look like
/// it, and `s3` and `oauth2` do not.
fn are_values(one: &str, other: &str, profiles: &BTreeMap<String, ResourceProfile>) -> bool {
    let succeeded = |name: &str| profiles.get(name).is_some_and(|profile| profile.succeeded);
    let is_parted = |name: &str| name.contains(['-', '_', '.']);
    SegmentForm::of(other) == SegmentForm::Code
        && (succeeded(one) || succeeded(other) || (is_parted(one) && is_parted(other)))
}

/// What can be requested below a node, and the response.
#[derive(Debug, Default)]
struct ResourceProfile {
    /// A relative path with its method, and the outermost forms of its successes.
    places: BTreeMap<String, BTreeSet<ResourceShape>>,
    /// Did anything succeed?
    succeeded: bool,
    /// Did an error come?
    failed: bool,
    /// Does the node's own name come back as an id in a response, its own or of what is below it?
    echoes: bool,
    /// Is the node itself a list, as collections are?
    is_collection: bool,
    /// Did a success tell enough to compare it with others?
    is_told: bool,
}

impl ResourceProfile {
    fn of(node: &PathNode) -> Self {
        let mut profile = Self::default();
        profile.echoes = profile.gather(node, "").contains(&0);
        let here = node.here.get("GET").into_iter();
        let mut tops = here.flat_map(|facts| &facts.successes.tops);
        profile.is_collection = tops.any(|top| matches!(top, ResourceShape::List(_)));
        profile
    }

    /// Adds what is requested below a node. What is given back are the distances, from the node up, of the segments
    /// that came back as ids.
    fn gather(&mut self, node: &PathNode, path: &str) -> BTreeSet<u8> {
        let mut echoes = BTreeSet::new();
        for (method, facts) in &node.here {
            echoes.extend(&facts.successes.echoes);
            let SuccessFacts { count, tops, .. } = &facts.successes;
            self.succeeded |= *count > 0;
            self.failed |= facts.rows.keys().any(|row| row.status.is_some_and(|s| s >= 400));
            self.is_told |= tops
                .iter()
                .any(|top| matches!(top, ResourceShape::Object(names) if names.len() >= 2));
            self.places.entry(format!("{method} {path}")).or_default().extend(tops.clone());
        }
        for (name, inner) in &node.names {
            // Below two owners, what they own has two names.
            let mut below = Self::default();
            let echoed = below.gather(inner, "");
            let name = if echoed.contains(&0) { "{}" } else { name };
            self.add_below(&format!("{path}/{name}"), below);
            echoes.extend(echoed.iter().filter_map(|distance| distance.checked_sub(1)));
        }
        if let Some(values) = &node.values {
            let echoed = self.gather(&values.node, &format!("{path}/{{}}"));
            echoes.extend(echoed.iter().filter_map(|distance| distance.checked_sub(1)));
        }
        echoes
    }

    fn add_below(&mut self, path: &str, below: Self) {
        self.succeeded |= below.succeeded;
        self.failed |= below.failed;
        self.is_told |= below.is_told;
        for (location, tops) in below.places {
            let (method, rest) = location.split_once(' ').unwrap_or((&location, ""));
            self.places.entry(format!("{method} {path}{rest}")).or_default().extend(tops);
        }
    }

    /// Is something requested in the same way below both, and nothing in it that differs?
    fn is_like(&self, other: &Self) -> bool {
        let mut common = 0;
        for (location, tops) in &self.places {
            let Some(others) = other.places.get(location) else { continue };
            common += 1;
            let resembles = tops.iter().any(|top| others.iter().any(|other| top.resembles(other)));
            if !tops.is_empty() && !others.is_empty() && !resembles {
                return false;
            }
        }
        common > 0
    }

    /// Did errors come, and nothing else? Where no response at all, nobody knows.
    fn only_failed(&self) -> bool {
        self.failed && !self.succeeded
    }

    /// Is nothing requested below it that is not requested below the other?
    fn is_within(&self, other: &Self) -> bool {
        self.places.keys().all(|location| other.places.contains_key(location))
    }

    fn add(&mut self, other: &Self) {
        for (location, tops) in &other.places {
            self.places.entry(location.clone()).or_default().extend(tops.clone());
        }
    }
}
