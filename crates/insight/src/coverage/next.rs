//! Requests worth trying: what nobody has tried, the most telling first.

use std::collections::BTreeMap;

use serde_json::{Map, Value};

use super::Coverage;
use crate::sample;
use faithful_clerk_check::grid::CellMark;
use faithful_clerk_check::ledger::{Column, EndpointRow};
use faithful_clerk_contract::{
    Authentication, BodyRules, Endpoint, ErrorContract, ParameterLocation, ParameterRule, Rules,
};
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;

/// So many requests are named.
pub const MOST_WORTH: usize = 10;

/// A request worth trying.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SuggestedRequest {
    /// The method.
    pub method: String,
    /// The path; what nobody can make up is left in braces.
    pub target: String,
    /// The body, where it takes one to say what is meant.
    pub body: Option<String>,
    /// The media type of the body.
    pub media: Option<String>,
    /// The situation that it tries; none: a request in order.
    pub situation: Option<Situation>,
    /// What is special about it.
    pub how: String,
    /// The faults that would be right.
    pub faults: Vec<String>,
}

/// How telling it is to try a situation: where services usually go wrong, by experience.
fn telling(column: Column) -> i32 {
    match column {
        Some(Situation::InvalidBody) => 20,
        Some(Situation::MalformedBody) => 18,
        Some(Situation::ResourceNotFound) => 17,
        Some(Situation::InvalidParameters) => 16,
        Some(Situation::UnknownRoute) => 15,
        Some(Situation::MethodNotAllowed | Situation::MissingCredentials) => 14,
        Some(Situation::MissingBody) => 12,
        Some(Situation::UnsupportedMediaType | Situation::Conflict) => 11,
        Some(Situation::Forbidden | Situation::InvalidCredentials) => 9,
        Some(Situation::PreconditionRequired | Situation::PreconditionFailed) => 9,
        None => 8,
        Some(_) => 6,
    }
}

/// The requests worth trying, at most [`MOST_WORTH`].
///
/// One after the other is chosen: a telling situation before others, one that was tried nowhere before one
/// that was, and what is like those already chosen later.
#[must_use]
pub fn worth_trying(contract: &ErrorContract, coverage: &Coverage<'_>) -> Vec<SuggestedRequest> {
    let mut open: Vec<(&EndpointRow, Column)> = Vec::new();
    let mut tried: BTreeMap<Column, u32> = BTreeMap::new();
    let mut at_row: BTreeMap<&EndpointRow, u32> = BTreeMap::new();
    for (row, cells) in &coverage.grid.rows {
        for (column, (mark, _)) in coverage.grid.columns.iter().zip(cells) {
            match mark {
                CellMark::NotCovered | CellMark::NotChecked => open.push((row, *column)),
                CellMark::Met | CellMark::Broken => {
                    *tried.entry(*column).or_default() += 1;
                    *at_row.entry(row).or_default() += 1;
                }
                CellMark::NotApplicable => {}
            }
        }
    }
    let mut chosen: Vec<SuggestedRequest> = Vec::new();
    let (mut rows, mut columns): (BTreeMap<&EndpointRow, i32>, BTreeMap<Column, i32>) =
        Default::default();
    while chosen.len() < MOST_WORTH {
        let score = |(row, column): &(&EndpointRow, Column)| {
            let fresh = i32::from(!tried.contains_key(column)) * 5;
            let bare = i32::from(!at_row.contains_key(row)) * 2;
            let again = rows.get(row).copied().unwrap_or_default() * 4
                + columns.get(column).copied().unwrap_or_default() * 3;
            // Nobody knows which parameters there are: that is worth less.
            let unknown = *column == Some(Situation::InvalidParameters)
                && row
                    .endpoint()
                    .and_then(|id| contract.endpoint(id))
                    .is_some_and(|endpoint| endpoint.rules.parameters().is_empty());
            telling(*column) + fresh + bare - again - i32::from(unknown) * 8
        };
        let best =
            open.iter().enumerate().max_by_key(|(at, one)| (score(one), std::cmp::Reverse(*at)));
        let Some((at, _)) = best else { break };
        let (row, column) = open.remove(at);
        *rows.entry(row).or_default() += 1;
        *columns.entry(column).or_default() += 1;
        chosen.extend(request(contract, row, column));
    }
    chosen
}

fn request(
    contract: &ErrorContract,
    row: &EndpointRow,
    column: Column,
) -> Option<SuggestedRequest> {
    let faults = |rules: &Rules| {
        let faults = rules.faults.iter().filter_map(|id| contract.fault(*id));
        let right = faults.filter(|fault| column.is_some_and(|s| fault.when.contains(&s)));
        right.map(|fault| fault.name.clone()).collect()
    };
    let bare = |method: &str, target: String, how: &str, faults| SuggestedRequest {
        method: method.to_owned(),
        target,
        body: None,
        media: None,
        situation: column,
        how: how.to_owned(),
        faults,
    };
    match row {
        EndpointRow::UnknownRoute => {
            let target = "/no-such-path".to_owned();
            Some(bare("GET", target, "a path that leads nowhere", faults(&contract.everywhere)))
        }
        EndpointRow::OtherMethods(id) => {
            let endpoint = contract.endpoint(*id).or(contract.endpoints.first())?;
            let offers = |method: &str| {
                contract
                    .endpoints
                    .iter()
                    .any(|other| other.path == endpoint.path && other.method == method)
            };
            let method = ["DELETE", "PUT", "PATCH", "POST"].into_iter().find(|m| !offers(m))?;
            let target = endpoint.path.clone();
            Some(bare(
                method,
                target,
                "a method that the path does not offer",
                faults(&contract.everywhere),
            ))
        }
        EndpointRow::Endpoint(id) => {
            let endpoint = contract.endpoint(*id)?;
            let faults = faults(&endpoint.rules);
            Some(at_endpoint(contract, endpoint, column, faults))
        }
    }
}

