//! The responses that an operation documents.

use std::ops::RangeInclusive;

use serde_json::Value;

use super::description::DescriptionReader;
use super::operation::OperationSource;
use crate::{DocumentedHeader, DocumentedResponse, DocumentedResponses};
use faithful_clerk_model::json::pointer::{join, tokens};
use faithful_clerk_model::media;
use faithful_clerk_schema::{Direction, DocumentId};

/// What the documented responses say.
#[derive(Default)]
pub(super) struct ResponsesReader {
    pub(super) success: Option<Vec<u16>>,
    pub(super) produces: Option<Vec<String>>,
    pub(super) documented: DocumentedResponses,
}

pub(super) fn documented(
    desk: &mut DescriptionReader<'_>,
    source: &OperationSource<'_>,
) -> ResponsesReader {
    let mut answers = ResponsesReader::default();
    let responses = source.operation.get("responses").and_then(Value::as_object);
    let (mut success, mut all_are_named) = (Vec::new(), true);
    let mut produces: Vec<String> = Vec::new();
    for (name, _) in responses.into_iter().flatten() {
        let Some(statuses) = statuses(name) else {
            if !name.starts_with("x-") {
                desk.warning(&format!("`{name}` is not a response status"), source.name);
            }
            continue;
        };
        let written = join(&join(&source.location, "responses"), name);
        let (id, location, response) = match desk.documents.follow(source.id, &written) {
            Ok(found) => found,
            Err(reason) => {
                desk.warning(&reason, source.name);
                continue;
            }
        };
        let is_error = *statuses.end() >= 400;
        let exact = statuses.start() == statuses.end();
        match (*statuses.start(), exact) {
            (200..=399, true) => success.push(*statuses.start()),
            (0 | 200..=399, false) => all_are_named = false,
            _ => {}
        }
        let mut content = Vec::new();
        let media_types = response.get("content").and_then(Value::as_object).into_iter().flatten();
        for (name, _) in media_types {
            let essence = media::essence(name).into_owned();
            let written = join(&join(&location, "content"), name);
            let (id, at, media) = match desk.documents.follow(id, &written) {
                Ok(found) => found,
                Err(reason) => {
                    desk.warning(&reason, source.name);
                    continue;
                }
            };
            let has_schema = media.get("schema").is_some() && covers_json(&essence);
            let place = join(&at, "schema");
            let schema = match (has_schema, is_error) {
                (false, _) => None,
                (true, true) => desk.schema((id, &place), Direction::Response, source.name),
                // Most successes of a large description are in no recording.
                (true, false) => {
                    desk.schema_for_later((id, &place), Direction::Response, source.name)
                }
            };
            if !is_error && !produces.contains(&essence) {
                produces.push(essence.clone());
            }
            content.push((essence, schema));
        }
        let component = component(&location).or_else(|| {
            let media = response.get("content")?.as_object()?.keys().next()?;
            let media = join(&join(&location, "content"), media);
            let (id, media, _) = desk.documents.follow(id, &media).ok()?;
            component(&desk.documents.follow(id, &join(&media, "schema")).ok()?.1)
        });
        let name = name.clone();
        let headers = headers(desk, id, &location, response, source.name);
        let response = DocumentedResponse { statuses, name, component, content, headers };
        answers.documented.responses.push(response);
    }
    answers.success = (!success.is_empty() && all_are_named).then_some(success);
    answers.produces = (!produces.is_empty()).then_some(produces);
    answers
}

/// The documented headers of a response; `Content-Type` is passed over (OpenAPI 3.1.1 section 4.8.17).
fn headers(
    desk: &mut DescriptionReader<'_>,
    id: DocumentId,
    location: &str,
    response: &Value,
    operation: &str,
) -> Vec<DocumentedHeader> {
    let mut found = Vec::new();
    let names = response.get("headers").and_then(Value::as_object).into_iter().flatten();
    for (name, _) in names.filter(|(name, _)| !name.eq_ignore_ascii_case("content-type")) {
        let written = join(&join(location, "headers"), name);
        let (id, location, header) = match desk.documents.follow(id, &written) {
            Ok(found) => found,
            Err(reason) => {
                desk.warning(&reason, operation);
                continue;
            }
        };
        let is_required = header.get("required") == Some(&Value::Bool(true));
        let has_schema = header.get("schema").is_some();
        let schema = {
            let place = join(&location, "schema");
            has_schema.then(|| desk.schema((id, &place), Direction::Response, operation)).flatten()
        };
        found.push(DocumentedHeader { name: name.clone(), is_required, schema });
    }
    found
}

/// Is this a media type of JSON, or a range in which one is?
pub(super) fn covers_json(essence: &str) -> bool {
    media::is_json(essence) || media::falls_under("application/json", essence)
}

/// The name of the component that stands at a place.
fn component(location: &str) -> Option<String> {
    let mut steps = tokens(location)?.into_iter();
    let is_component = steps.next()? == "components";
    let (_, name) = (steps.next()?, steps.next()?);
    (is_component && steps.next().is_none()).then_some(name)
}

/// `404`, `4XX`, `default`.
fn statuses(name: &str) -> Option<RangeInclusive<u16>> {
    if name == "default" {
        return Some(0..=999);
    }
    if let Some(class) = name.strip_suffix("XX").or_else(|| name.strip_suffix("xx")) {
        let class: u16 = class.parse().ok().filter(|class| (1..=5).contains(class))?;
        return Some(class * 100..=class * 100 + 99);
    }
    let status = name.parse().ok().filter(|status| (100..=999).contains(status))?;
    Some(status..=status)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn statuses_are_exact_ranges_or_all() {
        assert_eq!(statuses("404"), Some(404..=404));
        assert_eq!(statuses("4XX"), Some(400..=499));
        assert_eq!(statuses("default"), Some(0..=999));
        for name in ["9XX", "4X", "x-note", "40", ""] {
            assert_eq!(statuses(name), None, "{name}");
        }
    }
}
