//! What everything that was seen comes to: endpoints, shapes, and who deviates from what most do.

use faithful_clerk_model::method;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::facts::{
    EndpointFacts, ErrorCategory, GroupKey, ObservedBody, Occurrences, ResponseSignature,
};
use super::given_names::GivenNames;
use super::shapes::{ErrorShape, shapes};
use super::standing::{EndpointStatus, sort_out};
use super::survey_data::{BodyGroup, ObservedHeader, SurveyData};
use super::template::templates;
use super::tree::PathNode;
use super::validation::FieldNamingSummary;
use faithful_clerk_recording::UnreadableParts;
use faithful_clerk_shape::{DifferenceKind, ShapeDifference, differences};

/// A method of a path.
#[derive(Debug, Clone)]
pub struct SurveyedEndpoint {
    /// Scheme, host and port, where the recordings hold more than one service.
    pub origin: String,
    /// The method.
    pub method: String,
    /// The path template.
    pub template: String,
    /// What it is.
    pub status: EndpointStatus,
    /// Some values of the last parameter.
    pub values: Vec<String>,
    /// What was seen.
    pub facts: EndpointFacts,
}

impl SurveyedEndpoint {
    /// `GET /berths/{id}`.
    #[must_use]
    pub fn name(&self) -> String {
        format!("{} {}", self.method, self.template)
    }
}

/// Which body an error had.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum SurveyedBody {
    /// Of the shape at this place in [`Survey::shapes`].
    Shape(usize),
    /// One of too many shapes.
    Many,
    /// No JSON, no body or no response; in words.
    Other(Cow<'static, str>),
}

/// Errors whose body is not what most have.
#[derive(Debug, Clone)]
pub struct Deviation {
    /// The body.
    pub body: SurveyedBody,
    /// The exchanges.
    pub seen: Occurrences,
    /// The endpoints with their statuses.
    pub endpoints: BTreeMap<String, BTreeSet<u16>>,
    /// How it differs from what most have; empty where it is no JSON.
    pub differences: Vec<ShapeDifference>,
}

/// Errors of one sort, compared.
#[derive(Debug, Clone)]
pub struct ErrorComparison {
    /// Which errors.
    pub category: ErrorCategory,
    /// How many there are. Those whose body can't be known are not among them.
    pub count: u64,
    /// The shape of most, by its place in [`Survey::shapes`].
    pub most: Option<usize>,
    /// All others, the most frequent first.
    pub deviations: Vec<Deviation>,
}

/// What a service's errors look like.
#[derive(Debug)]
pub struct Survey {
    /// How many exchanges were looked at.
    pub exchanges: u64,
    /// How many of them are errors.
    pub errors: u64,
    /// What is none of the service's, by reason.
    pub excluded: BTreeMap<Cow<'static, str>, u64>,
    /// What could not be read.
    pub unreadable: UnreadableParts,
    /// Every method of every path, endpoints first.
    pub endpoints: Vec<SurveyedEndpoint>,
    /// The shapes of errors, the most frequent first.
    pub shapes: Vec<ErrorShape>,
    /// Bodies of errors that are one of too many shapes to be told apart.
    pub many: BTreeMap<ErrorCategory, BodyGroup>,
    /// How validation errors name fields.
    pub naming: FieldNamingSummary,
    /// Errors that tell what is internal, by what it is.
    pub disclosed: BTreeMap<Cow<'static, str>, Occurrences>,
    /// Errors in responses that are successes by their status.
    pub inside: Occurrences,
    /// The headers of errors, by name in lower case.
    pub headers: BTreeMap<String, ObservedHeader>,
    /// Does any request carry credentials?
    pub has_credentials: bool,
    /// The services that requests went to: scheme, host and port, with the number of exchanges.
    pub origins: BTreeMap<String, u64>,
    /// The bodies of errors before shapes were made of them.
    pub groups: BTreeMap<GroupKey, BodyGroup>,
    of_group: BTreeMap<GroupKey, usize>,
}

