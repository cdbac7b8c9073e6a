//! What came back, as far as it is compared: no times, no ids, no prose.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;
use url::Url;

use super::compared_headers::compared_headers;
use super::plan::{ComparisonKind, ComparisonPlan};
use crate::survey::SegmentForm;
use faithful_clerk_check::classify::{Classified, ParsedBody};
use faithful_clerk_model::exchange::{Exchange, Response};
use faithful_clerk_model::finding::{Finding, Severity};
use faithful_clerk_model::json::pointer::{JsonPath, join};
use faithful_clerk_model::json::scalar_text;
use faithful_clerk_model::media;
use faithful_clerk_model::secret::mask::masked;
use faithful_clerk_shape::{DataLocations, InferredShape, are_data_names};

/// What came back.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) enum ResponseSummary {
    /// No response.
    None,
    /// Something other than what was seen before, where so much was seen that no more is kept.
    NotKept,
    /// A response.
    Received(Box<ComparedResponse>),
}

/// A response, as far as it is compared.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) struct ComparedResponse {
    pub(super) status: u16,
    pub(super) media: Option<String>,
    pub(super) body: ComparedBody,
    /// Headers by name in lower case; the value where it is compared.
    pub(super) headers: BTreeMap<String, Option<String>>,
    /// What an error says of itself that stays the same, by place.
    pub(super) stable: BTreeMap<String, String>,
    /// The places of the request that a validation error names.
    pub(super) named: BTreeSet<String>,
    /// What it tells that is internal.
    pub(super) disclosed: BTreeSet<&'static str>,
    /// Is it an error in a success?
    pub(super) is_error_inside: bool,
    /// What a contract finds in it: clause and place, with the severity.
    pub(super) findings: BTreeMap<(&'static str, String), Severity>,
}

/// A body, as far as it is compared.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) enum ComparedBody {
    /// It can't be known.
    Unknown,
    /// There is none.
    Empty,
    /// JSON; [uncounted](Sketch::uncounted), so that few are kept.
    Json(InferredShape),
    /// Something else, in words.
    Other(&'static str),
}

impl ComparedResponse {
    pub(super) fn is_error(&self) -> bool {
        self.status >= 400
    }

    /// Did a contract find a breach or a warning?
    pub(super) fn is_wrong(&self) -> bool {
        self.findings.values().any(|severity| *severity != Severity::Note)
    }
}

/// Members of an error whose values stay the same each time.
const SAYING: [&str; 9] = [
    "type",
    "title",
    "code",
    "errorCode",
    "error_code",
    "error",
    "status",
    "statusCode",
    "status_code",
];

/// What came back in an exchange. Without a contract `classified` is made under an empty one.
pub(super) fn came(
    exchange: &Exchange<'_>,
    classified: Option<&Classified<'_>>,
    findings: &[Finding],
    plan: &ComparisonPlan<'_>,
) -> ResponseSummary {
    let Some(response) = &exchange.response else { return ResponseSummary::None };
    let (mut said, mut named, mut disclosed) = Default::default();
    let is_error = response.status >= 400;
    let is_error_inside = !plan.off.embedded_error
        && classified.is_some_and(|classified| classified.embedded_error().is_some());
    if let Some(classified) = classified.filter(|_| is_error) {
        said = saying(classified, plan.between);
        let located = classified.reported_fields().iter().filter(|entry| entry.location.is_some());
        named = located
            .filter(|_| !plan.off.reported_fields)
            .map(|entry| entry.steps.join("/"))
            .collect();
        let told = classified.disclosures().iter();
        disclosed = told
            .filter(|one| !plan.off.disclosures.contains(&one.kind))
            .map(|one| one.what)
            .collect();
    }
    let media = response.media().filter(|_| !(is_error && plan.off.error_media));
    let found = findings.iter().map(|finding| ((finding.clause, place(finding)), finding.severity));
    ResponseSummary::Received(Box::new(ComparedResponse {
        status: response.status,
        media: media.map(|media| media::essence(media).into_owned()),
        body: with_body(response, classified, |read| body(exchange, read, classified)),
        headers: compared_headers(&response.headers, plan),
        stable: said,
        named,
        disclosed,
        is_error_inside,
        findings: found.collect(),
    }))
}

