//! Faults, made of what errors say of themselves.

use std::collections::{BTreeMap, BTreeSet};

use crate::survey::{
    EndpointStatus, ErrorCategory, GroupKey, ObservedBody, Occurrences, RequestFlaws,
    ResponseSignature, SurveyedEndpoint,
};
use faithful_clerk_contract::plain_name;
use faithful_clerk_model::json::folded;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_model::status;

/// By what errors are known to be one fault.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum FaultIdentity {
    /// A problem type, without the marks of a writing style: `berth_taken` is `berth-taken`.
    Type(String),
    /// An application's code.
    Code(String),
    /// A status alone, for requests of one sort, at endpoints or elsewhere.
    Status(u16, ErrorCategory, EndpointStatus),
}

/// A fault as it was seen.
#[derive(Debug, Default, Clone)]
pub(super) struct ObservedFault {
    pub(super) name: String,
    pub(super) seen: Occurrences,
    pub(super) statuses: BTreeMap<u16, Occurrences>,
    pub(super) titles: BTreeMap<String, Occurrences>,
    /// The languages that each title was seen in.
    pub(super) languages: BTreeMap<String, BTreeSet<String>>,
    pub(super) types: BTreeMap<String, Occurrences>,
    pub(super) codes: BTreeMap<String, Occurrences>,
    pub(super) groups: BTreeSet<GroupKey>,
    pub(super) causes: RequestFlaws,
    /// Where it was seen, by endpoint.
    pub(super) places: BTreeSet<String>,
    pub(super) standings: BTreeSet<EndpointStatus>,
    pub(super) methods: BTreeSet<String>,
    pub(super) is_validation: bool,
}

/// The identity of the errors of a row; `None` where it is no error of which anything is known.
fn identity(
    location: &SurveyedEndpoint,
    row: &ResponseSignature,
    generic: &GenericTypes,
) -> Option<FaultIdentity> {
    let status = row.status.filter(|status| *status >= 400)?;
    let kind = match &row.body {
        ObservedBody::Error((kind, _)) | ObservedBody::Many(kind) => *kind,
        _ if status == 422 => ErrorCategory::Validation,
        _ => ErrorCategory::Other,
    };
    let is_uri = |uri: &&String| uri.as_str() != NO_TYPE && !uri.is_empty() && !generic.has(uri);
    let typed = row.stable.type_uri.as_ref().filter(is_uri);
    if let Some(uri) = typed.filter(|uri| iri_string::types::UriReferenceStr::new(uri).is_ok()) {
        return Some(FaultIdentity::Type(folded(uri)));
    }
    if let Some((code, _)) = &row.stable.code {
        return Some(FaultIdentity::Code(code.clone()));
    }
    let standing = match (status, location.status) {
        // Where the method is what was not found, the service says what it says of a path that leads nowhere.
        (404, EndpointStatus::NotOffered) => EndpointStatus::Nowhere,
        (_, standing) => standing,
    };
    Some(FaultIdentity::Status(status, kind, standing))
}

/// Says that a problem has no type of its own (RFC 9457 section 4.2.1).
const NO_TYPE: &str = "about:blank";

/// Types that errors of so many statuses have say nothing of the fault.
const MOST_STATUSES: usize = 2;

/// The types that a framework gives every error, without the marks of a writing style.
#[derive(Debug, Default, Clone)]
pub(super) struct GenericTypes(BTreeMap<String, BTreeSet<u16>>);

impl GenericTypes {
    fn of(places: &[&SurveyedEndpoint]) -> Self {
        let mut statuses: BTreeMap<String, BTreeSet<u16>> = BTreeMap::new();
        for row in places.iter().flat_map(|location| location.facts.rows.keys()) {
            if let (Some(uri), Some(status)) = (&row.stable.type_uri, row.status) {
                statuses.entry(folded(uri)).or_default().insert(status);
            }
        }
        statuses.retain(|uri, statuses| statuses.len() > MOST_STATUSES && uri != &folded(NO_TYPE));
        Self(statuses)
    }

    /// Is it one of them?
    pub(super) fn has(&self, uri: &str) -> bool {
        self.0.contains_key(&folded(uri))
    }

    /// Is there any?
    pub(super) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

/// All faults that were seen.
#[derive(Debug, Default, Clone)]
pub(super) struct ObservedFaults {
    /// By identity, with names that differ.
    pub(super) all: BTreeMap<FaultIdentity, ObservedFault>,
    pub(super) generic: GenericTypes,
}

impl ObservedFaults {
    pub(super) fn of(places: &[&SurveyedEndpoint]) -> Self {
        let generic = GenericTypes::of(places);
        Self { all: faults(places, &generic), generic }
    }

