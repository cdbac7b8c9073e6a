//! One operation: what its requests have to be.

use serde_json::Value;

use super::description::DescriptionReader;
use super::parameters::{example, parameters};
use super::responses::{covers_json, documented};
use crate::{Authentication, BodyPresence, BodyRules, CredentialScheme, Rules};
use faithful_clerk_model::json::pointer::{from_tokens, join};
use faithful_clerk_model::media;
use faithful_clerk_schema::{Direction, DocumentId};

/// Where an operation stands.
pub(super) struct OperationSource<'v> {
    pub(super) id: DocumentId,
    /// The operation's own place.
    pub(super) location: String,
    /// The place of its path.
    pub(super) above: String,
    pub(super) item: &'v Value,
    pub(super) operation: &'v Value,
    pub(super) root: &'v Value,
    /// `METHOD /path`, for notices.
    pub(super) name: &'v str,
}

pub(super) fn rules(desk: &mut DescriptionReader<'_>, source: &OperationSource<'_>) -> Rules {
    let responses = documented(desk, source);
    let (accepts, body) = body(desk, source);
    let security = security(desk, source);
    Rules {
        success: responses.success,
        produces: responses.produces,
        documented: Some(responses.documented),
        auth: security.as_ref().map(|alternatives| match alternatives.is_empty() {
            true => Authentication::None,
            false => Authentication::Required,
        }),
        security: security.filter(|alternatives| !alternatives.is_empty()),
        parameters: Some(parameters(desk, source)),
        accepts,
        body,
        ..Rules::default()
    }
}

/// Security requirements are alternatives; an empty one makes them optional (OpenAPI 3.1.1 section
/// 4.8.30).
///
/// None where they are optional or of a kind that a recording does not show; empty where none are needed.
fn security(
    desk: &DescriptionReader<'_>,
    source: &OperationSource<'_>,
) -> Option<Vec<Vec<CredentialScheme>>> {
    let own = source.operation.get("security").or_else(|| source.root.get("security"));
    let schemes = |requirement: &Value| -> Option<Vec<CredentialScheme>> {
        let names = requirement.as_object().filter(|names| !names.is_empty())?.keys();
        let at = |name: &String| from_tokens(&["components", "securitySchemes", name]);
        names.map(|name| desk.scheme_at(&at(name))).collect()
    };
    own?.as_array()?.iter().map(schemes).collect()
}

/// The media types of the body, and its rules.
fn body(
    desk: &mut DescriptionReader<'_>,
    source: &OperationSource<'_>,
) -> (Option<Vec<String>>, Option<BodyRules>) {
    if source.operation.get("requestBody").is_none() {
        return (None, None);
    }
    let location = join(&source.location, "requestBody");
    let (id, location, body) = match desk.documents.follow(source.id, &location) {
        Ok(found) => found,
        Err(reason) => {
            desk.warning(&reason, source.name);
            return (None, None);
        }
    };
    let Some(content) = body.get("content").and_then(Value::as_object) else { return (None, None) };
    let accepts: Vec<String> =
        content.keys().map(|media| media::essence(media).into_owned()).collect();
    let required = match body.get("required") {
        Some(Value::Bool(true)) => BodyPresence::Yes,
        _ => BodyPresence::No,
    };
    let mut rules = BodyRules { required, ..BodyRules::default() };
    let json = content.keys().find(|media| covers_json(&media::essence(media)));
    if let Some(media) = json {
        let written = join(&join(&location, "content"), media);
        let (id, location, media) = match desk.documents.follow(id, &written) {
            Ok(found) => found,
            Err(reason) => {
                desk.warning(&reason, source.name);
                return (Some(accepts), None);
            }
        };
        rules.example = example(desk, id, &location, media);
        let location = join(&location, "schema");
        let known = desk.documents.follow(id, &location).ok().and_then(|(_, _, schema)| {
            let members = schema.get("properties")?.as_object()?;
            Some(members.keys().cloned().collect())
        });
        rules.members = known;
        if media.get("schema").is_some() {
            rules.schema = desk.schema((id, &location), Direction::Request, source.name);
        }
    }
    let has_rules = rules.schema.is_some() || rules.required == BodyPresence::Yes;
    (Some(accepts).filter(|types| !types.is_empty()), has_rules.then_some(rules))
}
