use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.allow",
    statement: "A 405 lists in Allow the methods that the resource supports.",
    basis: &[Basis::rfc(9110, "15.5.6"), Basis::rfc(9110, "10.2.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "The caller has the right path and the wrong method; Allow names the right ones.",
    fix: "Fill Allow from the routing table. HEAD and OPTIONS are optional in it.",
    check,
    met: &[Example::met(
        "the methods that the contract declares for the path",
        "PUT /v1/berths/A-3",
        "HTTP/1.1 405 Method Not Allowed\nAllow: GET, HEAD\n\
                 Content-Type: application/problem+json\n\n\
                 {\"title\":\"Method Not Allowed\",\"status\":405}",
    )],
    broken: &[
        Example::broken(
            "no Allow",
            "PUT /v1/berths/A-3",
            "HTTP/1.1 405 Method Not Allowed\nContent-Type: application/problem+json\n\n\
                     {\"title\":\"Method Not Allowed\",\"status\":405}",
            &[("header Allow", "no such header")],
        ),
        Example::broken(
            "Allow names the very method that was refused",
            "PUT /v1/berths/A-3",
            "HTTP/1.1 405 Method Not Allowed\nAllow: GET, PUT\n\
                     Content-Type: application/problem+json\n\n\
                     {\"title\":\"Method Not Allowed\",\"status\":405}",
            &[("header Allow", "GET, PUT")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.status() != Some(405) {
        return ClauseOutcome::NotApplicable;
    }
    let Some(got) = broken(classified) else { return ClauseOutcome::Met };
    let offered = classified.allowed_methods();
    let expected = match offered.as_slice() {
        [] => Expected::SupportedMethods,
        methods => Expected::Methods(methods.iter().map(ToString::to_string).collect()),
    };
    findings.add(Location::header("Allow"), expected, got);
    ClauseOutcome::Met
}

/// What Allow is, where a 405 needs another.
pub(super) fn broken(classified: &Classified<'_>) -> Option<Got> {
    let response = classified.response().filter(|response| response.status == 405)?;
    if !response.headers.has("allow") {
        return Some(Got::NoHeader);
    }
    let offered = classified.allowed_methods();
    let seen: Vec<&str> = response
        .headers
        .all("allow")
        .flat_map(|value| value.split(','))
        .map(str::trim)
        .filter(|method| !method.is_empty())
        .collect();
    let lacks = offered.iter().any(|method| !seen.contains(method));
    let free = |method: &str| matches!(method, "HEAD" | "OPTIONS");
    let more = seen.iter().any(|method| !offered.contains(method) && !free(method));
    if offered.is_empty() || !(lacks || more) {
        return None;
    }
    let listed = || Got::List(seen.iter().map(ToString::to_string).collect());
    Some(if seen.is_empty() { Got::EmptyList } else { listed() })
}
