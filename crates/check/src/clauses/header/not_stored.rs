use crate::classify::Classified;
use crate::clauses::contracts::BUSY;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.not-stored",
    statement: "A response that no cache may store does not allow storing.",
    basis: &[
        Basis::rfc(6585, "3"),
        Basis::rfc(6585, "4"),
        Basis::rfc(6585, "5"),
        Basis::rfc(6585, "6"),
    ],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A cached 'too many requests' keeps refusing long after the service is ready again.",
    fix: "Send Cache-Control: no-store with 428, 429, 431 and 511, and check for a default that allows caching.",
    check,
    met: &[Example::met(
        "a response that is not to be stored",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 429 Too Many Requests
Cache-Control: no-store
Content-Type: application/json

{"message":"Too many requests a minute"}"#,
    )
    .under(BUSY)],
    broken: &[Example::broken(
        "a response that may be cached for an hour",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 429 Too Many Requests
Cache-Control: public, max-age=3600
Content-Type: application/json

{"message":"Too many requests a minute"}"#,
        &[("header Cache-Control", "public, max-age=3600")],
    )
    .under(BUSY)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(response) =
        classified.response().filter(|r| matches!(r.status, 428 | 429 | 431 | 511))
    else {
        return ClauseOutcome::NotApplicable;
    };
    let values: Vec<&str> = response.headers.all("cache-control").collect();
    let value = values.join(", ").to_ascii_lowercase();
    let has = |name: &str| value.split(',').any(|one| one.trim() == name);
    let lives = value.split(',').filter_map(|one| one.trim().split_once('=')).any(|(name, age)| {
        matches!(name, "max-age" | "s-maxage")
            && age.trim_matches('"').parse::<u64>().is_ok_and(|age| age > 0)
    });
    if !has("no-store") && (lives || has("public") || has("immutable")) {
        let location = Location::header("Cache-Control");
        findings.add(location, Expected::NotStored, Got::header(values.join(", ")));
    }
    ClauseOutcome::Met
}
