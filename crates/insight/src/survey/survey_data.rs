//! What is gathered of recordings, and how it adds up.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use super::facts::{EndpointFacts, ErrorCategory, GroupKey, Occurrences};
use super::given_names::GivenNames;
use super::pairs;
use super::tree::PathNode;
use super::validation::FieldNamingFacts;
use faithful_clerk_check::classify::LocationForm;
use faithful_clerk_recording::UnreadableParts;
use faithful_clerk_shape::InferredShape;

/// So many groups of bodies are told apart; all others are one.
pub const MOST_GROUPS: usize = 128;

/// So many headers of errors are remembered.
const MOST_HEADERS: usize = 64;

/// Of a header, so many values.
const MOST_HEADER_VALUES: usize = 4;

/// So many hosts are told apart.
const MOST_ORIGINS: usize = 64;

/// Stands for the others.
const OTHER_HOSTS: &str = "other hosts";

/// Headers that say nothing of an agreement: of the connection, of the server, of the content's size and age.
pub const NOISE: [&str; 20] = [
    "host",
    "date",
    "server",
    "content-type",
    "content-length",
    "connection",
    "transfer-encoding",
    "keep-alive",
    "via",
    "set-cookie",
    "etag",
    "last-modified",
    "age",
    "x-powered-by",
    "x-runtime",
    "alt-svc",
    "content-encoding",
    "accept-ranges",
    "trailer",
    "upgrade",
];

/// Bodies of errors that are of one form.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BodyGroup {
    /// What they are made of.
    pub shape: InferredShape,
    /// The exchanges.
    pub seen: Occurrences,
    /// How their entries name the places of a request.
    #[serde(with = "pairs")]
    pub forms: BTreeMap<LocationForm, u64>,
}

impl BodyGroup {
    /// Adds another.
    pub fn add(&mut self, other: Self) {
        self.shape.add(other.shape);
        self.seen.add(&other.seen);
        for (form, count) in other.forms {
            *self.forms.entry(form).or_default() += count;
        }
    }
}

/// A header that errors carry.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ObservedHeader {
    /// Its name as it was written.
    pub name: String,
    /// In how many errors.
    pub count: u64,
    /// Some of its values.
    pub values: BTreeSet<String>,
}

/// Everything that was seen. What workers and machines gathered adds up in any order.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
pub struct SurveyData {
    /// What was seen at the endpoints of the contract, by template and method.
    #[serde(with = "pairs")]
    pub declared: BTreeMap<(String, String), EndpointFacts>,
    /// The other paths, by scheme, host and port.
    pub origins: BTreeMap<String, PathNode>,
    /// What responses called things.
    pub names: GivenNames,
    /// The bodies of errors.
    #[serde(with = "pairs")]
    pub groups: BTreeMap<GroupKey, BodyGroup>,
    /// The bodies of errors that are one of too many shapes.
    #[serde(with = "pairs")]
    pub many: BTreeMap<ErrorCategory, BodyGroup>,
    /// How validation errors name fields.
    pub naming: FieldNamingFacts,
    /// Exchanges that are none of the service's, by reason.
    pub excluded: BTreeMap<Cow<'static, str>, u64>,
    /// How many exchanges are the service's.
    pub exchanges: u64,
    /// How many of them are errors: a status of 400 or above.
    pub errors: u64,
    /// Errors that tell what is internal, by what it is.
    pub disclosed: BTreeMap<Cow<'static, str>, Occurrences>,
    /// Errors in responses that are successes by their status.
    pub inside: Occurrences,
    /// The headers of errors, by name in lower case.
    pub headers: BTreeMap<String, ObservedHeader>,
    /// Does any request carry credentials?
    pub has_credentials: bool,
    /// What could not be read.
    pub unreadable: UnreadableParts,
}

impl SurveyData {
    /// Adds what was gathered elsewhere.
    pub fn add(&mut self, other: Self) {
        for (location, facts) in other.declared {
            self.declared.entry(location).or_default().add(facts);
        }
        for (origin, node) in other.origins {
            self.add_origin(origin, node);
        }
        self.names.add(&other.names);
        for (key, group) in other.groups {
            self.group(key, group);
        }
        for (kind, group) in other.many {
            self.many.entry(kind).or_default().add(group);
        }
        self.naming.add(other.naming);
        for (reason, count) in other.excluded {
            *self.excluded.entry(reason).or_default() += count;
        }
        for (what, seen) in other.disclosed {
            self.disclosed.entry(what).or_default().add(&seen);
        }
        self.inside.add(&other.inside);
        for (key, header) in other.headers {
            self.header(key, header);
        }
        self.exchanges += other.exchanges;
        self.errors += other.errors;
        self.has_credentials |= other.has_credentials;
        self.unreadable.add(other.unreadable);
    }

    /// Adds what was seen at a host. Which hosts are kept apart does not depend on the order in which they came: the
    /// first of them by name.
    fn add_origin(&mut self, origin: String, node: PathNode) {
        self.origins.entry(origin).or_default().add(node);
        shorten(&mut self.origins);
    }

    pub(super) fn group(&mut self, key: GroupKey, group: BodyGroup) {
        self.groups.entry(key).or_default().add(group);
        // Which groups are kept does not depend on the order in which they came.
        if self.groups.len() > MOST_GROUPS
            && let Some(((kind, _), group)) = self.groups.pop_last()
        {
            self.many.entry(kind).or_default().add(group);
        }
    }

    pub(super) fn header(&mut self, key: String, header: ObservedHeader) {
        let ObservedHeader { name, count, values } = header;
        let sum = self
            .headers
            .entry(key)
            .or_insert_with(|| ObservedHeader { name: name.clone(), ..ObservedHeader::default() });
        sum.name = name.min(std::mem::take(&mut sum.name));
        sum.count += count;
        sum.values.extend(values);
        while sum.values.len() > MOST_HEADER_VALUES {
            sum.values.pop_last();
        }
        while self.headers.len() > MOST_HEADERS {
            self.headers.pop_last();
        }
    }
}

/// What was seen at a host. Which hosts are kept apart does not depend on the order in which they came.
pub(super) fn origin<'o>(
    origins: &'o mut BTreeMap<String, PathNode>,
    name: &str,
) -> &'o mut PathNode {
    if !origins.contains_key(name) {
        origins.insert(name.to_owned(), PathNode::default());
        shorten(origins);
    }
    let known = if origins.contains_key(name) { name } else { OTHER_HOSTS };
    origins.entry(known.to_owned()).or_default()
}

/// Takes the last hosts by name for one, where there are too many.
fn shorten(origins: &mut BTreeMap<String, PathNode>) {
    let is_kept = |name: &&String| name.as_str() != OTHER_HOSTS;
    while origins.keys().filter(is_kept).count() > MOST_ORIGINS {
        let last = origins.keys().rev().find(is_kept).cloned();
        let Some(node) = last.and_then(|last| origins.remove(&last)) else { return };
        origins.entry(OTHER_HOSTS.to_owned()).or_default().add(node);
    }
}
