//! What refusals say about the members of a body: which of them had to be there, and which had the wrong type.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::pairs;
use faithful_clerk_check::classify::{Classified, LocationForm, ReportedField};
use faithful_clerk_contract::LocationSpelling;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::{Json, JsonType};
use faithful_clerk_model::secret::mask::masked_example;

/// A place in a body, step by step; `*` stands for every item of an array.
pub type MemberPath = Vec<String>;

/// Of one endpoint so many places are remembered.
const MOST_PLACES: usize = 256;

/// Of one endpoint so many codes of violations.
const MOST_CODES: usize = 64;

/// Nobody calls a kind of violation by more than this.
const LONGEST_CODE: usize = 64;

/// Deeper than this nobody drafts rules.
const MOST_NESTED: usize = 4;

/// Of a list, so many items are looked at.
const MOST_ITEMS: usize = 16;

/// Requests with a JSON object that were refused by naming what is wrong in it. It adds up in any order.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct RefusedBodies {
    /// How many there were.
    pub count: u64,
    /// Members that were named and not there.
    pub missing: BTreeSet<MemberPath>,
    /// The JSON types of members that were named.
    #[serde(with = "pairs")]
    pub named: BTreeMap<MemberPath, BTreeSet<Cow<'static, str>>>,
    /// The JSON types of members that were not named while others were.
    #[serde(with = "pairs")]
    pub unnamed: BTreeMap<MemberPath, BTreeSet<Cow<'static, str>>>,
    /// How the locations are spelled.
    pub spellings: ObservedSpellings,
    /// The codes of violations.
    pub codes: BTreeSet<String>,
    /// How many violations have no code.
    pub without_code: u64,
}

/// How locations in bodies are spelled: of how many, and how many of them each spelling gives to the letter.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ObservedSpellings {
    /// Locations of more than one step, which spellings write in different ways.
    pub count: u64,
    /// By the contract's word for the spelling.
    pub exact: BTreeMap<Cow<'static, str>, u64>,
    /// Those that are JSON Pointers as URI fragments.
    pub fragments: u64,
    /// Locations of any length.
    pub located: u64,
    /// Those of them that are JSON Pointers into the body, also as URI fragments.
    pub pointers: u64,
}

impl ObservedSpellings {
    fn note(&mut self, entry: &ReportedField, path: &[String]) {
        let Some(text) = entry.location.as_deref() else { return };
        let pointer = LocationSpelling::Pointers.of(path);
        self.located += 1;
        self.pointers += u64::from(text.strip_prefix('#').unwrap_or(text) == pointer);
        if path.len() < 2 {
            return;
        }
        self.count += 1;
        let is_array = entry.form == LocationForm::TokenArray;
        for (word, spelling) in LocationSpelling::ALL {
            let spelled = spelling.of(path);
            // An array names the body to the letter if nothing stands before the steps in it.
            let is_same = match spelling {
                LocationSpelling::Tokens => is_array && entry.steps == path,
                _ => !is_array && spelled == text,
            };
            *self.exact.entry(word.into()).or_default() += u64::from(is_same);
        }
        self.fragments += u64::from(text.strip_prefix('#') == Some(&pointer));
    }

    fn add(&mut self, other: Self) {
        self.count += other.count;
        self.fragments += other.fragments;
        self.located += other.located;
        self.pointers += other.pointers;
        for (word, count) in other.exact {
            *self.exact.entry(word).or_default() += count;
        }
    }
}