impl SurveyData {
    /// What it comes to.
    #[must_use]
    pub fn conclude(self) -> Survey {
        let shapes = shapes(&self.groups);
        let of_group = shapes
            .iter()
            .enumerate()
            .flat_map(|(at, shape)| shape.groups.iter().map(move |key| (key.clone(), at)))
            .collect();
        let mut locations = Vec::new();
        for ((template, method), facts) in self.declared {
            let standing = EndpointStatus::of(&facts);
            let (origin, values) = (String::new(), Vec::new());
            locations.push(SurveyedEndpoint {
                origin,
                method,
                template,
                status: standing,
                values,
                facts,
            });
        }
        let (found, origins) = inferred(self.origins, &self.names);
        locations.extend(found);
        locations.sort_by(|one, other| order(one).cmp(&order(other)));
        Survey {
            exchanges: self.exchanges,
            errors: self.errors,
            excluded: self.excluded,
            unreadable: self.unreadable,
            endpoints: locations,
            shapes,
            many: self.many,
            naming: self.naming.summary(),
            disclosed: self.disclosed,
            inside: self.inside,
            headers: self.headers,
            has_credentials: self.has_credentials,
            origins,
            groups: self.groups,
            of_group,
        }
    }
}

/// The places that the paths of each service show, and how many exchanges each service had.
pub fn inferred(
    trees: BTreeMap<String, PathNode>,
    names: &GivenNames,
) -> (Vec<SurveyedEndpoint>, BTreeMap<String, u64>) {
    let several = trees.len() > 1;
    let mut locations = Vec::new();
    let mut origins = BTreeMap::new();
    for (name, tree) in trees {
        let origin = if several { name.clone() } else { String::new() };
        let before = locations.len();
        for found in templates(tree, names) {
            for (method, facts) in found.methods {
                let standing = EndpointStatus::of(&facts);
                let (origin, template) = (origin.clone(), found.template.clone());
                let values = found.values.clone();
                locations.push(SurveyedEndpoint {
                    origin,
                    method,
                    template,
                    status: standing,
                    values,
                    facts,
                });
            }
        }
        let count = locations.iter().skip(before).map(|location| location.facts.count).sum();
        origins.insert(name, count);
    }
    sort_out(&mut locations);
    (locations, origins)
}

/// Endpoints first, by path, and the methods of a path in their usual order.
fn order(location: &SurveyedEndpoint) -> (EndpointStatus, &str, &str, usize, &str) {
    let method = method::position(&location.method).unwrap_or(method::METHODS.len());
    (location.status, &location.origin, &location.template, method, &location.method)
}

impl Survey {
    /// Which body the responses of a row have; `None` where it can't be known, or is no error's.
    #[must_use]
    pub fn body(&self, row: &ResponseSignature) -> Option<SurveyedBody> {
        let is_error = row.status.is_none_or(|status| status >= 400);
        Some(match &row.body {
            ObservedBody::Error(key) => {
                self.of_group.get(key).map_or(SurveyedBody::Many, |at| SurveyedBody::Shape(*at))
            }
            ObservedBody::Many(_) => SurveyedBody::Many,
            ObservedBody::Missing => SurveyedBody::Other("no response".into()),
            ObservedBody::Empty if is_error => SurveyedBody::Other("empty".into()),
            ObservedBody::Other(words) if is_error => SurveyedBody::Other(words.clone()),
            ObservedBody::Success(_)
            | ObservedBody::Unknown(_)
            | ObservedBody::Empty
            | ObservedBody::Other(_) => return None,
        })
    }

    /// What a row's responses are, in a word or a shape's name.
    #[must_use]
    pub fn told<'s>(&'s self, row: &'s ResponseSignature) -> &'s str {
        match (&row.body, self.body(row)) {
            (_, Some(SurveyedBody::Shape(at))) => {
                self.shapes.get(at).map_or("", |shape| &shape.name)
            }
            (_, Some(SurveyedBody::Many)) => "one of too many",
            (ObservedBody::Missing, _) => "no response",
            (ObservedBody::Empty, _) => "empty",
            (
                ObservedBody::Success(words)
                | ObservedBody::Other(words)
                | ObservedBody::Unknown(words),
                _,
            ) => words,
            (ObservedBody::Error(_) | ObservedBody::Many(_), _) => "",
        }
    }

