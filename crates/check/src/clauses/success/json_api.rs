use serde_json::{Map, Value};

use crate::classify::{Classified, ParsedBody, StatusVerdict};
use crate::clauses::contracts::JSON_API;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::{JsonType, MemberLookup as _};
use faithful_clerk_model::media;

pub(super) static CLAUSE: Clause = Clause {
    name: "success.json-api",
    statement: "Where errors are JSON:API's, a success is a JSON:API document.",
    basis: &[Basis::Contract("shape")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "A caller has one reader for all documents of the service, and it refuses what is none (JSON:API 1.1, 'Document Structure').",
    fix: "Write all responses with one serializer, under application/vnd.api+json.",
    check,
    met: &[Example::met(
        "a resource",
        "GET /v1/berths/A-3",
        r#"HTTP/1.1 200 OK
Content-Type: application/vnd.api+json

{"data":{"type":"berths","id":"A-3","attributes":{"depth_m":4.2}}}"#,
    )
    .under(JSON_API)],
    broken: &[
        Example::broken(
            "a resource without the document around it",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/vnd.api+json

{"id":"A-3","depth_m":4.2}"#,
            &[("the whole body", "none")],
        )
        .under(JSON_API),
        Example::broken(
            "an id that is a number",
            "GET /v1/berths/3",
            r#"HTTP/1.1 200 OK
Content-Type: application/vnd.api+json

{"data":{"type":"berths","id":3}}"#,
            &[("body /data/id", "number 3")],
        )
        .under(JSON_API),
        Example::broken(
            "another media type",
            "GET /v1/berths/A-3",
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"data":{"type":"berths","id":"A-3"}}"#,
            &[("header Content-Type", "application/json")],
        )
        .under(JSON_API),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let style = classified.style().error.shape.and_then(|id| classified.contract.shapes.get(id));
    let is_served = matches!(classified.verdict, StatusVerdict::Served);
    // What the contract says that the endpoint produces instead is no document.
    let produces = classified.rules().produces.iter().flatten();
    let is_other = produces.into_iter().any(|one| one != media::JSON_API);
    if !is_served || is_other || !style.is_some_and(|shape| shape.is_json_api) {
        return ClauseOutcome::NotApplicable;
    }
    let document = match classified.body() {
        ParsedBody::Json(document) => document,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    // Where the contract says what is produced, `success.media-declared` tells.
    let is_open = classified.rules().produces.is_none();
    if let Some(said) = classified.media().filter(|said| is_open && *said != media::JSON_API) {
        let expected = Expected::MediaType(media::JSON_API.to_owned());
        findings.add(Location::header("Content-Type"), expected, Got::MediaType(said.to_owned()));
    }
    match document {
        Value::Object(members) => check_document(members, findings),
        other => {
            let whole = Location::Pointer(String::new());
            findings.add(whole, Expected::Object, Got::Type(JsonType::of(other)));
        }
    }
    ClauseOutcome::Met
}

/// JSON:API 1.1, 'Top Level'.
fn check_document(members: &Map<String, Value>, findings: &mut Findings) {
    let has = |name: &str| members.member(name).is_some();
    let at = |name: &str| Location::Pointer(format!("/{name}"));
    // A member of an extension has its namespace before a colon.
    let has_extension = || members.keys().any(|name| name.contains(':'));
    if !has("data") && !has("errors") && !has("meta") && !has_extension() {
        let whole = Location::Pointer(String::new());
        findings.add(whole, Expected::DocumentMember, Got::None);
    }
    if has("data") && has("errors") {
        findings.add(at("errors"), Expected::DataOrErrors, Got::Member("errors".to_owned()));
    }
    if has("included") && !has("data") {
        findings.add(
            at("included"),
            Expected::DataBesideIncluded,
            Got::Member("included".to_owned()),
        );
    }
    match members.member("data") {
        Some(Value::Array(resources)) => {
            // A service that writes one wrongly writes all so.
            let wrong =
                |(index, one): (usize, &Value)| wrong_resource(one, &format!("/data/{index}"));
            if let Some((location, expected, got)) = resources.iter().enumerate().find_map(wrong) {
                findings.add(location, expected, got);
            }
        }
        Some(Value::Null) | None => {}
        Some(resource) => {
            if let Some((location, expected, got)) = wrong_resource(resource, "/data") {
                findings.add(location, expected, got);
            }
        }
    }
}

/// What is wrong with a resource object, or an identifier of one ('Resource Objects'): both have a type and an id, as
/// strings.
fn wrong_resource(resource: &Value, at: &str) -> Option<(Location, Expected, Got)> {
    let Value::Object(members) = resource else {
        let got = Got::Type(JsonType::of(resource));
        return Some((Location::Pointer(at.to_owned()), Expected::Object, got));
    };
    ["type", "id"].into_iter().find_map(|name| {
        let got = match members.member(name) {
            Some(Value::String(_)) => return None,
            Some(other) => Got::typed(other),
            None => Got::Nothing,
        };
        let location = Location::Pointer(format!("{at}/{name}"));
        Some((location, Expected::JsonType(JsonType::String), got))
    })
}