impl RefusedBodies {
    /// What one refusal says, by the entries read out of it.
    pub(super) fn of(classified: &Classified<'_>, entries: &[ReportedField]) -> Self {
        let mut refused = Self::default();
        let located: Vec<&ReportedField> =
            entries.iter().filter(|entry| entry.location.is_some()).collect();
        if located.is_empty() || !matches!(classified.status(), Some(400 | 422)) {
            return refused;
        }
        let RequestBody::Present(content) = &classified.exchange.request.body else {
            return refused;
        };
        let sent = content.decode().ok().map(|bytes| Json::read(&bytes));
        let Some(Json::Value(sent @ Value::Object(_))) = sent else { return refused };
        let mut named: BTreeSet<MemberPath> = BTreeSet::new();
        for entry in located {
            let paths = || entry.paths().filter(|path| !path.is_empty());
            let found = paths().find_map(|path| Some((path, at(&sent, path)?)));
            if let Some(path) = found.map(|(path, _)| path).or_else(|| paths().next()) {
                refused.spellings.note(entry, path);
            }
            match &entry.code {
                Some(code) if code.len() <= LONGEST_CODE => {
                    refused.codes.insert(masked_example(code).into_owned());
                }
                _ => refused.without_code += 1,
            }
            if let Some((path, value)) = found {
                let path = general(&sent, path);
                let types = refused.named.entry(path.clone()).or_default();
                types.insert(kind(value).into());
                named.insert(path);
            } else if let Some(path) = paths().find(|path| is_missing(&sent, path)) {
                refused.missing.insert(general(&sent, path));
            }
        }
        if named.is_empty() && refused.missing.is_empty() {
            return Self::default();
        }
        // What is keyed by member has no spelling of its own.
        if entries.iter().any(|entry| entry.pointer == entry.entry) {
            refused.spellings = ObservedSpellings::default();
        }
        refused.count = 1;
        refused.note_unnamed(&sent, &mut Vec::new(), &named);
        refused.shorten();
        refused
    }

    fn note_unnamed(&mut self, value: &Value, path: &mut MemberPath, named: &BTreeSet<MemberPath>) {
        if path.len() > MOST_NESTED || named.contains(path) {
            return;
        }
        if !path.is_empty() {
            self.unnamed.entry(path.clone()).or_default().insert(kind(value).into());
        }
        match value {
            Value::Object(members) => {
                for (name, member) in members {
                    path.push(name.clone());
                    self.note_unnamed(member, path, named);
                    path.pop();
                }
            }
            Value::Array(items) => {
                path.push("*".to_owned());
                for item in items.iter().take(MOST_ITEMS) {
                    self.note_unnamed(item, path, named);
                }
                path.pop();
            }
            _ => {}
        }
    }

    /// Adds what others say.
    pub fn add(&mut self, other: Self) {
        self.count += other.count;
        self.without_code += other.without_code;
        self.spellings.add(other.spellings);
        self.codes.extend(other.codes);
        self.missing.extend(other.missing);
        for (mine, others) in [(&mut self.named, other.named), (&mut self.unnamed, other.unnamed)] {
            for (path, types) in others {
                mine.entry(path).or_default().extend(types);
            }
        }
        self.shorten();
    }

    fn shorten(&mut self) {
        while self.missing.len() > MOST_PLACES {
            self.missing.pop_last();
        }
        while self.codes.len() > MOST_CODES {
            self.codes.pop_last();
        }
        for places in [&mut self.named, &mut self.unnamed] {
            while places.len() > MOST_PLACES {
                places.pop_last();
            }
        }
    }
}

/// The JSON type of a value; a number without a fraction is an integer.
fn kind(value: &Value) -> &'static str {
    match value {
        Value::Number(number) if number.as_f64().is_some_and(|number| number.fract() == 0.0) => {
            "integer"
        }
        value => JsonType::of(value).name(),
    }
}

/// The value at a path.
fn at<'v>(value: &'v Value, path: &[String]) -> Option<&'v Value> {
    path.iter().try_fold(value, |value, step| match value {
        Value::Object(members) => members.get(step),
        Value::Array(items) => items.get(step.parse::<usize>().ok()?),
        _ => None,
    })
}

/// Is all of a path there but the last member?
fn is_missing(value: &Value, path: &[String]) -> bool {
    let Some((last, above)) = path.split_last() else { return false };
    let parent = at(value, above).and_then(Value::as_object);
    parent.is_some_and(|members| !members.contains_key(last))
}

/// The same path for every item of an array.
fn general(value: &Value, path: &[String]) -> MemberPath {
    let is_item = |depth: usize| at(value, path.get(..depth)?).map(Value::is_array);
    let step = |(depth, step): (usize, &String)| match is_item(depth) {
        Some(true) => "*".to_owned(),
        _ => step.clone(),
    };
    path.iter().enumerate().map(step).collect()
}
