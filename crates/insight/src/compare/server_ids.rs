//! Ids that a service made up, followed from the response that gave them.
//!
//! Two runs of the same requests get different ids. Each is known by where it came from: the response of
//! the n-th request to an endpoint, and the place in it. So `r-7f3a21` of one run and `r-99b0c4` of the
//! other are the same: the `/id` that the first `POST /reservations` gave.

use std::borrow::Cow;
use std::collections::HashMap;

use serde_json::Value;

use super::plan::RequestTarget;
use crate::survey::SegmentForm;
use faithful_clerk_model::json::pointer::JsonPath;

/// So many ids are followed.
const MOST_MADE: usize = 200_000;

/// Of one response, so many.
const MOST_OF_ONE: usize = 200;

/// Ids stand no deeper than this.
const MOST_NESTED: usize = 4;

/// The ids that responses gave so far, each with where it came from.
#[derive(Debug, Default)]
pub(super) struct ServerIds {
    ids: HashMap<String, String>,
    counts: HashMap<String, u64>,
}

impl ServerIds {
    /// Where an id came from, if a response gave it.
    pub(super) fn source(&self, value: &str) -> Option<&str> {
        self.ids.get(value).map(String::as_str)
    }

    /// Takes the ids out of a success. What the request sent is not the service's.
    pub(super) fn learn(
        &mut self,
        method: &str,
        asking: &RequestTarget,
        location: Option<&str>,
        body: Option<&Value>,
    ) {
        let giver = format!("{method} {}", asking.template);
        let count = self.counts.entry(giver.clone()).or_default();
        *count += 1;
        let giver = format!("{giver} {count}");
        let mut left = MOST_OF_ONE;
        if let Some(location) = location {
            let path = location.split(['?', '#']).next().unwrap_or_default();
            let last = path.trim_end_matches('/').rsplit('/').next().unwrap_or_default();
            self.note(asking, last, || format!("{giver} Location"));
            left -= 1;
        }
        if let Some(body) = body {
            each_id(body, &JsonPath::Top, 0, &mut left, &mut |way, id| {
                self.note(asking, id, || format!("{giver} {}", way.pointer()));
            });
        }
    }

    fn note(&mut self, asking: &RequestTarget, id: &str, source: impl FnOnce() -> String) {
        let is_sent = || {
            asking.segments.iter().any(|sent| sent == id)
                || asking.query.iter().any(|(_, sent)| sent == id)
        };
        if self.ids.len() < MOST_MADE && !self.ids.contains_key(id) && !is_sent() {
            self.ids.insert(id.to_owned(), source());
        }
    }
}

/// Values that can be ids, and the way to each; so many as are left.
fn each_id(
    value: &Value,
    way: &JsonPath<'_>,
    depth: usize,
    left: &mut usize,
    found: &mut impl FnMut(&JsonPath<'_>, &str),
) {
    if depth > MOST_NESTED || *left == 0 {
        return;
    }
    let text = match value {
        Value::Object(members) => {
            for (name, member) in members {
                each_id(member, &JsonPath::Member(way, name), depth + 1, left, found);
            }
            return;
        }
        Value::Array(items) => {
            for (at, item) in items.iter().enumerate() {
                each_id(item, &JsonPath::Item(way, at), depth + 1, left, found);
            }
            return;
        }
        Value::String(text) => Cow::Borrowed(text.as_str()),
        Value::Number(number) => Cow::Owned(number.to_string()),
        Value::Null | Value::Bool(_) => return,
    };
    let is_id = text.len() <= 64
        && SegmentForm::may_be_id(&text)
        && !matches!(SegmentForm::of(&text), SegmentForm::Date | SegmentForm::DateTime);
    if is_id {
        *left -= 1;
        found(way, &text);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    /// What the service made up is an id; what the request sent, words and dates are not.
    #[test]
    fn only_ids_that_the_service_made_up_are_followed() {
        let target = RequestTarget {
            template: "/vessels/{id}/stays".to_owned(),
            segments: ["vessels", "OB1234", "stays"].map(str::to_owned).to_vec(),
            query: vec![("berth".to_owned(), "A-3".to_owned())],
        };
        let body = json!({
            "id": "r-7f3a21", "vessel": "OB1234", "berth": "A-3", "state": "booked",
            "arrives": "2027-04-05", "since": "2027-04-05T09:00:00Z", "number": 4711,
        });
        let mut ids = ServerIds::default();
        ids.learn("POST", &target, Some("/v1/stays/s-1?x=2"), Some(&body));
        for (value, source) in [
            ("r-7f3a21", Some("POST /vessels/{id}/stays 1 /id")),
            ("4711", Some("POST /vessels/{id}/stays 1 /number")),
            ("s-1", Some("POST /vessels/{id}/stays 1 Location")),
            ("OB1234", None),
            ("A-3", None),
            ("booked", None),
            ("2027-04-05", None),
            ("2027-04-05T09:00:00Z", None),
        ] {
            assert_eq!(ids.source(value), source, "{value}");
        }
    }
}
