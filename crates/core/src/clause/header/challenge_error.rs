use crate::address::Location;
use crate::classify::Classified;
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "header.challenge-error",
    statement: "A bearer challenge says what was wrong with the token.",
    basis: &[Basis::rfc(6750, "3"), Basis::rfc(6750, "3.1")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "With the error's name a client knows whether to fetch a new token, to ask for \
             more rights, or to give up.",
    fix: "Add error=\"invalid_token\" where a token came and was refused, and \
             error=\"insufficient_scope\" to a 403.",
    check: judge,
    met: &[Example::kept(
        "a refused token, and why",
        "DELETE /v1/berths/A-3\nAuthorization: Bearer x",
        r#"HTTP/1.1 401 Unauthorized
WWW-Authenticate: Bearer error="invalid_token"
Content-Type: application/json

{"message":"The token has expired"}"#,
    )
    .under(TOKENS)],
    broken: &[Example::broken(
        "a refused token, as if none had come",
        "DELETE /v1/berths/A-3\nAuthorization: Bearer x",
        r#"HTTP/1.1 401 Unauthorized
WWW-Authenticate: Bearer realm="harbour"
Content-Type: application/json

{"message":"The token has expired"}"#,
        &[("header WWW-Authenticate", "Bearer realm=\"harbour\"")],
    )
    .under(TOKENS)],
};

/// Tokens are refused.
const TOKENS: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.refused]
status = 401
answers = ["credentials-missing", "credentials-rejected"]
[endpoint."DELETE /berths/{id}"]
faults = ["refused"]
"#;

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let authorization = placed.exchange.request.headers.get("authorization").unwrap_or_default();
    let is_bearer = |text: &str| text.trim().to_ascii_lowercase().starts_with("bearer");
    let Some(response) = placed.response().filter(|response| matches!(response.status, 401 | 403))
    else {
        return ClauseOutcome::NotApplicable;
    };
    let challenges: Vec<&str> = response.headers.all("www-authenticate").collect();
    let Some(challenge) = challenges.iter().find(|challenge| is_bearer(challenge)) else {
        return ClauseOutcome::NotApplicable;
    };
    if !is_bearer(authorization) {
        return ClauseOutcome::NotApplicable;
    }
    if !challenge.contains("error=") {
        let agreed = match response.status {
            403 => "Bearer with error=\"insufficient_scope\"",
            _ => "Bearer with error=\"invalid_token\", as a token came",
        };
        findings.add(Location::header("WWW-Authenticate"), agreed, *challenge);
    }
    ClauseOutcome::Met
}
