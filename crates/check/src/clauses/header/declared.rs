use serde_json::Value;

use super::{allow, challenge, retry_after};
use crate::classify::{Classified, StatusVerdict};
use crate::clauses::contracts::DEMANDING;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{DocumentedHeader, HeaderRequirement, HeaderRule};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::ResponseBody;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};
use faithful_clerk_model::headers::elements;
use faithful_clerk_shape::{TypeName, text_fits};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.declared",
    statement: "A response has the declared headers, with the declared values.",
    basis: &[
        Basis::Contract("headers"),
        Basis::Contract("success-headers"),
        Basis::Contract("openapi"),
    ],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A declared header is one that somebody's code reads.",
    fix: "Set the header in the layer that every response passes through, not in single handlers.",
    check,
    met: &[Example::met(
        "the declared header",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Not Found"}"#,
    )
    .under(DEMANDING)],
    broken: &[
        Example::broken(
            "no such header",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"title":"Not Found"}"#,
            &[("header X-Request-Id", "no such header")],
        )
        .under(DEMANDING),
        Example::broken(
            "another format than declared",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
X-Request-Id: 17
Content-Type: application/problem+json

{"title":"Not Found"}"#,
            &[("header X-Request-Id", "17")],
        )
        .under(DEMANDING),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(response) = classified.response() else { return ClauseOutcome::NotApplicable };
    let rules: Vec<&HeaderRule> = if classified.is_error() {
        of_error(classified)
    } else {
        let served = matches!(classified.verdict, StatusVerdict::Served);
        classified.rules().success_headers.iter().flatten().filter(|_| served).collect()
    };
    let is_own = |name: &str| rules.iter().any(|rule| rule.name.eq_ignore_ascii_case(name));
    let documented = classified.documented().map(|one| one.headers.as_slice()).unwrap_or_default();
    let documented: Vec<&DocumentedHeader> =
        documented.iter().filter(|header| !is_own(&header.name)).collect();
    if rules.is_empty() && documented.is_empty() {
        return ClauseOutcome::NotApplicable;
    }
    for header in documented {
        by_description(classified, header, findings);
    }
    for rule in rules {
        // Headers about the content are not asked for where there is none.
        let about_content = rule.name.to_ascii_lowercase().starts_with("content-");
        if about_content && matches!(response.body, ResponseBody::Empty) {
            continue;
        }
        let values: Vec<&str> = response.headers.all(&rule.name).collect();
        let value = values.join(", ");
        let (expected, is_kept) = match &rule.requirement {
            HeaderRequirement::Type(phrased) => {
                let fits = || match &phrased.constrained.name {
                    TypeName::SameAsHeader(name) => {
                        // A header that is the same as itself is the one of the request, given back.
                        let of_request = || classified.exchange.request.headers.get(name);
                        let other = match name.eq_ignore_ascii_case(&rule.name) {
                            true => of_request().map(str::to_owned),
                            false => classified.header_value(name),
                        };
                        other.is_none_or(|other| other == value)
                    }
                    _ => text_fits(&value, &phrased.constrained, &classified.contract.shapes),
                };
                let kept = if values.is_empty() { phrased.optional } else { fits() };
                (Expected::HeaderType(phrased.text.clone()), kept)
            }
            HeaderRequirement::Challenge(scheme, parameters) => {
                let kept = values.iter().any(|value| has_challenge(value, scheme, parameters));
                (Expected::HeaderType(rule.requirement.words()), kept)
            }
            HeaderRequirement::Containing(members) => {
                let seen: Vec<&str> = elements(&value).collect();
                let has = |one: &String| {
                    one.split(" or ")
                        .any(|one| seen.iter().any(|seen| seen.eq_ignore_ascii_case(one)))
                };
                (Expected::ListContaining(members.clone()), members.iter().all(has))
            }
        };
        if !is_kept && !is_told_by_the_standard(classified, &rule.name) {
            let got = if values.is_empty() { Got::NoHeader } else { Got::header(value) };
            findings.add(Location::Header(rule.name.clone().into()), expected, got);
        }
    }
    ClauseOutcome::Met
}