    /// The languages that faults have titles in, the most frequent first; none where no fault has titles in several.
    pub(super) fn languages(&self) -> Vec<String> {
        let mut counts: BTreeMap<&str, u64> = BTreeMap::new();
        for fault in self.all.values() {
            for (language, title) in fault.titles_by_language().into_iter().flatten() {
                let seen = fault.titles.get(title).map_or(0, |seen| seen.count);
                *counts.entry(language).or_default() += seen;
            }
        }
        let mut languages: Vec<(&str, u64)> = counts.into_iter().collect();
        languages.sort_by_key(|(language, count)| (std::cmp::Reverse(*count), *language));
        languages.into_iter().map(|(language, _)| language.to_owned()).collect()
    }

    /// The fault of a kind of response. Errors without a body of their own are taken for the fault of their status.
    pub(super) fn fault(
        &self,
        location: &SurveyedEndpoint,
        row: &ResponseSignature,
    ) -> Option<&ObservedFault> {
        let identity = identity(location, row, &self.generic)?;
        let same_status = || self.all.values().find(|fault| Some(fault.status()) == row.status);
        self.all.get(&identity).or_else(same_status)
    }
}

fn faults(
    places: &[&SurveyedEndpoint],
    generic: &GenericTypes,
) -> BTreeMap<FaultIdentity, ObservedFault> {
    let mut faults: BTreeMap<FaultIdentity, ObservedFault> = BTreeMap::new();
    for location in places {
        for (row, kind) in &location.facts.rows {
            let Some(identity) = identity(location, row, generic) else { continue };
            let fault = faults.entry(identity).or_default();
            fault.seen.add(&kind.seen);
            let status = row.status.unwrap_or_default();
            fault.statuses.entry(status).or_default().add(&kind.seen);
            let said = &row.stable;
            for (sum, text) in [
                (&mut fault.titles, said.title.as_ref()),
                (&mut fault.types, said.type_uri.as_ref()),
                (&mut fault.codes, said.code.as_ref().map(|(code, _)| code)),
            ] {
                if let Some(text) = text.filter(|text| !text.trim().is_empty()) {
                    sum.entry(text.clone()).or_default().add(&kind.seen);
                }
            }
            if let (Some(title), Some(language)) = (&said.title, &said.language) {
                fault.languages.entry(title.clone()).or_default().insert(language.clone());
            }
            if let ObservedBody::Error(key) = &row.body {
                fault.groups.insert(key.clone());
                fault.is_validation |= key.0 == ErrorCategory::Validation;
            }
            fault.causes.add(kind.causes);
            fault.places.insert(location.name());
            fault.standings.insert(location.status);
            fault.methods.insert(location.method.clone());
        }
    }
    faults.retain(|_, fault| fault.statuses.keys().any(|status| is_declarable(*status)));
    // Errors without a body of their own are those of the same status that have one.
    let with_body: BTreeSet<u16> = faults
        .values()
        .filter(|fault| !fault.groups.is_empty())
        .flat_map(|fault| fault.statuses.keys().copied())
        .collect();
    faults.retain(|identity, fault| match identity {
        FaultIdentity::Status(status, _, standing) => {
            !fault.groups.is_empty()
                || !with_body.contains(status)
                || *standing == EndpointStatus::Nowhere
        }
        FaultIdentity::Type(_) | FaultIdentity::Code(_) => true,
    });
    named(&mut faults);
    faults
}

/// A contract's fault can have this status.
pub(super) fn is_declarable(status: u16) -> bool {
    (400..600).contains(&status) && status::is_registered(status)
}

fn named(faults: &mut BTreeMap<FaultIdentity, ObservedFault>) {
    let mut taken: BTreeSet<String> = BTreeSet::new();
    for (identity, fault) in faults.iter_mut() {
        let wish = match identity {
            FaultIdentity::Type(folded) => {
                let uri = most(fault.types.iter()).unwrap_or(folded);
                let end = uri.trim_end_matches('/').rsplit(['/', '#', ':']).next();
                plain_name(end.unwrap_or_default())
            }
            FaultIdentity::Code(code) => match fault.titles.keys().next() {
                Some(title) if fault.titles.len() == 1 => plain_name(title),
                _ if code.starts_with(|c: char| c.is_ascii_alphabetic()) => plain_name(code),
                _ => plain_name(&format!("code-{code}")),
            },
            FaultIdentity::Status(status, kind, standing) => {
                usual_name(*status, *kind, *standing, fault)
            }
        };
        let mut words = fault.distinguishing_words(identity, &wish).into_iter();
        let mut name = wish.clone();
        let mut number = 2;
        // A word tells two faults apart better than a number does.
        while !taken.insert(name.clone()) {
            name = match words.next() {
                Some(word) => format!("{wish}-{word}"),
                None => {
                    number += 1;
                    format!("{wish}-{}", number - 1)
                }
            };
        }
        fault.name = name;
    }
}

fn usual_name(
    status: u16,
    kind: ErrorCategory,
    standing: EndpointStatus,
    fault: &ObservedFault,
) -> String {
    let name = match (status, kind) {
        (400 | 422, ErrorCategory::Validation) => "invalid-request",
        (400, _) if fault.causes.malformed > 0 && !fault.meets_the_well_formed() => "malformed",
        (400, _) => "bad-request",
        (401, _) => "no-credentials",
        (403, _) => "forbidden",
        (404, _) if standing == EndpointStatus::Nowhere => "no-route",
        (404, _) => "not-found",
        (405, _) => "not-offered",
        (406, _) => "not-acceptable",
        (409, _) => "conflict",
        (413, _) => "content-too-large",
        (415, _) => "wrong-media",
        (429, _) => "too-many-requests",
        (500, _) => "unexpected",
        (503, _) => "service-unavailable",
        _ => return format!("status-{status}"),
    };
    name.to_owned()
}

impl ObservedFault {
    /// Words that may tell it from another fault of the same name.
    fn distinguishing_words(&self, identity: &FaultIdentity, wish: &str) -> Vec<String> {
        let mut words = Vec::new();
        if let FaultIdentity::Type(_) = identity {
            // The segment before the last of the type.
            let above = self.types.keys().next().and_then(|uri| {
                let path = uri.trim_end_matches('/').rsplit(['/', '#', ':']).nth(1)?;
                (!path.is_empty() && !path.contains('.')).then(|| plain_name(path))
            });
            words.extend(above);
        }
        if let FaultIdentity::Code(code) = identity
            && code.starts_with(|c: char| c.is_ascii_alphabetic())
        {
            words.push(plain_name(code));
        }
        words.extend(self.titles.keys().next().map(|title| plain_name(title)));
        if self.is_validation {
            words.push("validation".to_owned());
        }
        words.extend(status::phrase(self.status()).map(plain_name));
        words.retain(|word| word != wish);
        words
    }

