//! Parameters of a request, and which of them break their rules.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::collections::BTreeSet;

use serde_json::Value;

use super::request::RoutedRequest;
use faithful_clerk_contract::{
    ExtraParameters, Parameter, ParameterLocation, ParameterRule, Router, Rules, TemplateSegment,
};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_schema::CompiledSchema;
use faithful_clerk_shape::{ShapeTable, TypeName, text_fits};

/// A parameter that breaks its rule.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct InvalidParameter {
    /// Where it stands.
    pub location: ParameterLocation,
    /// Its name.
    pub name: String,
    /// What is wrong with it.
    pub problem: ParameterProblem,
    /// What its wrong form is.
    pub situation: Situation,
}

/// What is wrong with a parameter.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ParameterProblem {
    /// It is missing.
    Missing,
    /// It breaks its rule.
    Invalid,
    /// The contract refuses parameters without a rule, and this is one.
    Unknown,
    /// The contract refuses parameters that stand more than once, and this one does.
    Repeated,
}

/// What came of looking at the parameters.
pub(super) struct ParameterResult {
    pub(super) invalid: Vec<InvalidParameter>,
    /// May there be more that nobody knows of?
    pub(super) is_open: bool,
    /// Does the request have nothing that could be one of them, so that it could only be missing?
    pub(super) has_none: bool,
}

pub(super) fn invalid_parameters(
    asked: &RoutedRequest<'_, '_>,
    template: &str,
    rules: &Rules,
) -> ParameterResult {
    let parameters = rules.parameters();
    if parameters.is_empty() && rules.unknown_parameters.is_none() {
        let has_none = !template.contains('{') && asked.target.query().next().is_none();
        return ParameterResult { invalid: Vec::new(), is_open: true, has_none };
    }
    let values = ParameterValues::of(asked, template);
    let known = |name: &str| {
        parameters
            .iter()
            .any(|known| known.location == ParameterLocation::Query && known.name == name)
    };
    let unknown = values.query.iter().filter(|(name, _)| !known(name));
    let unknown: BTreeSet<&str> = unknown.map(|(name, _)| name.as_ref()).collect();
    // A query parameter without a rule may be wrong in the eyes of the service, unless the contract says.
    let mut is_open = !unknown.is_empty() && rules.unknown_parameters.is_none();
    let mut invalid: Vec<InvalidParameter> = Vec::new();
    for parameter in parameters {
        let is_header = parameter.location == ParameterLocation::Header;
        if is_header && asked.exchange.request.headers.is_unknown(&parameter.name) {
            is_open = true;
            continue;
        }
        let values = values.of_parameter(parameter);
        match problem(parameter, &values, rules, &asked.contract.shapes) {
            Verdict::Valid => {}
            Verdict::Open => is_open = true,
            Verdict::Problem(problem) => invalid.push(InvalidParameter {
                location: parameter.location,
                name: parameter.name.clone(),
                problem,
                situation: parameter.if_invalid,
            }),
        }
    }
    if rules.unknown_parameters == Some(ExtraParameters::Refused) {
        invalid.extend(unknown.into_iter().map(|name| InvalidParameter {
            location: ParameterLocation::Query,
            name: name.to_owned(),
            problem: ParameterProblem::Unknown,
            situation: Situation::InvalidParameters,
        }));
    }
    ParameterResult { invalid, is_open, has_none: false }
}

enum Verdict {
    Valid,
    Open,
    Problem(ParameterProblem),
}

fn problem(parameter: &Parameter, values: &[&str], rules: &Rules, shapes: &ShapeTable) -> Verdict {
    let verdict = |fits, problem| if fits { Verdict::Valid } else { Verdict::Problem(problem) };
    let alone = |value: &&str| parameter_fits(std::slice::from_ref(value), &parameter.rule, shapes);
    match (values, rules.repeated_parameters) {
        ([], _) => verdict(parameter.optional, ParameterProblem::Missing),
        ([_, _, ..], Some(extra)) if !takes_list(&parameter.rule) => match extra {
            ExtraParameters::Refused => Verdict::Problem(ParameterProblem::Repeated),
            // Nobody knows which of them the service takes.
            ExtraParameters::Ignored if values.iter().all(alone) => Verdict::Valid,
            ExtraParameters::Ignored if values.iter().any(alone) => Verdict::Open,
            ExtraParameters::Ignored => Verdict::Problem(ParameterProblem::Invalid),
        },
        _ => verdict(parameter_fits(values, &parameter.rule, shapes), ParameterProblem::Invalid),
    }
}

