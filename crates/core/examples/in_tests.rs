//! A service's own test: its responses are checked in memory against the contract, without a socket or a recording.
//!
//! `cargo run -p faithful-clerk-core --example in_tests` runs it here; in a service, the body of `main` is a `#[test]`.

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use faithful_clerk_core::{Contract, check_exchange};
use http::{Request, Response, StatusCode};

const CONTRACT: &str = r#"
contract = 1
service = "Saltmarsh Harbour"

[error]
media = "application/problem+json"
shape = "problem"

[fault.berth-not-found]
status = 404
type = "https://harbour.example/problems/berth-not-found"
title = "Berth not found"
when = ["resource-not-found"]

[endpoint."GET /v1/berths/{id}"]
faults = ["berth-not-found"]
"#;

/// The service under test: a function from request to response.
fn service(request: &Request<&str>) -> Response<String> {
    let problem = |status: StatusCode, body: &str| {
        Response::builder()
            .status(status)
            .header("content-type", "application/problem+json")
            .body(body.to_owned())
    };
    let response = match request.uri().path() {
        "/v1/berths/A-3" => Response::builder()
            .header("content-type", "application/json")
            .body(r#"{"id": "A-3", "depth": 4.5}"#.to_owned()),
        _ => problem(
            StatusCode::NOT_FOUND,
            r#"{
                "type": "https://harbour.example/problems/berth-not-found",
                "title": "Berth not found",
                "status": 404,
                "detail": "There is no such berth in this harbour."
            }"#,
        ),
    };
    response.unwrap_or_default()
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let contract = Contract::parse(CONTRACT)?;
    for path in ["/v1/berths/A-3", "/v1/berths/Z-9"] {
        let request = Request::get(path).body("")?;
        let response = service(&request);
        let result = check_exchange(&contract, &request, &response);
        for finding in result.findings() {
            println!(
                "{path}: {}, {}: expected {}, got {}",
                finding.clause, finding.location, finding.expected, finding.got
            );
        }
        assert!(result.is_met(), "GET {path} breaks the contract");
    }
    println!("GET /v1/berths/{{id}}: every clause that was checked is met");
    Ok(())
}
