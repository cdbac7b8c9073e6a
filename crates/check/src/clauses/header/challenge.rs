use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::headers::is_token;

pub(super) static CLAUSE: Clause = Clause {
    name: "header.challenge",
    statement: "A 401 has a challenge in WWW-Authenticate, a 407 one in Proxy-Authenticate.",
    basis: &[Basis::rfc(9110, "15.5.2"), Basis::rfc(9110, "15.5.8"), Basis::rfc(9110, "11.6.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "The challenge says how to authenticate. Without it a generic client can only give up.",
    fix: "Send at least `WWW-Authenticate: Bearer`, for a missing token and for a wrong one.",
    check,
    met: &[Example::met(
        "a challenge",
        "POST /v1/reservations\nContent-Type: application/json\n\n\
                  {\"vessel_id\":\"OB1234\",\"nights\":2}",
        "HTTP/1.1 401 Unauthorized\nWWW-Authenticate: Bearer\n\
                 Content-Type: application/problem+json\n\n\
                 {\"title\":\"Unauthorized\",\"status\":401}",
    )],
    broken: &[Example::broken(
        "no challenge",
        "POST /v1/reservations\nContent-Type: application/json\n\n\
                  {\"vessel_id\":\"OB1234\",\"nights\":2}",
        "HTTP/1.1 401 Unauthorized\nContent-Type: application/problem+json\n\n\
                 {\"title\":\"Unauthorized\",\"status\":401}",
        &[("header WWW-Authenticate", "no such header")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let name = match classified.status() {
        Some(401) => "WWW-Authenticate",
        Some(407) => "Proxy-Authenticate",
        _ => return ClauseOutcome::NotApplicable,
    };
    let Some(response) = classified.response() else { return ClauseOutcome::NotApplicable };
    let challenges: Vec<&str> = response.headers.all(name).collect();
    if challenges.is_empty() {
        findings.add(Location::header(name), Expected::Challenge, Got::NoHeader);
    } else if !challenges.iter().any(|value| starts_with_scheme(value)) {
        let got = Got::header(format!("\"{}\"", challenges.join(", ")));
        findings.add(Location::header(name), Expected::Challenge, got);
    }
    ClauseOutcome::Met
}

/// `challenge = auth-scheme [ … ]`, and a scheme is a token (RFC 9110 sections 11.1 and 11.3).
fn starts_with_scheme(value: &str) -> bool {
    let scheme = value.trim().split([' ', ',']).next().unwrap_or_default();
    is_token(scheme)
}
