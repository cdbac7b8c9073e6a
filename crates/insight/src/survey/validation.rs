//! How a service names the fields that are invalid: all at once or one at a time, in a place of their own or in prose.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::facts::{Occurrences, RecordingPlaces, renumbered};
use super::pairs;
use faithful_clerk_check::classify::{Classified, ReportedField, location_steps, mentions};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::Json;
use faithful_clerk_model::secret::is_secret_name;
use faithful_clerk_model::stable_hash::StableHash;

/// So many methods of paths are looked at for fields that are named one at a time.
const MOST_TARGETS: usize = 64;

/// Of each, so many refused requests.
const MOST_ATTEMPTS: usize = 16;

/// Of each request, so many members.
const MOST_MEMBERS: usize = 64;

/// So many pairs of requests are told.
const MOST_PAIRS: usize = 3;

/// Where a validation error names fields.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum FieldNaming {
    /// In a place of their own.
    OwnPlace,
    /// In prose.
    Prose,
    /// Nowhere.
    Nowhere,
}

/// A request that was refused, and the fields that the response named.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
struct Attempt {
    address: Address,
    named: BTreeSet<String>,
    /// What each member of the body had, as far as it can be told from others; of secrets, nothing.
    members: BTreeMap<String, StableHash>,
}

/// What validation errors show of how fields are named. It adds up in any order.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct FieldNamingFacts {
    /// Where fields are named.
    #[serde(with = "pairs")]
    places: BTreeMap<FieldNaming, Occurrences>,
    /// Responses that name several fields.
    several: Occurrences,
    /// Refused requests, by a hash of their method and path, which may hold a secret.
    #[serde(with = "pairs")]
    attempts: BTreeMap<StableHash, BTreeSet<Attempt>>,
    /// Were there more of them than are compared?
    is_bounded: bool,
}

/// A request in which a field was fixed that an earlier response had named, and which was refused for another that had
/// been the same before.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct NamedLater {
    /// The response that did not name the other field.
    pub before: Address,
    /// The one that did.
    pub after: Address,
    /// The field.
    pub field: String,
}

/// How fields are named, all in all.
#[derive(Debug, Clone, Default)]
pub struct FieldNamingSummary {
    /// Where fields are named.
    pub places: BTreeMap<FieldNaming, Occurrences>,
    /// Responses that name several fields.
    pub several: Occurrences,
    /// Fields that were only named once another was fixed; a few of them.
    pub later: Vec<NamedLater>,
    /// Were only some of the refused requests compared with each other?
    pub is_bounded: bool,
}

impl FieldNamingFacts {
    /// Adds what one error shows, if it is about what was sent: its words, and the entries read out of it.
    pub(super) fn note(
        &mut self,
        classified: &Classified<'_>,
        words: &str,
        entries: &[ReportedField],
    ) {
        if !matches!(classified.status(), Some(400 | 422)) {
            return;
        }
        let exchange = classified.exchange;
        let RequestBody::Present(content) = &exchange.request.body else { return };
        let sent = content.decode().ok().map(|bytes| Json::read(&bytes));
        let Some(Json::Value(Value::Object(sent))) = sent else { return };
        let seen = Occurrences::at(exchange.address);
        let mut named: BTreeSet<String> = entries.iter().filter_map(first_field).collect();
        let mut place = FieldNaming::OwnPlace;
        if named.is_empty()
            && let Some(body) = classified.body().json()
        {
            listed_names(body, &sent, 0, &mut named);
        }
        if named.is_empty() {
            // In prose, a name may be that of a member further inside.
            let mut inner = BTreeSet::new();
            sent.values().for_each(|value| inner_names(value, 0, &mut inner));
            let is_told = |name: &&String| mentions(words, name) && !inner.contains(*name);
            named.extend(sent.keys().filter(is_told).cloned());
            place = FieldNaming::Prose;
        }
        if named.is_empty() {
            // A 400 that names no field may be about something else.
            if classified.status() != Some(422) {
                return;
            }
            place = FieldNaming::Nowhere;
        }
        self.places.entry(place).or_default().add(&seen);
        if named.len() > 1 {
            self.several.add(&seen);
        }
        if named.is_empty() {
            return;
        }
        if sent.len() > MOST_MEMBERS {
            self.is_bounded = true;
            return;
        }
        let members = sent.iter().filter(|(name, _)| !is_secret_name(name));
        let members = members.map(|(name, value)| (name.clone(), digest(value))).collect();
        let path = exchange.request.url.split(['?', '#']).next().unwrap_or_default();
        let target = StableHash::of([exchange.request.method.as_ref(), path]);
        let attempt = Attempt { address: exchange.address, named, members };
        self.attempts.entry(target).or_default().insert(attempt);
        self.shorten();
    }

