//! The request, as a few hashes: the very same, the same but for ids that the service made up, and
//! alike.

use std::hash::{DefaultHasher, Hash, Hasher};

use serde_json::Value;

use super::plan::{ComparisonKind, RequestTarget};
use super::server_ids::ServerIds;
use crate::survey::SegmentForm;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::exchange::{Request, RequestBody};
use faithful_clerk_model::json::Json;
use faithful_clerk_model::media;
use faithful_clerk_model::situation::SituationSet;
use faithful_clerk_shape::{DataLocations, InferredShape};

/// How much two requests have in common, each as a hash of what it is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct RequestKey {
    /// Method, path, query, body, and the headers that matter.
    pub(super) same: u128,
    /// The same, with every id that the service made up known by where it came from.
    pub(super) linked: u128,
    /// Method, path and form of query and body, whatever their values, and what a contract says is wrong with them.
    pub(super) alike: u128,
    /// Method, template and form, whatever the values of the path.
    pub(super) kin: u128,
}

/// Headers that make another request of it by their value.
const MATTERING: [&str; 4] = ["accept", "accept-language", "prefer", "x-http-method-override"];

/// Headers that make another request of it by being there; their values are made anew each time.
const PRESENCE: [&str; 6] = [
    "if-match",
    "if-none-match",
    "if-modified-since",
    "if-unmodified-since",
    "range",
    "idempotency-key",
];

/// A body as far as it is compared.
enum BodyKey {
    None,
    Json(Value),
    Other(Vec<u8>),
    Unknown,
}

impl RequestKey {
    pub(super) fn of(
        request: &Request<'_>,
        asking: &RequestTarget,
        made: &ServerIds,
        between: ComparisonKind,
        contract: Option<&ErrorContract>,
        situations: SituationSet,
    ) -> Self {
        let body = body(request);
        let media = request.media().map(media::essence).unwrap_or_default();
        let credentials = between != ComparisonKind::Callers && has_credentials(request, contract);
        let headers: Vec<(&str, &str)> =
            MATTERING.iter().filter_map(|name| Some((*name, request.headers.get(name)?))).collect();
        let present: Vec<&str> =
            PRESENCE.into_iter().filter(|name| request.headers.has(name)).collect();
        let common = (request.method.as_ref(), media, credentials, present);
        let linked = |text: &str| {
            made.source(text).map_or_else(|| text.to_owned(), |from| format!("\u{0}{from}"))
        };
        let path: Vec<String> = asking.segments.iter().map(|one| linked(one)).collect();
        let query: Vec<(&str, String)> =
            asking.query.iter().map(|(name, value)| (name.as_str(), linked(value))).collect();
        let names: Vec<&str> = asking.query.iter().map(|(name, _)| name.as_str()).collect();
        let form = match &body {
            BodyKey::None => "none".to_owned(),
            BodyKey::Json(value) => InferredShape::of(value, &DataLocations::default()).phrase(),
            BodyKey::Other(_) => "other".to_owned(),
            BodyKey::Unknown => "unknown".to_owned(),
        };
        let written = |link: &dyn Fn(&str) -> String| match &body {
            BodyKey::None => Vec::new(),
            BodyKey::Json(value) => canonical(value, link).into_bytes(),
            BodyKey::Other(bytes) => bytes.clone(),
            BodyKey::Unknown => b"unknown".to_vec(),
        };
        Self {
            same: hash(&(
                &common,
                &headers,
                &asking.segments,
                &asking.query,
                written(&|text| text.to_owned()),
            )),
            linked: hash(&(&common, &path, &query, written(&linked))),
            alike: hash(&(&common, &path, &names, &form, situations)),
            kin: hash(&(&common, &asking.template, &names, &form, situations)),
        }
    }
}

fn has_credentials(request: &Request<'_>, contract: Option<&ErrorContract>) -> bool {
    let named = contract.map_or(&[][..], |contract| &contract.credentials);
    let usual = ["authorization", "cookie", "x-api-key"];
    let mut names = named.iter().map(String::as_str).chain(usual);
    names.any(|name| request.headers.has(name))
}

fn body(request: &Request<'_>) -> BodyKey {
    match &request.body {
        RequestBody::Absent | RequestBody::Blank => BodyKey::None,
        RequestBody::NotRecorded => BodyKey::Unknown,
        RequestBody::Present(content) => match content.decode() {
            Err(_) => BodyKey::Unknown,
            Ok(bytes) => match Json::read(&bytes) {
                Json::Value(value) => BodyKey::Json(value),
                Json::Beyond(_) | Json::Malformed(_) => BodyKey::Other(bytes.into_owned()),
            },
        },
    }
}

/// A value in one line, members by name, so that order and white space make no difference.
fn canonical(value: &Value, link: &dyn Fn(&str) -> String) -> String {
    match value {
        Value::Object(members) => {
            let mut members: Vec<(&String, &Value)> = members.iter().collect();
            members.sort_by_key(|(name, _)| *name);
            let member =
                |(name, value): (&String, &Value)| format!("{name:?}:{}", canonical(value, link));
            let members: Vec<String> = members.into_iter().map(member).collect();
            format!("{{{}}}", members.join(","))
        }
        Value::Array(items) => {
            let items: Vec<String> = items.iter().map(|item| canonical(item, link)).collect();
            format!("[{}]", items.join(","))
        }
        Value::String(text) if SegmentForm::may_be_id(text) => {
            format!("{:?}", link(text))
        }
        // By value: `10`, `10.0` and `1e1` are one number.
        Value::Number(number) => match number.as_f64() {
            Some(value) => link(&value.to_string()),
            None => number.to_string(),
        },
        other => other.to_string(),
    }
}

/// 128 bits, so that two requests out of millions are not taken for one.
fn hash(of: &impl Hash) -> u128 {
    let half = |seed: u8| {
        let mut hasher = DefaultHasher::new();
        seed.hash(&mut hasher);
        of.hash(&mut hasher);
        u128::from(hasher.finish())
    };
    half(0) << 64 | half(1)
}
