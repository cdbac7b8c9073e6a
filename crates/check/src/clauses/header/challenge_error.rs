use super::declared::of_error;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{HeaderRequirement, HeaderRule};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.challenge-error",
    statement: "A bearer challenge says what was wrong with the token.",
    basis: &[Basis::rfc(6750, "3"), Basis::rfc(6750, "3.1")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "The error code tells a client whether to fetch a new token, to ask for a wider scope, or to give up.",
    fix: "Add error=\"invalid_token\" when a token was sent and rejected, and error=\"insufficient_scope\" to a 403.",
    check,
    met: &[Example::met(
        "a rejected token, and why",
        "DELETE /v1/berths/A-3\nAuthorization: Bearer x",
        r#"HTTP/1.1 401 Unauthorized
WWW-Authenticate: Bearer error="invalid_token"
Content-Type: application/json

{"message":"The token has expired"}"#,
    )
    .under(TOKENS)],
    broken: &[Example::broken(
        "a rejected token, as if none had been sent",
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
when = ["missing-credentials", "invalid-credentials"]
[endpoint."DELETE /berths/{id}"]
faults = ["refused"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let authorization =
        classified.exchange.request.headers.get("authorization").unwrap_or_default();
    let is_bearer = |text: &str| text.trim().to_ascii_lowercase().starts_with("bearer");
    let Some(response) =
        classified.response().filter(|response| matches!(response.status, 401 | 403))
    else {
        return ClauseOutcome::NotApplicable;
    };
    let challenges: Vec<&str> = response.headers.all("www-authenticate").collect();
    let Some(challenge) = challenges.iter().find(|challenge| is_bearer(challenge)) else {
        return ClauseOutcome::NotApplicable;
    };
    // Where the contract says which error, `header.declared` tells.
    let says_error = |rule: &&HeaderRule| match &rule.requirement {
        HeaderRequirement::Challenge(_, parameters) => {
            parameters.iter().any(|(name, _)| name.eq_ignore_ascii_case("error"))
        }
        HeaderRequirement::Type(_) | HeaderRequirement::Containing(_) => false,
    };
    if !is_bearer(authorization) || of_error(classified).iter().any(says_error) {
        return ClauseOutcome::NotApplicable;
    }
    if !challenge.contains("error=") {
        let error = if response.status == 403 { "insufficient_scope" } else { "invalid_token" };
        let location = Location::header("WWW-Authenticate");
        findings
            .add(location, Expected::BearerError(error.to_owned()), Got::header(*challenge))
            .because(Because::TokenSent);
    }
    ClauseOutcome::Met
}