    /// A title for each language, where each of its titles is of one, and no two of the same.
    pub(super) fn titles_by_language(&self) -> Option<BTreeMap<&str, &str>> {
        let mut found = BTreeMap::new();
        for title in self.titles.keys() {
            let mut languages = self.languages.get(title)?.iter();
            let (language, None) = (languages.next()?, languages.next()) else { return None };
            if found.insert(language.as_str(), title.as_str()).is_some() {
                return None;
            }
        }
        (found.len() > 1).then_some(found)
    }

    /// The status of most.
    pub(super) fn status(&self) -> u16 {
        let declarable = self.statuses.iter().filter(|(status, _)| is_declarable(**status));
        most(declarable).copied().unwrap_or_default()
    }

    /// The situations that it is for, as far as its status and the requests show.
    pub(super) fn situations(&self) -> Vec<Situation> {
        let causes = &self.causes;
        let when = |count: u64, situation| (count > 0).then_some(situation);
        let has_body = ["POST", "PUT", "PATCH"].iter().any(|one| self.methods.contains(*one));
        let queries = self.methods.iter().any(|method| matches!(method.as_str(), "GET" | "DELETE"));
        let mut found: Vec<Situation> = match self.status() {
            400 | 422 if self.is_validation => [
                Some(Situation::InvalidBody),
                queries.then_some(Situation::InvalidParameters),
                when(causes.malformed, Situation::MalformedBody),
                when(causes.no_body, Situation::MissingBody),
            ]
            .into_iter()
            .flatten()
            .collect(),
            400 => [
                when(causes.malformed, Situation::MalformedBody),
                when(causes.no_body, Situation::MissingBody),
                (self.meets_the_well_formed() && has_body).then_some(Situation::InvalidBody),
                (self.meets_the_well_formed() && queries).then_some(Situation::InvalidParameters),
            ]
            .into_iter()
            .flatten()
            .collect(),
            401 => vec![Situation::MissingCredentials, Situation::InvalidCredentials],
            404 if !self.standings.contains(&EndpointStatus::Endpoint) => [
                (EndpointStatus::Nowhere, Situation::UnknownRoute),
                (EndpointStatus::NotOffered, Situation::MethodNotAllowed),
            ]
            .into_iter()
            .filter(|(standing, _)| self.standings.contains(standing))
            .map(|(_, situation)| situation)
            .collect(),
            405 => vec![Situation::MethodNotAllowed],
            415 => vec![Situation::UnsupportedMediaType],
            500.. => Vec::new(),
            status => Situation::implied_by_status(status).into_iter().collect(),
        };
        found.sort_unstable();
        found
    }

    /// Does it belong to every endpoint, because it is about none?
    pub(super) fn is_everywhere(&self) -> bool {
        matches!(self.status(), 405 | 429 | 500..)
            || !self.standings.contains(&EndpointStatus::Endpoint)
    }

    /// Did it come to requests with nothing wrong that a request shows by itself? Then its values were wrong.
    fn meets_the_well_formed(&self) -> bool {
        let RequestFlaws { malformed, no_body, other_media, .. } = self.causes;
        self.seen.count > malformed + no_body + other_media
    }
}

/// The one that was seen most often; among equals the first.
pub(super) fn most<'s, K: Ord>(
    seen: impl Iterator<Item = (&'s K, &'s Occurrences)>,
) -> Option<&'s K> {
    seen.max_by(|(one, a), (other, b)| a.count.cmp(&b.count).then(other.cmp(one)))
        .map(|(key, _)| key)
}
