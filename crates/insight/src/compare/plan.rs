//! What both recordings are compared by: one set of path templates, and what matters in a request.

use std::borrow::Cow;
use std::collections::BTreeSet;

use super::sent_values::{ComparisonSurvey, SentValues};
use super::switched_off::SwitchedOff;
use crate::survey::{
    EndpointStatus, GivenNames, PathNode, SurveyData, SurveyedEndpoint, common_prefix, inferred,
    templates,
};
use faithful_clerk_contract::{EndpointId, ErrorContract, RequestPath, Router, Scope};

/// What the two recordings are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ComparisonKind {
    /// The same service at two times. The second is better or worse.
    #[default]
    Versions,
    /// Two environments at one time. Where they are not alike, neither is right by itself.
    Environments,
    /// Two callers: what they send to say who they are makes no difference between requests.
    Callers,
}

/// How requests are told apart.
#[derive(Debug)]
pub struct ComparisonPlan<'c> {
    pub(super) contract: Option<&'c ErrorContract>,
    pub(super) between: ComparisonKind,
    /// What the requests of each side sent.
    pub(super) sent: [SentValues; 2],
    /// What the contract says is no matter.
    pub(super) off: SwitchedOff,
    router: Router,
    templates: Vec<String>,
    /// What comes off the paths of each side.
    prefixes: [String; 2],
    /// Does the recording of each side hold credentials?
    pub(super) has_credentials: [bool; 2],
    /// The services that each side's requests went to.
    pub(super) origins: [Vec<String>; 2],
    /// Which exchanges are compared; the default is those of the service.
    pub scope: Scope,
}

impl<'c> ComparisonPlan<'c> {
    /// A plan from what a survey of each side gathered.
    #[must_use]
    pub fn of(
        sides: [ComparisonSurvey<'_>; 2],
        contract: Option<&'c ErrorContract>,
        between: ComparisonKind,
    ) -> Self {
        let [(before, before_sent), (after, after_sent)] =
            sides.map(|side| (side.survey.data, side.sent));
        let sides = [before, after];
        let has_credentials = [&sides[0], &sides[1]].map(|side| side.has_credentials);
        let origins =
            [&sides[0], &sides[1]].map(|side| side.origins.keys().cloned().collect::<Vec<_>>());
        let prefixes = prefixes(&sides);
        let mut tree = PathNode::default();
        let mut given = GivenNames::default();
        for (side, prefix) in sides.into_iter().zip(&prefixes) {
            given.add(&side.names);
            for node in side.origins.into_values() {
                tree.add(node.below(prefix));
            }
        }
        let (mut router, mut names) = (Router::default(), Vec::new());
        for found in templates(tree, &given) {
            if let Ok(segments) = Router::segments(&found.template) {
                router.add(segments, Some(EndpointId(names.len())));
                names.push(found.template);
            }
        }
        let scope = Scope::Service;
        Self {
            contract,
            between,
            sent: [before_sent, after_sent],
            off: contract.map(SwitchedOff::by).unwrap_or_default(),
            router,
            templates: names,
            prefixes,
            has_credentials,
            origins,
            scope,
        }
    }

    /// The template of a request, and the values of its parameters with the other segments.
    pub(super) fn request_target(
        &self,
        side: usize,
        method: &str,
        url: &str,
    ) -> Option<RequestTarget> {
        if let Some(contract) = self.contract {
            let target = contract.request_path(method, url);
            let found = target.as_ref().and_then(|target| {
                let endpoint = contract.endpoint(*contract.route(target)?.first()?)?;
                let segments = contract.segments(target);
                Some(RequestTarget::new(endpoint.path.clone(), segments, target))
            });
            if found.is_some() || (target.is_none() && self.scope == Scope::Service) {
                return found;
            }
        }
        let target = RequestPath::read(url, &[])?;
        let segments = target.segments(false);
        let prefix = self.prefixes.get(side).map_or("", String::as_str);
        let skipped = prefix.split('/').filter(|name| !name.is_empty());
        let below = skipped
            .clone()
            .zip(segments)
            .all(|(name, segment)| name == segment)
            .then(|| segments.get(skipped.count()..))
            .flatten();
        let segments = below.unwrap_or(segments);
        let found = self.router.find(segments).and_then(|ids| self.templates.get(ids.first()?.0));
        let template = found.cloned().unwrap_or_else(|| format!("/{}", segments.join("/")));
        Some(RequestTarget::new(template, segments, &target))
    }
}

/// Where a request leads.
#[derive(Debug)]
pub(super) struct RequestTarget {
    pub(super) template: String,
    pub(super) segments: Vec<String>,
    pub(super) query: Vec<(String, String)>,
}

impl RequestTarget {
    fn new(template: String, segments: &[Cow<'_, str>], target: &RequestPath<'_>) -> Self {
        let mut query: Vec<(String, String)> =
            target.query().map(|(name, value)| (name.into_owned(), value.into_owned())).collect();
        query.sort();
        let segments = segments.iter().map(|segment| segment.clone().into_owned()).collect();
        Self { template, segments, query }
    }
}

/// What comes off the paths of each side: nothing if they have a path in common, else what each side's
/// paths start with.
fn prefixes(sides: &[SurveyData; 2]) -> [String; 2] {
    let none = || [String::new(), String::new()];
    let [before, after] =
        [&sides[0], &sides[1]].map(|side| inferred(side.origins.clone(), &side.names).0);
    let names = |locations: &[SurveyedEndpoint]| -> BTreeSet<String> {
        locations.iter().map(SurveyedEndpoint::name).collect()
    };
    let (mine, others) = (names(&before), names(&after));
    if mine.iter().any(|name| others.contains(name)) {
        return none();
    }
    let prefix = |locations: &[SurveyedEndpoint]| {
        let locations: Vec<&SurveyedEndpoint> = locations
            .iter()
            .filter(|location| location.status != EndpointStatus::Nowhere)
            .collect();
        common_prefix(&locations)
    };
    let found = [prefix(&before), prefix(&after)];
    let stripped = |locations: &[SurveyedEndpoint], prefix: &str| -> BTreeSet<String> {
        let below = locations.iter().filter_map(|location| location.template.strip_prefix(prefix));
        below.map(str::to_owned).collect()
    };
    let (mine, others) = (stripped(&before, &found[0]), stripped(&after, &found[1]));
    if mine.iter().any(|name| others.contains(name)) { found } else { none() }
}
