//! The headers of a drafted response.

use crate::sample;
use faithful_clerk_check::classify::Classified;
use faithful_clerk_contract::{ErrorContract, ErrorStyle, Fault, HeaderRequirement, HeaderRule};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_shape::TypeName;

/// The headers: those that are declared, and what a standard asks for besides.
pub(super) fn response_headers(
    contract: &ErrorContract,
    fault: &Fault,
    style: &ErrorStyle,
    classified: Option<&Classified<'_>>,
) -> Vec<(String, String)> {
    let mut headers = Vec::new();
    let media = fault.media.as_deref().or(style.error.media.as_deref());
    headers.extend(media.map(|media| ("Content-Type".to_owned(), media.to_owned())));
    let here = classified.and_then(|classified| classified.rules().error_headers.as_deref());
    let declared = fault.headers.iter().chain(here.unwrap_or_default()).chain(&style.error.headers);
    let declared: Vec<&HeaderRule> = declared.collect();
    let is_declared = |name: &str| declared.iter().any(|rule| rule.name.eq_ignore_ascii_case(name));
    headers.extend(of_standard(fault, classified).filter(|(name, _)| !is_declared(name)));
    for rule in declared {
        if headers.iter().any(|(known, _)| known.eq_ignore_ascii_case(&rule.name)) {
            continue;
        }
        let value = value(rule, contract, classified);
        headers.extend(value.map(|value| (rule.name.clone(), value)));
    }
    headers
}

/// What a standard asks for with a status: a challenge (RFC 9110 section 15.5.2), the methods (section 15.5.6), and what
/// would be accepted (section 15.5.16).
fn of_standard(fault: &Fault, classified: Option<&Classified<'_>>) -> Option<(String, String)> {
    let named = |name: &str, value: String| Some((name.to_owned(), value));
    match fault.status {
        401 => {
            // RFC 6750 section 3.1: where a token came, the challenge says what is wrong with it.
            let sent = classified.and_then(|one| one.exchange.request.headers.get("authorization"));
            let is_bearer =
                sent.is_some_and(|sent| sent.to_ascii_lowercase().starts_with("bearer"));
            let has_error = is_bearer
                || fault.is_for(Situation::InvalidCredentials)
                    && !fault.is_for(Situation::MissingCredentials);
            let challenge = if has_error { "Bearer error=\"invalid_token\"" } else { "Bearer" };
            named("WWW-Authenticate", challenge.to_owned())
        }
        405 => {
            let allowed = classified.map(|one| one.allowed_methods().join(", "));
            named("Allow", allowed.unwrap_or_else(|| "GET, HEAD".to_owned()))
        }
        415 => {
            let accepts = classified?.rules().accepts.as_ref()?;
            named("Accept", accepts.join(", "))
        }
        _ => None,
    }
}

/// A value as it is declared; none where it may be left out, or must not be there.
fn value(
    rule: &HeaderRule,
    contract: &ErrorContract,
    classified: Option<&Classified<'_>>,
) -> Option<String> {
    Some(match &rule.requirement {
        HeaderRequirement::Type(phrased) if phrased.optional => return None,
        HeaderRequirement::Type(phrased) => {
            if let TypeName::SameAsHeader(name) = &phrased.constrained.name
                && let Some(sent) =
                    classified.and_then(|one| one.exchange.request.headers.get(name))
            {
                return Some(sent.to_owned());
            }
            let value = sample::fitting(&phrased.constrained, &contract.shapes);
            value.as_str().map_or_else(|| value.to_string(), str::to_owned)
        }
        HeaderRequirement::Containing(members) => {
            let first = members.iter().filter_map(|one| one.split(" or ").next());
            first.collect::<Vec<_>>().join(", ")
        }
        HeaderRequirement::Challenge(scheme, parameters) => {
            let each = parameters.iter().map(|(name, value)| format!("{name}=\"{value}\""));
            format!("{scheme} {}", each.collect::<Vec<_>>().join(", ")).trim_end().to_owned()
        }
    })
}
