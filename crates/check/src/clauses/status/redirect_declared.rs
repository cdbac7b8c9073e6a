use url::Url;

use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::{Fault, FaultClass};
use faithful_clerk_model::address::{Location, absolute};
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.redirect-declared",
    statement: "A path with a slash too many or too few is redirected, where that is declared.",
    basis: &[Basis::Contract("paths"), Basis::rfc(9110, "15.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Callers that join a base and a path send a slash too many, and were promised that it does not matter.",
    fix: "Let the router redirect to the path that has an endpoint, for every route.",
    check,
    met: &[Example::met(
        "a slash too many, redirected",
        "GET /v1/berths/",
        "HTTP/1.1 308 Permanent Redirect\nLocation: /v1/berths\n\n",
    )
    .under(REDIRECTED)],
    broken: &[
        Example::broken(
            "a slash too many, refused",
            "GET /v1/berths/",
            "HTTP/1.1 404 Not Found\nContent-Type: text/plain\n\nno such path",
            &[("the status line", "404")],
        )
        .under(REDIRECTED),
        Example::broken(
            "a redirect to somewhere else",
            "GET /v1/berths/",
            "HTTP/1.1 302 Found\nLocation: https://harbour.example/v1/\n\n",
            &[("header Location", "https://harbour.example/v1/")],
        )
        .under(REDIRECTED),
    ],
};

/// Paths are redirected to those that have an endpoint.
const REDIRECTED: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[paths]
trailing-slash = "redirected"

[endpoint."GET /berths"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(response) = classified.response().filter(|_| classified.is_redirected) else {
        return ClauseOutcome::NotApplicable;
    };
    let any_request =
        |fault: &Fault| fault.class == FaultClass::AnyRequest && fault.has_status(response.status);
    // Too many requests, a service that is down, and a service that first asks who is there.
    if response.status == 401 || classified.contract.faults.iter().any(any_request) {
        return ClauseOutcome::NotApplicable;
    }
    let url = Url::parse(&absolute(&classified.exchange.request.url)).ok();
    let Some((url, due)) = url.map(|url| (url.clone(), other_path(url))) else {
        return ClauseOutcome::NotApplicable;
    };
    if !matches!(response.status, 301 | 302 | 303 | 307 | 308) {
        let got = Got::Status(response.status);
        findings.add(Location::StatusLine, Expected::RedirectTo(due.path().to_owned()), got);
        return ClauseOutcome::Met;
    }
    let location = response.headers.get("location");
    let leads = location.and_then(|text| url.join(text).ok());
    let is_there = leads.is_some_and(|url| url.path() == due.path() && url.host() == due.host());
    if !is_there {
        let got = location.map_or(Got::NoHeader, Got::header);
        let expected = Expected::RedirectTo(due.path().to_owned());
        findings.add(Location::header("Location"), expected, got);
    }
    ClauseOutcome::Met
}

/// A URL with the slash at the end of its path taken off, or put there.
fn other_path(mut url: Url) -> Url {
    let path = match url.path().strip_suffix('/') {
        Some(without) => without.to_owned(),
        None => format!("{}/", url.path()),
    };
    url.set_path(&path);
    url
}
