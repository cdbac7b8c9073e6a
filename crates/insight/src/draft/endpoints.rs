//! Endpoints, made of what was seen at each method of each path.

use std::collections::BTreeMap;

use super::faults::ObservedFaults;
use crate::survey::{EndpointStatus, Occurrences, Survey, SurveyedEndpoint, common_prefix};
use faithful_clerk_contract::Router;
use faithful_clerk_contract::quoted;
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_model::headers::is_token;
use faithful_clerk_model::media;

/// What comes off the URLs of a service before its templates begin.
#[derive(Debug, Default)]
pub(super) struct ServiceBase {
    origin: String,
    prefix: String,
    several: bool,
    /// Other services in the same recordings.
    pub(super) others: Vec<String>,
}

impl ServiceBase {
    /// The service that most requests went to, and what its paths have in common.
    pub(super) fn of(survey: &Survey) -> Self {
        let count =
            |(origin, count): &(&String, &u64)| (**count, std::cmp::Reverse((*origin).clone()));
        let origin = survey.origins.iter().max_by_key(count);
        let origin = origin.map(|(origin, _)| origin.clone()).unwrap_or_default();
        let others = survey.origins.keys().filter(|other| **other != origin).cloned();
        let several = survey.origins.len() > 1;
        let mut base = Self { others: others.collect(), origin, several, prefix: String::new() };
        let locations: Vec<&SurveyedEndpoint> = survey
            .endpoints
            .iter()
            .filter(|location| base.has(location) && location.status != EndpointStatus::Nowhere)
            .collect();
        base.prefix = common_prefix(&locations);
        base
    }

    /// Is the place this service's?
    pub(super) fn has(&self, location: &SurveyedEndpoint) -> bool {
        !self.several || location.origin == self.origin || location.origin.is_empty()
    }

    pub(super) fn host(&self) -> &str {
        self.origin.split_once("://").map_or("", |(_, host)| host)
    }

    pub(super) fn server(&self) -> Option<String> {
        let is_url = self.origin.contains("://");
        is_url.then(|| format!("{}{}", self.origin, self.prefix))
    }

    /// A template without what is in the server's URL.
    pub(super) fn below(&self, template: &str) -> String {
        match template.strip_prefix(&self.prefix) {
            Some("") => "/".to_owned(),
            Some(below) => below.to_owned(),
            None => template.to_owned(),
        }
    }
}

/// A drafted endpoint.
#[derive(Debug)]
pub(super) struct DraftedEndpoint {
    pub(super) evidence: String,
    pub(super) head: String,
    pub(super) lines: Vec<String>,
    pub(super) decide: Vec<String>,
}

/// The section of one endpoint; `None` where its method or path can't be one's.
pub(super) fn endpoint(
    location: &SurveyedEndpoint,
    template: &str,
    faults: &ObservedFaults,
    names: RecordingNames<'_>,
    has_credentials: bool,
) -> Option<DraftedEndpoint> {
    let capitals = location.method.to_ascii_uppercase();
    if !is_token(&location.method)
        || location.method != capitals
        || Router::segments(template).is_err()
    {
        return None;
    }
    let facts = &location.facts;
    let values = match location.values.as_slice() {
        [] => String::new(),
        values => format!("; the last parameter was {} or the like", values.join(", ")),
    };
    let mut drawn = DraftedEndpoint {
        evidence: match facts.count {
            1 => format!("1 exchange{values}"),
            count => format!("{count} exchanges{values}"),
        },
        head: format!("[endpoint.{}]", quoted(&format!("{} {template}", location.method))),
        lines: Vec::new(),
        decide: Vec::new(),
    };
    drawn.success(location, names);
    let mut named: Vec<String> = facts
        .rows
        .keys()
        .filter_map(|row| faults.fault(location, row))
        .filter(|fault| !fault.is_everywhere())
        .map(|fault| quoted(&fault.name))
        .collect();
    named.sort();
    named.dedup();
    if !named.is_empty() {
        drawn.lines.push(format!("faults  = [{}]", named.join(", ")));
    }
    // A recorder may have left all credentials out, and then nobody can say who needs some.
    if has_credentials {
        drawn.needs(location, names);
    }
    drawn.body(location);
    Some(drawn)
}

