//! How a tree of paths is written down: as a list of its nodes, so that no path is nested deeper than readers of JSON go.

use std::collections::{BTreeMap, BTreeSet};

use serde::de::Error as _;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

use super::facts::EndpointFacts;
use super::observe::MOST_SEGMENTS;
use super::segment::SegmentForm;
use super::tree::PathNode;

/// What is known at one path.
#[derive(Deserialize)]
struct ReadNode {
    /// Its steps: a name, or `null` for any value.
    path: Vec<Option<String>>,
    #[serde(default)]
    values: Option<ReadValues>,
    #[serde(default)]
    here: BTreeMap<String, EndpointFacts>,
}

/// The values that follow.
#[derive(Deserialize)]
struct ReadValues {
    some: BTreeSet<String>,
    forms: BTreeSet<SegmentForm>,
}

#[derive(Serialize)]
struct WrittenNode<'n> {
    path: Vec<Option<&'n str>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    values: Option<WrittenValues<'n>>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    here: &'n BTreeMap<String, EndpointFacts>,
}

#[derive(Serialize)]
struct WrittenValues<'n> {
    some: &'n BTreeSet<String>,
    forms: &'n BTreeSet<SegmentForm>,
}

impl Serialize for PathNode {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut nodes = Vec::new();
        self.list(&mut Vec::new(), &mut nodes);
        serializer.collect_seq(nodes)
    }
}

impl PathNode {
    fn list<'n>(&'n self, path: &mut Vec<Option<&'n str>>, nodes: &mut Vec<WrittenNode<'n>>) {
        let values = self.values.as_deref();
        let written = values.map(|of| WrittenValues { some: &of.some, forms: &of.forms });
        if written.is_some() || !self.here.is_empty() {
            nodes.push(WrittenNode { path: path.clone(), values: written, here: &self.here });
        }
        for (name, node) in &self.names {
            path.push(Some(name));
            node.list(path, nodes);
            path.pop();
        }
        if let Some(values) = values {
            path.push(None);
            values.node.list(path, nodes);
            path.pop();
        }
    }
}

impl<'de> Deserialize<'de> for PathNode {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let mut tree = Self::default();
        for node in Vec::<ReadNode>::deserialize(deserializer)? {
            if node.path.len() > MOST_SEGMENTS {
                return Err(D::Error::custom(format!(
                    "a path of more than {MOST_SEGMENTS} segments"
                )));
            }
            let mut at = &mut tree;
            for step in node.path {
                at = match step {
                    Some(name) => at.names.entry(name).or_default(),
                    None => &mut at.values.get_or_insert_default().node,
                };
            }
            at.here = node.here;
            if let Some(ReadValues { some, forms }) = node.values {
                let values = at.values.get_or_insert_default();
                (values.some, values.forms) = (some, forms);
            }
        }
        Ok(tree)
    }
}
