//! Parameters of an operation.

use serde_json::Value;

use super::description::DescriptionReader;
use super::operation::OperationSource;
use crate::{DeclaredType, Parameter, ParameterLocation, ParameterRule};
use faithful_clerk_model::json::pointer::{join, join_index};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::{Direction, DocumentId};
use faithful_clerk_shape::{ConstrainedType, TypeName};

/// Headers that are no parameters of their own (OpenAPI 3.1.1 section 4.8.12).
const NOT_PARAMETERS: [&str; 3] = ["accept", "content-type", "authorization"];

/// The parameters of the operation, and those of its path that it does not describe anew.
pub(super) fn parameters(
    desk: &mut DescriptionReader<'_>,
    source: &OperationSource<'_>,
) -> Vec<Parameter> {
    let mut found: Vec<Parameter> = Vec::new();
    for (owner, location) in [(source.operation, &source.location), (source.item, &source.above)] {
        let list = owner.get("parameters").and_then(Value::as_array);
        for index in 0..list.map_or(0, Vec::len) {
            let location = join_index(&join(location, "parameters"), index);
            let parameter = parameter(desk, source, source.id, &location);
            let same = |known: &Parameter, new: &Parameter| {
                known.location == new.location && known.name == new.name
            };
            found.extend(parameter.filter(|new| !found.iter().any(|known| same(known, new))));
        }
    }
    found
}

/// A parameter of the query that has one value.
pub(super) fn fixed_parameter((name, value): &(String, String)) -> Parameter {
    let constrained = ConstrainedType {
        name: TypeName::Exactly(Value::from(value.as_str())),
        limits: Vec::new(),
    };
    let declared = DeclaredType { text: format!("exactly {value}"), optional: false, constrained };
    Parameter {
        location: ParameterLocation::Query,
        name: name.clone(),
        optional: false,
        rule: ParameterRule::Type(declared),
        if_invalid: Situation::InvalidParameters,
        example: None,
    }
}

fn parameter(
    desk: &mut DescriptionReader<'_>,
    source: &OperationSource<'_>,
    id: DocumentId,
    location: &str,
) -> Option<Parameter> {
    let (id, location, value) = match desk.documents.follow(id, location) {
        Ok(found) => found,
        Err(reason) => {
            desk.warning(&reason, source.name);
            return None;
        }
    };
    let text = |name: &str| value.get(name).and_then(Value::as_str);
    let name = text("name")?.to_owned();
    let place_of = match text("in")? {
        "path" => ParameterLocation::Path,
        "query" => ParameterLocation::Query,
        "header" if NOT_PARAMETERS.contains(&name.to_ascii_lowercase().as_str()) => return None,
        "header" => ParameterLocation::Header,
        other => {
            desk.warning(&format!("parameters in {other} are not checked"), source.name);
            return None;
        }
    };
    if let Some(style) = text("style").filter(|style| !matches!(*style, "form" | "simple")) {
        desk.warning(&format!("parameters of style {style} are not checked"), source.name);
        return None;
    }
    if value.get("schema").is_none() {
        desk.warning("parameters without a schema are not checked", source.name);
        return None;
    }
    let at = join(&location, "schema");
    let is_object = desk
        .documents
        .follow(id, &at)
        .is_ok_and(|(_, _, schema)| schema.get("type").and_then(Value::as_str) == Some("object"));
    if is_object {
        desk.warning("parameters that are objects are not checked", source.name);
        return None;
    }
    let rule = ParameterRule::Schema(desk.schema((id, &at), Direction::Request, source.name)?);
    let optional =
        value.get("required") != Some(&Value::Bool(true)) && place_of != ParameterLocation::Path;
    let otherwise = Situation::InvalidParameters;
    let example = example(desk, id, &location, value).or_else(|| {
        let (_, _, schema) = desk.documents.follow(id, &at).ok()?;
        schema.get("example").or_else(|| schema.get("examples")?.get(0)).cloned()
    });
    Some(Parameter { location: place_of, name, optional, rule, if_invalid: otherwise, example })
}

/// The example of a parameter or of a media type: the one, or the first of several (OpenAPI 3.1.1 section 4.8.12.4).
pub(super) fn example(
    desk: &DescriptionReader<'_>,
    id: DocumentId,
    location: &str,
    value: &Value,
) -> Option<Value> {
    let several = || {
        let name = value.get("examples")?.as_object()?.keys().next()?;
        let at = join(&join(location, "examples"), name);
        let (_, _, example) = desk.documents.follow(id, &at).ok()?;
        // What a value is as data is a newer word for it.
        example.get("dataValue").or_else(|| example.get("value"))
    };
    value.get("example").or_else(several).cloned()
}
