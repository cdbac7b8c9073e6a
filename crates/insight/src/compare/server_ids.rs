//! Ids that a service made up, followed from the response that gave them.
//!
//! Two runs of the same requests get different ids. Each is known by where it came from: the response of
//! the n-th request to an endpoint, and the place in it. So `r-7f3a21` of one run and `r-99b0c4` of the
//! other are the same: the `/id` that the first `POST /reservations` gave.

use std::collections::HashMap;

use super::plan::RequestTarget;

/// So many ids are followed.
const MOST_MADE: usize = 200_000;

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

    /// Takes in the ids of a success, each with where it stands. What the request sent is not the service's.
    pub(super) fn learn(
        &mut self,
        method: &str,
        asking: &RequestTarget,
        location: Option<&str>,
        ids: Vec<(String, String)>,
    ) {
        let giver = format!("{method} {}", asking.template);
        let count = self.counts.entry(giver.clone()).or_default();
        *count += 1;
        let giver = format!("{giver} {count}");
        if let Some(location) = location {
            let path = location.split(['?', '#']).next().unwrap_or_default();
            let last = path.trim_end_matches('/').rsplit('/').next().unwrap_or_default();
            self.note(asking, last, || format!("{giver} Location"));
        }
        for (pointer, id) in ids {
            self.note(asking, &id, || format!("{giver} {pointer}"));
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

#[cfg(test)]
mod tests {
    use super::super::sent_values::ComparisonSurvey;
    use super::super::success_reader::read;
    use super::*;
    use faithful_clerk_contract::ErrorContract;
    use faithful_clerk_recording::{Source, Traversal};

    /// What the service made up and a request sent is an id; what the giving request sent, words, dates and what nobody sent
    /// are not.
    #[test]
    fn only_ids_that_the_service_made_up_are_followed() {
        let target = RequestTarget {
            template: "/vessels/{id}/stays".to_owned(),
            segments: ["vessels", "OB1234", "stays"].map(str::to_owned).to_vec(),
            query: vec![("berth".to_owned(), "A-3".to_owned())],
        };
        let url = "https://harbour.example/stays/r-7f3a21?n=4711&v=OB1234&b=A-3&s=booked&d=2027-04-05&l=s-1";
        let har = format!(
            r#"{{"log":{{"entries":[{{"request":{{"method":"GET","url":"{url}","headers":[]}},"response":{{"status":200,"headers":[],"content":{{}}}}}}]}}}}"#
        );
        let contract = ErrorContract::default();
        let mut survey = ComparisonSurvey::new(&contract);
        Traversal::default().visit_in_order(Source::of(har.as_bytes()), 0, &mut survey);
        let body = r#"{"id": "r-7f3a21", "vessel": "OB1234", "berth": "A-3", "state": "booked",
            "arrives": "2027-04-05", "other": "r-000000", "number": 4711}"#;
        let content = read(body.as_bytes(), &survey.sent).unwrap();
        let mut ids = ServerIds::default();
        ids.learn("POST", &target, Some("/v1/stays/s-1?x=2"), content.ids);
        for (value, source) in [
            ("r-7f3a21", Some("POST /vessels/{id}/stays 1 /id")),
            ("4711", Some("POST /vessels/{id}/stays 1 /number")),
            ("s-1", Some("POST /vessels/{id}/stays 1 Location")),
            ("OB1234", None),
            ("A-3", None),
            ("booked", None),
            ("2027-04-05", None),
            ("r-000000", None),
        ] {
            assert_eq!(ids.source(value), source, "{value}");
        }
    }
}
