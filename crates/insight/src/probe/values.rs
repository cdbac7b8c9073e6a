//! Values of parameters: what fits, what does not, what is there and what is not.

use super::bodies::misfits;
use crate::sample;
use faithful_clerk_check::classify::parameter_fits;
use faithful_clerk_contract::{Parameter, ParameterRule};
use faithful_clerk_shape::ShapeTable;

/// The names of a template's parameters.
pub(super) fn parameters_of(template: &str) -> Vec<String> {
    let parts = template.split('{').skip(1);
    parts.filter_map(|part| part.split_once('}')).map(|(name, _)| name.to_owned()).collect()
}

/// Texts that may not fit where values are written as text, each with words for what is wrong with it.
pub(super) fn wrong_texts(
    rule: &ParameterRule,
    shapes: &ShapeTable,
) -> Vec<(&'static str, String)> {
    let misfits: Vec<(&'static str, serde_json::Value)> = match rule {
        ParameterRule::Type(of) => misfits(&of.constrained, shapes),
        ParameterRule::Schema(schema) => sample::schema::misfitting(schema.spelled()),
    };
    let written = misfits.into_iter().filter_map(|(says, value)| match says {
        // All of them are text.
        "of another JSON type" => Some(("of another type", "x".to_owned())),
        says => (!value.is_object() && !value.is_null()).then(|| (says, text_of(&value))),
    });
    let others = ["x", "no such thing %", "-1", "?", ","].map(|text| ("wrong", text.to_owned()));
    written.chain(others).filter(|(_, text)| !text.is_empty()).collect()
}

/// A text that fits: the example that is given, else one that is made up.
pub(super) fn right_text(parameter: &Parameter, shapes: &ShapeTable) -> String {
    let example = parameter.example.as_ref().map(text_of);
    let fits = |text: &String| parameter_fits(&[text.as_str()], &parameter.rule, shapes);
    example.filter(fits).unwrap_or_else(|| made_up(&parameter.rule, shapes))
}

fn made_up(rule: &ParameterRule, shapes: &ShapeTable) -> String {
    text_of(&match rule {
        ParameterRule::Type(of) => sample::fitting(&of.constrained, shapes),
        ParameterRule::Schema(schema) => sample::schema::fitting(schema.spelled()),
    })
}

/// The value of a path parameter that is most likely of something: the example that is given, else 1 where that fits.
pub(super) fn known_id(parameter: Option<&Parameter>, shapes: &ShapeTable) -> String {
    const USUAL: &str = "1";
    match parameter {
        Some(parameter) if parameter.example.is_some() => right_text(parameter, shapes),
        Some(parameter) if !parameter_fits(&[USUAL], &parameter.rule, shapes) => {
            made_up(&parameter.rule, shapes)
        }
        _ => USUAL.to_owned(),
    }
}

/// A value of the form that is asked for, most likely of nothing.
pub(super) fn unknown_id(parameter: Option<&Parameter>, shapes: &ShapeTable) -> String {
    const UNLIKELY: [&str; 4] =
        ["no-such-thing-0", "987654321", "00000000-0000-4000-8000-000000000000", "9001"];
    let Some(parameter) = parameter else { return UNLIKELY[0].to_owned() };
    let fits = |text: &&str| parameter_fits(&[*text], &parameter.rule, shapes);
    let example = parameter.example.as_ref().map(text_of);
    let unlikely = UNLIKELY.into_iter().filter(fits).find(|text| example.as_deref() != Some(text));
    let made_up = || Some(made_up(&parameter.rule, shapes)).filter(|text| text.is_ascii());
    let text = unlikely.map(str::to_owned).or_else(made_up);
    text.unwrap_or_else(|| UNLIKELY[0].to_owned())
}

/// A value as a parameter is written; a list with commas.
pub(super) fn text_of(value: &serde_json::Value) -> String {
    match value {
        serde_json::Value::String(text) => text.clone(),
        serde_json::Value::Array(items) => {
            items.iter().map(ToString::to_string).collect::<Vec<_>>().join(",").replace('"', "")
        }
        other => other.to_string(),
    }
}
