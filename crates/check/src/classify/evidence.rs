//! How a situation was recognised: what in the request, the contract or the response shows it.

use super::{Classified, ParameterProblem};
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::{
    Because, InvalidField, InvalidParameterRef, Measured, Pointer, Recorded,
};
use faithful_clerk_model::json::Json;
use faithful_clerk_model::media;
use faithful_clerk_model::situation::Situation;

/// A situation and what shows it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SituationEvidence {
    /// The situation.
    pub situation: Situation,
    /// What shows it.
    pub evidence: Because,
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
        let fault = classified.fault().map(|fault| fault.name.clone());
        let evidence = Because::ResponseSays(status, fault);
        found.push(SituationEvidence { situation, evidence, decides: true });
    }
    found
}

/// What a probe meant by the request.
#[must_use]
pub fn by_intention(classified: &Classified<'_>) -> Because {
    match &classified.situations.intention {
        Some(intention) => Because::Intended(Recorded::text(intention.request.clone())),
        None => Because::Contract,
    }
}

/// What in the request, or in a case of the contract, shows the situation.
#[must_use]
pub fn by_request(classified: &Classified<'_>, situation: Situation) -> Because {
    let contract = classified.contract;
    let of_case = |at: &&usize| {
        contract.cases.get(**at).is_some_and(|case| case.situation == Some(situation))
    };
    if let Some(case) =
        classified.situations.cases.iter().find(of_case).and_then(|at| contract.cases.get(*at))
    {
        return Because::Case(case.name.clone());
    }
    if let Some(intention) = &classified.situations.intention
        && intention.situation == Some(situation)
    {
        return by_intention(classified);
    }
    let request = &classified.exchange.request;
    let rules = classified.rules();
    match situation {
        Situation::UnknownRoute => Because::UnknownRoute,
        Situation::UnknownMethod => Because::UnknownMethod(request.method.to_string()),
        Situation::MethodNotAllowed => Because::OtherMethods(
            classified.allowed_methods().iter().map(ToString::to_string).collect(),
        ),
        Situation::MissingCredentials => Because::NoCredentials(match &rules.security {
            Some(alternatives) => {
                let mut names: Vec<String> = Vec::new();
                for scheme in alternatives.iter().flatten() {
                    if !names.iter().any(|known| known == scheme.name()) {
                        names.push(scheme.name().to_owned());
                    }
                }
                names
            }
            None => contract.credentials.clone(),
        }),
        Situation::NotAcceptable => {
            Because::NotAcceptable(rules.produces.clone().unwrap_or_default())
        }
        Situation::UnsupportedMediaType => {
            let sent = request.media().map(media::essence).unwrap_or_default();
            let accepted = rules.accepts.clone().unwrap_or_default();
            Because::UnsupportedMediaType(sent.to_string(), accepted)
        }
        Situation::MissingBody => Because::MissingBody,
        Situation::MalformedBody => malformed(&request.body),
        Situation::ContentTooLarge => {
            Because::LargeBody(rules.max_request_body.unwrap_or_default())
        }
        Situation::InvalidParameters | Situation::ResourceNotFound => {
            parameters(classified, situation)
        }
        Situation::InvalidBody => fields(classified),
        Situation::PreconditionRequired => {
            let required = rules.requires.iter().flatten();
            let is_missing =
                |name: &str| !request.headers.has(name) && !request.headers.is_unknown(name);
            let missing = required.filter(|(name, _)| is_missing(name));
            Because::MissingHeaders(missing.map(|(name, _)| name.clone()).collect())
        }
        _ => Because::Contract,
    }
}

fn malformed(body: &RequestBody<'_>) -> Because {
    let reason = match body {
        RequestBody::Present(content) => match content.decode().map(|bytes| Json::read(&bytes)) {
            Ok(Json::Malformed(reason)) => Some(Recorded::text(reason)),
            _ => None,
        },
        _ => None,
    };
    Because::MalformedBody(reason)
}

/// So many fields and parameters are told; the rest is counted.
const MOST_TOLD: usize = 8;

fn fields(classified: &Classified<'_>) -> Because {
    let invalid = &classified.situations.invalid;
    let first = invalid.iter().take(MOST_TOLD).map(|mismatch| InvalidField {
        field: Pointer::new(&mismatch.pointer),
        kind: mismatch.kind,
    });
    let more = Measured::count(invalid.len().saturating_sub(MOST_TOLD));
    Because::InvalidFields(first.collect(), more)
}

fn parameters(classified: &Classified<'_>, situation: Situation) -> Because {
    let mine = classified.situations.parameters.iter().filter(|one| one.situation == situation);
    let told = mine.take(MOST_TOLD).map(|parameter| {
        let (name, kind) = (parameter.name.clone(), parameter.location.name().to_owned());
        match parameter.problem {
            ParameterProblem::Missing => InvalidParameterRef::Missing(name, kind),
            ParameterProblem::Invalid => InvalidParameterRef::Invalid(name, kind),
            ParameterProblem::Unknown => InvalidParameterRef::Unknown(name, kind),
            ParameterProblem::Repeated => InvalidParameterRef::Repeated(name, kind),
        }
    });
    Because::InvalidParameters(told.collect())
}