/// What a description documents of a header.
fn by_description(classified: &Classified<'_>, header: &DocumentedHeader, findings: &mut Findings) {
    let Some(response) = classified.response() else { return };
    let values: Vec<&str> = response.headers.all(&header.name).collect();
    let value = values.join(", ");
    if is_told_by_the_standard(classified, &header.name) {
        return;
    }
    let location = || Location::Header(header.name.clone().into());
    if values.is_empty() {
        if header.is_required {
            let expected = Expected::DocumentedHeader;
            findings.add(location(), expected, Got::NoHeader).because(Because::Description);
        }
        return;
    }
    // A header's value is text; a schema may mean a number or the like by it.
    let Some(schema) = &header.schema else { return };
    let read = serde_json::from_str::<Value>(&value).ok();
    let is_scalar = |value: &Value| value.is_number() || value.is_boolean();
    let candidates = [Some(Value::from(value.as_str())), read.filter(is_scalar)];
    let items: Value = value.split(',').map(|item| Value::from(item.trim())).collect();
    let fits = candidates.iter().flatten().chain([&items]).any(|one| schema.admits(one));
    if !fits
        && let Some(mismatch) = schema.mismatches(&Value::from(value.as_str())).into_iter().next()
    {
        let (expected, got) = (mismatch.expected, Got::header(value));
        findings.add(location(), expected, got).because(Because::Description);
    }
}

/// The headers that are declared for an error: those of the fault win over those of the endpoint, and those over the ones
/// of every error.
pub(super) fn of_error<'a>(classified: &Classified<'a>) -> Vec<&'a HeaderRule> {
    let own = classified.fault().map_or(&[][..], |fault| &fault.headers).iter();
    let here = classified.rules().error_headers.iter().flatten();
    let mut rules: Vec<&HeaderRule> = Vec::new();
    for rule in own.chain(here).chain(&classified.style().error.headers) {
        if !rules.iter().any(|known| known.name.eq_ignore_ascii_case(&rule.name)) {
            rules.push(rule);
        }
    }
    rules
}

/// Does the header field break what a standard asks of it? Then that is the finding, whatever the contract adds.
fn is_told_by_the_standard(classified: &Classified<'_>, name: &str) -> bool {
    let is = |other: &str| name.eq_ignore_ascii_case(other);
    let response = classified.response();
    if is("Retry-After") {
        let value = response.and_then(|response| response.headers.get("retry-after"));
        return value.is_some_and(|value| !retry_after::is_delay_or_date(value));
    }
    if is("Allow") {
        return allow::broken(classified).is_some();
    }
    let required = challenge::required(classified).filter(|required| is(required));
    required.is_some_and(|required| challenge::broken(classified, required).is_some())
}

/// Does a header field's value hold a challenge of that scheme, with those parameters (RFC 9110 section 11.3)?
fn has_challenge(value: &str, scheme: &str, parameters: &[(String, String)]) -> bool {
    let mut is_here = false;
    let mut seen: Vec<(&str, &str)> = Vec::new();
    elements(value).any(|element| {
        let (before, text) = element.split_once('=').unwrap_or((element, ""));
        // A scheme stands before a space, or alone; a parameter is one word and has a value.
        let name = match before.trim_end().split_once(' ') {
            None if element.contains('=') => before,
            begun => {
                let (own, name) = begun.unwrap_or((before, ""));
                is_here = own.eq_ignore_ascii_case(scheme);
                seen.clear();
                name
            }
        };
        seen.push((name.trim(), text.trim().trim_matches('"')));
        let has = |(name, text): &(String, String)| {
            seen.iter().any(|(known, value)| known.eq_ignore_ascii_case(name) && value == text)
        };
        is_here && parameters.iter().all(has)
    })
}