/// Is the parameter an array, so that it may stand more than once?
fn takes_list(rule: &ParameterRule) -> bool {
    match rule {
        ParameterRule::Type(declared) => is_array(&declared.constrained.name),
        ParameterRule::Schema(schema) => schema.admits(&Value::Array(Vec::new())),
    }
}

fn is_array(name: &TypeName) -> bool {
    match name {
        TypeName::Array(_) => true,
        TypeName::Either(alternatives) => alternatives.iter().any(|one| is_array(&one.name)),
        _ => false,
    }
}

/// The values of a request's parameters, decoded; those of its path when somebody asks for them.
pub(super) struct ParameterValues<'p> {
    template: &'p str,
    path: OnceCell<Vec<(&'p str, &'p str)>>,
    query: Vec<(Cow<'p, str>, Cow<'p, str>)>,
    request: &'p RoutedRequest<'p, 'p>,
}

impl<'p> ParameterValues<'p> {
    pub(super) fn of(request: &'p RoutedRequest<'p, '_>, template: &'p str) -> Self {
        let query = request.target.query().collect();
        Self { template, path: OnceCell::new(), query, request }
    }

    fn path(&self) -> &[(&'p str, &'p str)] {
        self.path.get_or_init(|| {
            let segments = self.request.contract.segments(self.request.target);
            let patterns = Router::segments(self.template).unwrap_or_default();
            let names = self.template.trim_start_matches('/').split('/').map(name);
            let path = names.zip(patterns.iter().zip(segments));
            let value = |(name, (pattern, segment)): (
                Option<&'p str>,
                (&TemplateSegment, &'p Cow<'_, str>),
            )| { Some((name?, pattern.value(segment)?)) };
            path.filter_map(value).collect()
        })
    }

    fn of_parameter(&self, parameter: &Parameter) -> Vec<&str> {
        self.named(parameter.location, &parameter.name)
    }

    /// All values of that name.
    pub(super) fn named(&self, location: ParameterLocation, name: &str) -> Vec<&str> {
        match location {
            ParameterLocation::Path => {
                self.path().iter().filter(|(known, _)| *known == name).map(|(_, v)| *v).collect()
            }
            ParameterLocation::Query => {
                let named = self.query.iter().filter(|(known, _)| known == name);
                named.map(|(_, value)| value.as_ref()).collect()
            }
            ParameterLocation::Header => {
                self.request.exchange.request.headers.get(name).into_iter().collect()
            }
        }
    }
}

/// The name of a segment's parameter: of `{id}.pdf`, `id`.
fn name(segment: &str) -> Option<&str> {
    let (_, rest) = segment.split_once('{')?;
    rest.split_once('}').map(|(name, _)| name)
}

/// Do the values that a request gives a parameter fit its rule?
#[must_use]
pub fn parameter_fits(values: &[&str], rule: &ParameterRule, shapes: &ShapeTable) -> bool {
    match rule {
        ParameterRule::Type(rule) => match values {
            [value] => text_fits(value, &rule.constrained, shapes),
            // Repeated values are a list, written otherwise.
            values => text_fits(&values.join(","), &rule.constrained, shapes),
        },
        ParameterRule::Schema(schema) => schema_admits(schema, values),
    }
}

/// A text may stand for itself, for a number or a switch, or for a list.
fn schema_admits(schema: &CompiledSchema, values: &[&str]) -> bool {
    let scalar = |text: &str| {
        let read = serde_json::from_str::<Value>(text).ok();
        read.filter(|value| value.is_number() || value.is_boolean())
    };
    let single = match values {
        [text] => {
            schema.admits(&Value::from(*text))
                || scalar(text).is_some_and(|value| schema.admits(&value))
        }
        _ => false,
    };
    let items: Vec<&str> = values.iter().flat_map(|value| value.split(',')).collect();
    let texts = || Value::from(items.clone());
    let scalars = || items.iter().map(|item| scalar(item)).collect::<Option<Vec<_>>>();
    single
        || schema.admits(&texts())
        || scalars().is_some_and(|items| schema.admits(&Value::Array(items)))
}