fn at_endpoint(
    contract: &ErrorContract,
    endpoint: &Endpoint,
    column: Column,
    faults: Vec<String>,
) -> SuggestedRequest {
    let rules = &endpoint.rules;
    let accepts = rules.accepts.iter().flatten().find(|range| media::is_json(range));
    let json = accepts.cloned().unwrap_or_else(|| "application/json".to_owned());
    let good = || rules.body.as_ref().map(|body| whole(contract, body));
    let mut worth = SuggestedRequest {
        method: endpoint.method.clone(),
        target: format!("{}{}", endpoint.path, query(contract, rules, column)),
        body: None,
        media: None,
        situation: column,
        how: how(contract, rules, column),
        faults,
    };
    let body = match column {
        Some(Situation::InvalidBody) => rules.body.as_ref().map(|body| wrong(contract, body)),
        Some(Situation::MalformedBody) => good().map(|good| cut(&good.to_string())),
        Some(Situation::MissingBody | Situation::ContentTooLarge) => None,
        Some(Situation::UnsupportedMediaType) => {
            worth.media = Some("text/plain".to_owned());
            return SuggestedRequest { body: Some("no JSON".to_owned()), ..worth };
        }
        _ => good().map(|good| good.to_string()),
    };
    worth.media = body.as_ref().map(|_| json);
    SuggestedRequest { body, ..worth }
}

fn how(contract: &ErrorContract, rules: &Rules, column: Column) -> String {
    let credentials = contract.credentials.join(" or ");
    let needs =
        if rules.auth == Some(Authentication::Required) { ", with credentials" } else { "" };
    let words = match column {
        None => return format!("a valid request{needs}"),
        Some(Situation::MissingCredentials) => return format!("without {credentials}"),
        Some(Situation::InvalidCredentials) => return format!("with a wrong {credentials}"),
        Some(Situation::Forbidden) => "as somebody who may not",
        Some(Situation::InvalidBody) => "every field wrong at once",
        Some(Situation::MalformedBody) => "a truncated body",
        Some(Situation::MissingBody) => "no body",
        Some(Situation::UnsupportedMediaType) => "a body of another media type",
        Some(Situation::InvalidParameters) => "every parameter wrong at once",
        Some(Situation::ResourceNotFound) => "an id that does not exist",
        Some(Situation::Conflict) => "the same request twice, or in a state that does not allow it",
        Some(Situation::ContentTooLarge) => "a body larger than is read",
        Some(Situation::NotAcceptable) => "`Accept` with no media type that the endpoint produces",
        Some(Situation::PreconditionRequired) => "without the header it requires",
        Some(Situation::PreconditionFailed) => "with a precondition that does not hold",
        Some(other) => return format!("so that it is {}{needs}", other.name()),
    };
    format!("{words}{needs}")
}

/// The query of a request: every parameter that has to be there, or every one wrong.
fn query(contract: &ErrorContract, rules: &Rules, column: Column) -> String {
    let is_wrong = column == Some(Situation::InvalidParameters);
    let mut pairs = url::form_urlencoded::Serializer::new(String::new());
    for parameter in
        rules.parameters().iter().filter(|parameter| parameter.location == ParameterLocation::Query)
    {
        let ParameterRule::Type(phrased) = &parameter.rule else { continue };
        let value = match is_wrong {
            true => sample::misfitting(&phrased.constrained, &contract.shapes),
            false if parameter.optional => None,
            false => Some(sample::fitting(&phrased.constrained, &contract.shapes)),
        };
        if let Some(value) = value {
            let text = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
            pairs.append_pair(&parameter.name, &text);
        }
    }
    let query = pairs.finish();
    if query.is_empty() { query } else { format!("?{query}") }
}

/// A body with the members that have to be there.
fn whole(contract: &ErrorContract, body: &BodyRules) -> Value {
    match (sample::of_body(body, &contract.shapes), &body.members) {
        (Some(whole), _) => whole,
        (None, Some(names)) => {
            names.iter().map(|name| (name.clone(), Value::from(sample::SOME_TEXT))).collect()
        }
        (None, None) => Value::Object(Map::new()),
    }
}

/// A body with every member wrong.
fn wrong(contract: &ErrorContract, body: &BodyRules) -> String {
    if let Some(of) = body.fields.as_ref().and_then(|fields| fields.of.as_ref()) {
        return sample::misfitting(of, &contract.shapes).unwrap_or_default().to_string();
    }
    let members: Map<String, Value> = match (&body.fields, &body.members) {
        (Some(fields), _) => fields
            .members
            .iter()
            .filter_map(|member| {
                let value = sample::misfitting(&member.constrained, &contract.shapes)?;
                Some((member.name.clone(), value))
            })
            .collect(),
        (None, Some(names)) => {
            names.iter().map(|name| (name.clone(), Value::Object(Map::new()))).collect()
        }
        (None, None) => Map::new(),
    };
    Value::Object(members).to_string()
}

/// The first half of a text.
fn cut(text: &str) -> String {
    text.chars().take((text.chars().count() / 2).max(1)).collect()
}
