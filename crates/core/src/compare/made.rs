//! Ids that a service made up, followed from the answer that gave them.
//!
//! Two runs of the same requests get different ids. Each is known by where it came from: the answer of
//! the n-th request to an endpoint, and the place in it. So `r-7f3a21` of one run and `r-99b0c4` of the
//! other are the same: the `/id` that the first `POST /reservations` gave.

use std::collections::HashMap;

use serde_json::Value;

use super::plan::Asking;
use crate::json::scalar_text;
use crate::pointer::{join, join_index};
use crate::survey::Form;

/// So many ids are followed.
const MOST_MADE: usize = 200_000;

/// Of one answer, so many.
const MOST_OF_ONE: usize = 200;

/// Ids stand no deeper than this.
const MOST_NESTED: usize = 4;

/// The ids that answers gave so far, each with where it came from.
#[derive(Debug, Default)]
pub(super) struct Made {
    ids: HashMap<String, String>,
    counts: HashMap<String, u64>,
}

impl Made {
    /// Where an id came from, if an answer gave it.
    pub(super) fn source(&self, value: &str) -> Option<&str> {
        self.ids.get(value).map(String::as_str)
    }

    /// Takes the ids out of a success. What the request sent is not the service's.
    pub(super) fn learn(
        &mut self,
        method: &str,
        asking: &Asking,
        location: Option<&str>,
        body: Option<&Value>,
    ) {
        let giver = format!("{method} {}", asking.template);
        let count = self.counts.entry(giver.clone()).or_default();
        *count += 1;
        let giver = format!("{giver} {count}");
        let mut found = Vec::new();
        if let Some(location) = location {
            let path = location.split(['?', '#']).next().unwrap_or_default();
            let last = path.trim_end_matches('/').rsplit('/').next().unwrap_or_default();
            found.push((String::from("Location"), last.to_owned()));
        }
        if let Some(body) = body {
            gather(body, "", 0, &mut found);
        }
        for (place, value) in found {
            let is_sent = asking.segments.contains(&value)
                || asking.query.iter().any(|(_, sent)| *sent == value);
            if !is_sent && self.ids.len() < MOST_MADE {
                self.ids.entry(value).or_insert_with(|| format!("{giver} {place}"));
            }
        }
    }
}

/// Values that can be ids, with their places.
fn gather(value: &Value, place: &str, depth: usize, found: &mut Vec<(String, String)>) {
    if depth > MOST_NESTED || found.len() >= MOST_OF_ONE {
        return;
    }
    match value {
        Value::Object(members) => members
            .iter()
            .for_each(|(name, member)| gather(member, &join(place, name), depth + 1, found)),
        Value::Array(items) => items
            .iter()
            .enumerate()
            .for_each(|(at, item)| gather(item, &join_index(place, at), depth + 1, found)),
        value => {
            let is_id = |text: &String| {
                text.len() <= 64
                    && !matches!(Form::of(text), Form::Word | Form::Date | Form::DateTime)
            };
            found.extend(scalar_text(value).filter(is_id).map(|text| (place.to_owned(), text)));
        }
    }
}