    /// Adds what another worker gathered.
    pub(super) fn add(&mut self, other: Self) {
        for (place, seen) in other.places {
            self.places.entry(place).or_default().add(&seen);
        }
        self.several.add(&other.several);
        self.is_bounded |= other.is_bounded;
        for (target, attempts) in other.attempts {
            self.attempts.entry(target).or_default().extend(attempts);
        }
        self.shorten();
    }

    /// Gives recordings the places that they have in the whole.
    pub(super) fn renumber(&mut self, places: &RecordingPlaces) -> Option<()> {
        self.places.values_mut().try_for_each(|seen| seen.renumber(places))?;
        self.several.renumber(places)?;
        for attempts in self.attempts.values_mut() {
            let all = std::mem::take(attempts).into_iter().map(|attempt| {
                let address = renumbered(attempt.address, places)?;
                Some(Attempt { address, ..attempt })
            });
            *attempts = all.collect::<Option<_>>()?;
        }
        Some(())
    }

    /// Which are kept does not depend on the order in which they came.
    fn shorten(&mut self) {
        while self.attempts.len() > MOST_TARGETS {
            self.attempts.pop_last();
            self.is_bounded = true;
        }
        for attempts in self.attempts.values_mut() {
            while attempts.len() > MOST_ATTEMPTS {
                attempts.pop_last();
                self.is_bounded = true;
            }
        }
    }

    /// What it comes to.
    pub(super) fn summary(self) -> FieldNamingSummary {
        let mut later = BTreeSet::new();
        for attempts in self.attempts.values() {
            for before in attempts {
                for after in attempts.iter().filter(|after| after.address != before.address) {
                    later.extend(named_later(before, after));
                }
            }
        }
        let later = later.into_iter().take(MOST_PAIRS).collect();
        let Self { places, several, is_bounded, .. } = self;
        FieldNamingSummary { places, several, later, is_bounded }
    }
}

/// The field that only the second response names, though it was the same in both requests, and what the first one named
/// was fixed.
fn named_later(before: &Attempt, after: &Attempt) -> Option<NamedLater> {
    // Whether a secret is still the same is not known.
    let is_known = |field: &str| !is_secret_name(field);
    let is_same = |field: &&String| {
        is_known(field) && before.members.get(*field) == after.members.get(*field)
    };
    let is_fixed = before
        .named
        .iter()
        .all(|field| is_known(field) && !is_same(&field) && !after.named.contains(field));
    let field = after.named.iter().filter(is_same).find(|field| !before.named.contains(*field));
    let (before, after) = (before.address, after.address);
    field.filter(|_| is_fixed).map(|field| NamedLater { before, after, field: field.clone() })
}

/// The member of the body that an entry names, or in which what it names is.
fn first_field(entry: &ReportedField) -> Option<String> {
    entry.location.as_ref()?;
    entry.paths().last()?.first().cloned()
}

/// Adds the members of the request that a list of names has: `"keys": ["name", "crew.0.name"]`.
fn listed_names(
    value: &Value,
    sent: &serde_json::Map<String, Value>,
    depth: usize,
    named: &mut BTreeSet<String>,
) {
    if depth > MOST_NESTED {
        return;
    }
    match value {
        Value::Array(items) => {
            let first = |item: &Value| location_steps(item.as_str()?).into_iter().next();
            let names: Vec<String> = items.iter().filter_map(first).collect();
            let is_list = !names.is_empty() && names.len() == items.len();
            if is_list && names.iter().any(|name| sent.contains_key(name)) {
                named.extend(names);
            } else {
                items.iter().for_each(|item| listed_names(item, sent, depth + 1, named));
            }
        }
        Value::Object(members) => {
            members.values().for_each(|member| listed_names(member, sent, depth + 1, named));
        }
        _ => {}
    }
}

/// Values are nested no deeper in what people send.
const MOST_NESTED: usize = 16;

/// Adds the names of all members inside a value.
fn inner_names(value: &Value, depth: usize, names: &mut BTreeSet<String>) {
    if depth > MOST_NESTED {
        return;
    }
    match value {
        Value::Object(members) => {
            for (name, member) in members {
                names.insert(name.clone());
                inner_names(member, depth + 1, names);
            }
        }
        Value::Array(items) => items.iter().for_each(|item| inner_names(item, depth + 1, names)),
        _ => {}
    }
}

/// A value in a few bytes: nothing more is compared than whether two are the same.
fn digest(value: &Value) -> StableHash {
    StableHash::of([value.to_string()])
}
