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
    let Some(response) = classified.response().filter(|response| response.status == 405) else {
        return ClauseOutcome::NotApplicable;
    };
    let offered = classified.allowed_methods();
    let expected = match offered.as_slice() {
        [] => Expected::SupportedMethods,
        methods => Expected::Methods(methods.iter().map(ToString::to_string).collect()),
    };
    let location = Location::header("Allow");
    if !response.headers.has("allow") {
        findings.add(location, expected, Got::NoHeader);
        return ClauseOutcome::Met;
    }
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
    if !offered.is_empty() && (lacks || more) {
        let listed = || Got::List(seen.iter().map(ToString::to_string).collect());
        let got = if seen.is_empty() { Got::EmptyList } else { listed() };
        findings.add(location, expected, got);
    }
    ClauseOutcome::Met
}