/// The place of a finding, the same for every item of a list.
fn place(finding: &Finding) -> String {
    let text = finding.location.to_string();
    let step = |step: &str| {
        let is_index = !step.is_empty() && step.bytes().all(|byte| byte.is_ascii_digit());
        if is_index { "*".to_owned() } else { step.to_owned() }
    };
    text.split('/').map(step).collect::<Vec<_>>().join("/")
}

fn saying(classified: &Classified<'_>, between: ComparisonKind) -> BTreeMap<String, String> {
    let Some(members) = classified.members() else { return BTreeMap::new() };
    let said = SAYING.iter().filter_map(|name| {
        let text = scalar_text(members.get(*name)?)?;
        let text: String = masked(&text).chars().take(120).collect();
        Some((join("", name), lasting(&text, between)))
    });
    said.collect()
}

/// What stays the same of a text each time: in a sentence no ids and times, and between environments no hosts.
fn lasting(text: &str, between: ComparisonKind) -> String {
    if text.contains(' ') {
        let lasting = |word: &str| {
            let bare = word.trim_matches(|c: char| !c.is_alphanumeric());
            match !bare.is_empty() && SegmentForm::may_be_id(bare) {
                true => word.replacen(bare, "…", 1),
                false => word.to_owned(),
            }
        };
        return text.split(' ').map(lasting).collect::<Vec<_>>().join(" ");
    }
    let is_elsewhere = between == ComparisonKind::Environments;
    let parsed = is_elsewhere.then(|| Url::parse(text).ok()).flatten();
    let with_host = parsed.filter(Url::has_host);
    with_host.map_or_else(|| text.to_owned(), |url| url.path().to_owned())
}

/// Looks at the body of a response, which may have been read already.
pub(super) fn with_body<R>(
    response: &Response<'_>,
    classified: Option<&Classified<'_>>,
    look: impl FnOnce(&ParsedBody) -> R,
) -> R {
    match classified {
        Some(classified) => look(classified.body()),
        None => look(&ParsedBody::read(response)),
    }
}

fn body(
    exchange: &Exchange<'_>,
    body: &ParsedBody,
    classified: Option<&Classified<'_>>,
) -> ComparedBody {
    match body {
        ParsedBody::Empty if exchange.request.method == "HEAD" => ComparedBody::Unknown,
        ParsedBody::Empty => ComparedBody::Empty,
        ParsedBody::Unknown(_) => ComparedBody::Unknown,
        ParsedBody::BrokenJson { .. } => ComparedBody::Other("broken JSON"),
        ParsedBody::Html(_) => ComparedBody::Other("HTML"),
        ParsedBody::Text(_) => ComparedBody::Other("text"),
        ParsedBody::Json(value) => {
            let mut varying = match classified.filter(|classified| classified.is_error()) {
                Some(classified) => classified.data_locations(),
                None => DataLocations::default(),
            };
            by_id(value, &JsonPath::Top, &mut varying.keyed);
            ComparedBody::Json(InferredShape::of(value, &varying).uncounted())
        }
    }
}

/// Is a member's name data? What a programmer would declare, such as `line_1`, is not.
fn is_id(name: &str) -> bool {
    let is_declared = name.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_')
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_');
    SegmentForm::of(name).is_value() || (SegmentForm::may_be_id(name) && !is_declared)
}

/// The places of objects that are keyed by ids.
fn by_id(value: &Value, path: &JsonPath<'_>, found: &mut BTreeSet<String>) {
    match value {
        Value::Object(members) => {
            let names = members.keys().map(String::as_str);
            let are_ids = !members.is_empty() && names.clone().all(is_id);
            if are_ids || (are_data_names(names) && members.values().all(Value::is_string)) {
                found.insert(path.pointer());
            }
            for (name, member) in members {
                by_id(member, &JsonPath::Member(path, name), found);
            }
        }
        Value::Array(items) => {
            for (at, item) in items.iter().enumerate() {
                by_id(item, &JsonPath::Item(path, at), found);
            }
        }
        _ => {}
    }
}
