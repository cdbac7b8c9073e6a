//! How a situation was recognised, in words: what in the request, the contract or the response shows it.

use super::{Classified, RouteMatch};
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::json::Json;
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;

/// A situation and what shows it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SituationEvidence {
    /// The situation.
    pub situation: Situation,
    /// What shows it.
    pub evidence: String,
    /// Does it decide about the response, by the contract's order?
    pub decides: bool,
}

/// Every situation of an exchange, each with what shows it. Where the request shows none and the response is an
/// error, the one that the response tells of.
#[must_use]
pub fn recognised(classified: &Classified<'_>) -> Vec<SituationEvidence> {
    let situations = &classified.situations;
    let mut found: Vec<SituationEvidence> = situations
        .holds
        .iter()
        .map(|situation| SituationEvidence {
            situation,
            evidence: by_request(classified, situation),
            decides: situations.decides(situation),
        })
        .collect();
    if found.is_empty()
        && let Some(situation) = classified.grid_situation()
    {
        let status = classified.status().unwrap_or_default();
        let by = match classified.fault() {
            Some(fault) => format!("the response says so: {status}, the fault `{}`", fault.name),
            None => format!("the response says so: {status}"),
        };
        found.push(SituationEvidence { situation, evidence: by, decides: true });
    }
    found
}

fn by_request(classified: &Classified<'_>, situation: Situation) -> String {
    let contract = classified.contract;
    let of_case = |at: &&usize| {
        contract.cases.get(**at).is_some_and(|case| case.situation == Some(situation))
    };
    if let Some(case) =
        classified.situations.cases.iter().find(of_case).and_then(|at| contract.cases.get(*at))
    {
        return format!("the case `{}` says so", case.name);
    }
    let request = &classified.exchange.request;
    let rules = classified.rules();
    match situation {
        Situation::UnknownRoute => "no path of the contract matches".to_owned(),
        Situation::UnknownMethod => {
            format!("{} is not a standard HTTP method, and no endpoint has it", request.method)
        }
        Situation::MethodNotAllowed => match &classified.route {
            RouteMatch::MethodNotAllowed(_) => {
                format!("the path offers {}", classified.allowed_methods().join(", "))
            }
            RouteMatch::UnknownRoute | RouteMatch::Endpoint(..) => {
                "the path does not offer it".to_owned()
            }
        },
        Situation::MissingCredentials => {
            format!(
                "the endpoint requires credentials, and there is no {}",
                contract.credentials.join(" or ")
            )
        }
        Situation::NotAcceptable => {
            let produces = rules.produces.clone().unwrap_or_default();
            format!("`Accept` allows none of {}", produces.join(", "))
        }
        Situation::UnsupportedMediaType => {
            let accepts = rules.accepts.clone().unwrap_or_default();
            let sent = request.media().map(media::essence).unwrap_or_default();
            format!("the body is {sent}; accepted is {}", accepts.join(", "))
        }
        Situation::MissingBody => "the endpoint requires a body, and there is none".to_owned(),
        Situation::MalformedBody => malformed(&request.body),
        Situation::ContentTooLarge => {
            format!("the body is larger than {} bytes", rules.max_request_body.unwrap_or_default())
        }
        Situation::InvalidParameters | Situation::ResourceNotFound => {
            parameters(classified, situation)
        }
        Situation::InvalidBody => fields(classified),
        Situation::PreconditionRequired => {
            let required = rules.requires.iter().flatten();
            let missing = required.filter(|(name, _)| !request.headers.has(name));
            let names: Vec<&str> = missing.map(|(name, _)| name.as_str()).collect();
            format!("there is no {}", names.join(" and no "))
        }
        _ => "the contract says so".to_owned(),
    }
}

fn malformed(body: &RequestBody<'_>) -> String {
    let RequestBody::Present(content) = body else {
        return "the body is not valid JSON".to_owned();
    };
    match content.decode().map(|bytes| Json::read(&bytes)) {
        Ok(Json::Malformed(reason)) => format!("the body is not valid JSON: {reason}"),
        _ => "the body is not valid JSON".to_owned(),
    }
}

/// So many places are told; the rest is counted.
const MOST_TOLD: usize = 8;

fn fields(classified: &Classified<'_>) -> String {
    let invalid = &classified.situations.invalid;
    let told = invalid.iter().take(MOST_TOLD).map(|mismatch| {
        let pointer =
            if mismatch.pointer.is_empty() { "the whole body" } else { &mismatch.pointer };
        format!("{pointer} is {}", mismatch.kind.words())
    });
    let told: Vec<String> = told.collect();
    match invalid.len().saturating_sub(told.len()) {
        0 => told.join(", "),
        more => format!("{} and {more} more", told.join(", ")),
    }
}

fn parameters(classified: &Classified<'_>, situation: Situation) -> String {
    let mine = classified.situations.parameters.iter().filter(|one| one.situation == situation);
    let told: Vec<String> = mine
        .take(MOST_TOLD)
        .map(|parameter| {
            let what = if parameter.is_missing { "is missing" } else { "breaks its rule" };
            format!("{} in the {} {what}", parameter.name, parameter.location.name())
        })
        .collect();
    told.join(", ")
}