    /// Errors of one sort, compared; `None` where there are none.
    #[must_use]
    pub fn judgement(&self, sort: ErrorCategory) -> Option<ErrorComparison> {
        let mut bodies: BTreeMap<SurveyedBody, Deviation> = BTreeMap::new();
        for location in &self.endpoints {
            for (row, kind) in &location.facts.rows {
                let mine = match &row.body {
                    ObservedBody::Error((of, _)) | ObservedBody::Many(of) => *of == sort,
                    // A response to invalid input that has no JSON would have been a validation error.
                    _ => (row.status == Some(422)) == (sort == ErrorCategory::Validation),
                };
                let Some(body) = self.body(row).filter(|_| mine) else { continue };
                let deviation = bodies.entry(body.clone()).or_insert_with(|| Deviation {
                    body,
                    seen: Occurrences::default(),
                    endpoints: BTreeMap::new(),
                    differences: Vec::new(),
                });
                deviation.seen.add(&kind.seen);
                let name = match location.status {
                    EndpointStatus::Nowhere => "(unknown route)".to_owned(),
                    EndpointStatus::Endpoint | EndpointStatus::NotOffered => location.name(),
                };
                deviation.endpoints.entry(name).or_default().extend(row.status);
            }
        }
        let count = bodies.values().map(|deviation| deviation.seen.count).sum();
        let shaped = bodies.iter().filter_map(|(body, deviation)| match body {
            SurveyedBody::Shape(at) => Some((deviation.seen.count, std::cmp::Reverse(*at))),
            SurveyedBody::Many | SurveyedBody::Other(_) => None,
        });
        let most = shaped.max().map(|(_, std::cmp::Reverse(at))| at);
        let usual = most.and_then(|at| self.shapes.get(at));
        bodies.retain(|body, _| most.is_none_or(|most| *body != SurveyedBody::Shape(most)));
        let mut deviations: Vec<Deviation> = bodies.into_values().collect();
        for deviation in &mut deviations {
            if let (SurveyedBody::Shape(at), Some(usual)) = (&deviation.body, usual)
                && let Some(shape) = self.shapes.get(*at)
            {
                let all = differences(&usual.shape, &shape.shape).into_iter();
                // A member that some lack is optional in both.
                deviation.differences =
                    all.filter(|one| one.kind != DifferenceKind::Optional).collect();
            }
        }
        deviations.sort_by_key(|deviation| std::cmp::Reverse(deviation.seen.count));
        (count > 0).then_some(ErrorComparison { category: sort, count, most, deviations })
    }
}

/// Names that stand before every path of a service: a version, `api`, or whatever leads to several
/// resources.
#[must_use]
pub fn common_prefix(locations: &[&SurveyedEndpoint]) -> String {
    let mut prefix = String::new();
    loop {
        let behind: Option<Vec<&str>> = locations
            .iter()
            .map(|location| location.template.strip_prefix(&prefix)?.strip_prefix('/'))
            .collect();
        let Some(behind) = behind.filter(|behind| !behind.is_empty()) else { return prefix };
        let first = behind.first().and_then(|path| path.split('/').next()).unwrap_or_default();
        let next: Option<Vec<&str>> =
            behind.iter().map(|path| path.strip_prefix(first)?.strip_prefix('/')).collect();
        let Some(mut next) = next else { return prefix };
        next.iter_mut().for_each(|path| *path = path.split('/').next().unwrap_or_default());
        next.sort_unstable();
        next.dedup();
        let is_version =
            first.strip_prefix('v').is_some_and(|n| n.bytes().all(|b| b.is_ascii_digit()));
        let leads = next.iter().filter(|name| !name.starts_with('{')).count() >= 2;
        let is_plain = first.bytes().all(|b| b.is_ascii_alphanumeric() || b"-._~".contains(&b));
        if first.is_empty() || !is_plain || !(is_version || leads || first == "api") {
            return prefix;
        }
        prefix = format!("{prefix}/{first}");
    }
}