impl DraftedEndpoint {
    fn success(&mut self, location: &SurveyedEndpoint, names: RecordingNames<'_>) {
        let mut statuses: BTreeMap<u16, Occurrences> = BTreeMap::new();
        let mut accepted = Occurrences::default();
        for (row, kind) in &location.facts.rows {
            let Some(status) = row.status.filter(|status| (200..400).contains(status)) else {
                continue;
            };
            // What is malformed should have been refused, whatever the service does.
            if kind.causes.malformed == kind.seen.count && kind.causes.malformed > 0 {
                accepted.add(&kind.seen);
            } else {
                statuses.entry(status).or_default().add(&kind.seen);
            }
        }
        let list: Vec<String> = statuses.keys().map(u16::to_string).collect();
        if !list.is_empty() {
            self.lines.push(format!("success = [{}]", list.join(", ")));
        } else {
            self.decide.push("no success was recorded".to_owned());
        }
        if statuses.keys().filter(|status| (200..300).contains(*status)).count() > 1 {
            let seen: Vec<String> = statuses
                .iter()
                .map(|(status, seen)| format!("{status} ({})", names.list(seen.count, &seen.first)))
                .collect();
            self.decide.push(format!("are all of these meant? {}", seen.join(", ")));
        }
        if accepted.count > 0 {
            let at = names.list(accepted.count, &accepted.first);
            self.decide.push(format!(
                "a malformed body was accepted ({at}); that is taken to be a mistake"
            ));
        }
    }

    fn needs(&mut self, location: &SurveyedEndpoint, names: RecordingNames<'_>) {
        let facts = &location.facts;
        let (mut refused, mut any_refused) = (Occurrences::default(), false);
        let mut served = Occurrences::default();
        for (row, kind) in &facts.rows {
            any_refused |= row.status == Some(401);
            // Of a kind of response that came with and without credentials, nobody knows which is which.
            if kind.causes.no_credentials < kind.seen.count {
                continue;
            }
            match row.status {
                Some(401) => refused.add(&kind.seen),
                Some(200..300) => served.add(&kind.seen),
                _ => {}
            }
        }
        let successes = &facts.successes;
        let without = successes.count - successes.with_credentials;
        // With credentials it was served, or nobody was: then 401 to anybody says that they are required.
        if refused.count > 0 || (any_refused && without == 0) {
            self.lines.push("auth    = \"required\"".to_owned());
            if without > 0 {
                self.decide.push(format!(
                    "without credentials it was refused ({}) and served ({})",
                    names.list(refused.count, &refused.first),
                    names.list(served.count, &served.first),
                ));
            }
        } else if without > 0 && successes.with_credentials > 0 && location.method != "GET" {
            self.lines.push("auth    = \"required\"".to_owned());
            let at = match served.count {
                0 => format!("{without} of {}", successes.count),
                count => names.list(count, &served.first),
            };
            self.decide.push(format!(
                "most requests carried credentials, and some were served without ({at})"
            ));
        } else if without > 0 {
            self.lines.push("auth    = \"none\"".to_owned());
        }
    }

    fn body(&mut self, location: &SurveyedEndpoint) {
        let successes = &location.facts.successes;
        let refused = location.facts.rows.keys().any(|row| row.status == Some(415));
        let mut media: Vec<&str> = successes.media.keys().map(String::as_str).collect();
        if refused {
            media.retain(|media| media::is_json(media));
            if media.is_empty() {
                media.push("application/json");
            }
        }
        let has_json = media.iter().any(|media| media::is_json(media));
        if has_json && media.contains(&"text/plain") {
            media.retain(|media| *media != "text/plain");
            self.decide
                .push("text/plain was accepted too; that is taken to be a mistake".to_owned());
        }
        if refused || media.iter().any(|media| media::is_json(media)) {
            let media: Vec<String> = media.into_iter().map(quoted).collect();
            self.lines.push(format!("accepts = [{}]", media.join(", ")));
        }
    }
}
