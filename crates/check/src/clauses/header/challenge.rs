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
    let Some(name) = required(classified) else { return ClauseOutcome::NotApplicable };
    if let Some(got) = broken(classified, name) {
        findings.add(Location::header(name), Expected::Challenge, got);
    }
    ClauseOutcome::Met
}

/// The header field that has to hold a challenge, for the response's status.
pub(super) fn required(classified: &Classified<'_>) -> Option<&'static str> {
    match classified.status() {
        Some(401) => Some("WWW-Authenticate"),
        Some(407) => Some("Proxy-Authenticate"),
        _ => None,
    }
}

/// What is there instead of a challenge.
pub(super) fn broken(classified: &Classified<'_>, name: &str) -> Option<Got> {
    let challenges: Vec<&str> = classified.response()?.headers.all(name).collect();
    if challenges.is_empty() {
        return Some(Got::NoHeader);
    }
    let is_one = challenges.iter().any(|value| starts_with_scheme(value));
    (!is_one).then(|| Got::header(format!("\"{}\"", challenges.join(", "))))
}

/// `challenge = auth-scheme [ … ]`, and a scheme is a token (RFC 9110 sections 11.1 and 11.3).
fn starts_with_scheme(value: &str) -> bool {
    let scheme = value.trim().split([' ', ',']).next().unwrap_or_default();
    is_token(scheme)
}
