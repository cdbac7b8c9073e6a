//! Is what was asked for an endpoint? A method may not be offered, and a path may lead nowhere.

use std::collections::{BTreeMap, BTreeSet};

use super::conclude::SurveyedEndpoint;
use super::facts::{EndpointFacts, ResponseSignature};
use super::sample::PathSample;

/// What a place is, as far as the responses show.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum EndpointStatus {
    /// An endpoint.
    Endpoint,
    /// A method that the path never took: only 405 and 501 came, or 404 where other methods found what was asked for.
    NotOffered,
    /// A path that seems to lead nowhere: only 404 came.
    Nowhere,
}

impl EndpointStatus {
    /// What a method is by its own responses.
    pub(super) fn of(facts: &EndpointFacts) -> Self {
        match facts.only_answers(&[405, 501]) {
            true => Self::NotOffered,
            false => Self::Endpoint,
        }
    }
}

/// Sorts out what is no endpoint among the methods of all paths.
pub(super) fn sort_out(locations: &mut [SurveyedEndpoint]) {
    lead_nowhere(locations);
    recall(locations);
    not_offered(locations);
}

/// Paths of which no method ever led anywhere.
fn lead_nowhere(locations: &mut [SurveyedEndpoint]) {
    let path = |one: &SurveyedEndpoint| (one.origin.clone(), one.template.clone());
    let leads: BTreeSet<_> = locations
        .iter()
        .filter(|location| !location.facts.only_answers(&[404, 405, 501]))
        .map(path)
        .collect();
    for location in locations {
        if location.status == EndpointStatus::Endpoint && !leads.contains(&path(location)) {
            location.status = EndpointStatus::Nowhere;
        }
    }
}

/// The type and the code of an error.
type ErrorMark = (Option<String>, Option<String>);

fn mark(row: &ResponseSignature) -> Option<ErrorMark> {
    let code = row.stable.code.as_ref().map(|(code, _)| code.clone());
    let type_uri = row.stable.type_uri.clone().filter(|uri| uri != "about:blank");
    let mark = (type_uri, code);
    (mark != (None, None)).then_some(mark)
}

/// A path that only ever responded 404 is one that exists if its error says, by type or code, what
/// endpoints say of a record that is not there, and say of nothing else.
fn recall(locations: &mut [SurveyedEndpoint]) {
    let rows = |location: &SurveyedEndpoint, is_missing: bool| -> BTreeSet<ErrorMark> {
        let rows = location.facts.rows.keys();
        rows.filter(|row| (row.status == Some(404)) == is_missing).filter_map(mark).collect()
    };
    let said_of_others: BTreeSet<_> = locations.iter().flat_map(|one| rows(one, false)).collect();
    let known: BTreeSet<_> = locations
        .iter()
        .filter(|location| location.status == EndpointStatus::Endpoint)
        .flat_map(|location| rows(location, true))
        .filter(|mark| !said_of_others.contains(mark))
        .collect();
    for location in locations {
        let is_nowhere = location.status == EndpointStatus::Nowhere;
        if is_nowhere && rows(location, true).iter().any(|mark| known.contains(mark)) {
            location.status = EndpointStatus::Endpoint;
        }
    }
}

/// Methods that only ever responded 404, at paths where other methods found something: the method is what was not found.
/// A method with a body may miss what its body names, so it has to respond as a path does that leads nowhere.
fn not_offered(locations: &mut [SurveyedEndpoint]) {
    let nowhere: BTreeSet<ResponseSignature> = locations
        .iter()
        .filter(|location| location.status == EndpointStatus::Nowhere)
        .flat_map(|location| location.facts.rows.keys().cloned())
        .collect();
    // By path: where something was found, and where something was deleted.
    let mut found: BTreeMap<(String, String), [PathSample; 2]> = BTreeMap::new();
    for location in locations.iter() {
        let path = (location.origin.clone(), location.template.clone());
        let was_deleted = location.method == "DELETE";
        found.entry(path).or_default()[usize::from(was_deleted)]
            .add(&location.facts.successes.paths);
    }
    for location in locations {
        let path = (location.origin.clone(), location.template.clone());
        let Some([found, deleted]) = found.get(&path) else { continue };
        let facts = &location.facts;
        let has_body = matches!(location.method.as_str(), "POST" | "PUT" | "PATCH");
        let is_not_offered = location.status == EndpointStatus::Endpoint
            && facts.only_answers(&[404])
            && facts.missing.is_within(found)
            && !facts.missing.meets(deleted)
            && (!has_body || facts.rows.keys().all(|row| nowhere.contains(row)));
        if is_not_offered {
            location.status = EndpointStatus::NotOffered;
        }
    }
}
