//! The paths that were seen, as a tree of segments, with what was seen at each.
//!
//! Segments that are values by their form stand together from the start, so the tree grows with the
//! names of a service and not with its data.

use faithful_clerk_model::method::is_standard;
use faithful_clerk_model::secret::mask::masked_example;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::facts::EndpointFacts;
use super::segment::SegmentForm;

/// More names than this at one place are data.
pub(super) const MOST_NAMES: usize = 256;

/// More methods than this at one path are made up.
const MOST_METHODS: usize = 32;

/// Stands for the others.
const OTHER_METHODS: &str = "(other)";

/// Of the values at one place, so many are remembered.
const MOST_VALUES: usize = 4;

/// What can stand behind one path.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PathNode {
    /// The names that follow.
    pub(super) names: BTreeMap<String, Self>,
    /// The values that follow, all together.
    pub(super) values: Option<Box<SegmentValues>>,
    /// What was seen at this very path, by method.
    pub(super) here: BTreeMap<String, EndpointFacts>,
}

/// Values at one position of a path.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct SegmentValues {
    /// Some of them.
    pub(super) some: BTreeSet<String>,
    /// Their forms.
    pub(super) forms: BTreeSet<SegmentForm>,
    /// What stands behind them.
    pub(super) node: PathNode,
}

impl SegmentValues {
    /// Notes a value, and gives what stands behind it.
    fn behind(&mut self, value: &str) -> &mut PathNode {
        self.note(value);
        &mut self.node
    }

    /// Notes a value, without what may be a secret in it.
    fn note(&mut self, value: &str) {
        let form = SegmentForm::of(value);
        self.forms.insert(form);
        let value = match form {
            SegmentForm::Integer | SegmentForm::Date | SegmentForm::Word => Cow::Borrowed(value),
            _ => masked_example(value),
        };
        let is_kept =
            self.some.len() < MOST_VALUES || self.some.last().is_some_and(|last| *value < **last);
        if is_kept && !self.some.contains(value.as_ref()) {
            self.some.insert(value.into_owned());
            self.shorten();
        }
    }

    fn shorten(&mut self) {
        while self.some.len() > MOST_VALUES {
            self.some.pop_last();
        }
    }

    /// Adds what stands behind one value.
    pub(super) fn take(&mut self, value: &str, node: PathNode) {
        self.note(value);
        self.node.add(node);
    }

    fn add(&mut self, other: Self) {
        self.forms.extend(other.forms);
        self.some.extend(other.some);
        self.shorten();
        self.node.add(other.node);
    }
}

impl PathNode {
    /// What was seen at a path by a method, to be added to.
    pub fn at(&mut self, segments: &[String], method: &str) -> &mut EndpointFacts {
        let Some((segment, rest)) = segments.split_first() else { return self.by_method(method) };
        let is_value = SegmentForm::of(segment).is_value();
        if !is_value && !self.is_full() && !self.names.contains_key(segment) {
            self.names.insert(segment.clone(), Self::default());
            self.settle();
        }
        let inner = match is_value || self.is_full() {
            true => self.values.get_or_insert_default().behind(segment),
            false => self.names.entry(segment.clone()).or_default(),
        };
        inner.at(rest, method)
    }

    fn by_method(&mut self, method: &str) -> &mut EndpointFacts {
        if !self.here.contains_key(method) {
            self.here.insert(method.to_owned(), EndpointFacts::default());
            self.shorten();
        }
        let known = if self.here.contains_key(method) { method } else { OTHER_METHODS };
        self.here.entry(known.to_owned()).or_default()
    }

    /// Takes methods that are made up for one, where there are too many.
    fn shorten(&mut self) {
        while self.here.len() > MOST_METHODS {
            let made_up = |method: &&String| !is_standard(method) && *method != OTHER_METHODS;
            let Some(method) = self.here.keys().rev().find(made_up).cloned() else { break };
            let facts = self.here.remove(&method).unwrap_or_default();
            self.here.entry(OTHER_METHODS.to_owned()).or_default().add(facts);
        }
    }

    /// Once values were taken out of so many names, later ones are values, too.
    fn settle(&mut self) {
        if self.names.len() > MOST_NAMES || self.is_full() {
            for (name, node) in std::mem::take(&mut self.names) {
                self.values.get_or_insert_default().take(&name, node);
            }
        }
    }

    /// The tree below a path of names, such as `/v1`; the whole, where it does not have that path.
    #[must_use]
    pub fn below(mut self, prefix: &str) -> Self {
        for name in prefix.split('/').filter(|name| !name.is_empty()) {
            match self.names.remove(name) {
                Some(inner) => self = inner,
                None => return self,
            }
        }
        self
    }

    /// Adds what another tree has at the same path.
    pub fn add(&mut self, other: Self) {
        for (method, facts) in other.here {
            self.here.entry(method).or_default().add(facts);
        }
        self.shorten();
        for (name, node) in other.names {
            self.names.entry(name).or_default().add(node);
        }
        if let Some(values) = other.values {
            self.values.get_or_insert_default().add(*values);
        }
        self.settle();
    }

    /// Were its names found to be data before? Only then do words stand among the values.
    fn is_full(&self) -> bool {
        self.values.as_ref().is_some_and(|values| values.forms.iter().any(|form| !form.is_value()))
    }
}
