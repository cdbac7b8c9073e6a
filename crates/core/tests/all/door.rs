//! The facade, as a program that depends on it would use it.

use faithful_clerk_core::{
    Contract, ContractFiles, ExchangeCheck, Format, ReadOptions, Recording, Severity, check,
    check_exchange, coverage, read_exchanges, read_exchanges_with,
};
use http::{Request, Response};

const CONTRACT: &str = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
shape = "problem"
[fault.no-berth]
status = 404
type = "https://harbour.example/problems/no-berth"
when = ["resource-not-found"]
[endpoint."GET /berths/{id}"]
faults = ["no-berth"]
"#;

fn problem(status: u16, kind: &str, body_status: u16) -> Response<String> {
    let body = format!(
        r#"{{"type": "https://harbour.example/problems/{kind}", "title": "No such berth", "status": {body_status}, "detail": "There is none."}}"#
    );
    Response::builder()
        .status(status)
        .header("Content-Type", "application/problem+json")
        .body(body)
        .unwrap()
}

fn clauses(response: &Response<impl AsRef<[u8]>>) -> Vec<&'static str> {
    let contract = Contract::parse(CONTRACT).unwrap();
    let request = Request::get("https://harbour.example/v1/berths/Z-9").body("").unwrap();
    let ExchangeCheck::Checked(findings) = check_exchange(&contract, &request, response) else {
        panic!("the exchange is the service's own");
    };
    let breaches = findings.iter().filter(|finding| finding.severity == Severity::Breach);
    breaches.map(|finding| finding.clause).collect()
}

#[test]
fn a_response_in_memory_is_checked_like_a_recorded_one() {
    assert_eq!(clauses(&problem(404, "no-berth", 404)), Vec::<&str>::new());
    assert_eq!(clauses(&problem(404, "no-berth", 410)), ["problem.status-agrees"]);
    assert!(!clauses(&problem(404, "no-bert", 404)).is_empty());
    let html = Response::builder()
        .status(404)
        .header("Content-Type", "text/html")
        .body(&b"<h1>Not Found</h1>"[..])
        .unwrap();
    assert!(clauses(&html).contains(&"media.declared"));
}

#[test]
fn an_exchange_of_another_service_is_excluded_and_not_met() {
    let contract = Contract::parse(CONTRACT).unwrap();
    let request = Request::get("https://elsewhere.example/v1/berths/Z-9").body("").unwrap();
    let result = check_exchange(&contract, &request, &problem(404, "no-berth", 404));
    assert!(matches!(result, ExchangeCheck::Excluded(_)), "{result:?}");
    assert!(!result.is_met() && result.findings().is_empty());
}

#[test]
fn findings_are_data_for_other_programs() {
    let contract = Contract::parse(CONTRACT).unwrap();
    let request = Request::get("https://harbour.example/v1/berths/Z-9").body("").unwrap();
    let result = check_exchange(&contract, &request, &problem(404, "no-berth", 410));
    let json = serde_json::to_value(&result.findings()[0]).unwrap();
    assert_eq!(json["clause"], "problem.status-agrees");
    assert_eq!(json["severity"], "breach");
    assert_eq!(json["location"], serde_json::json!({"pointer": "/status"}));
}

#[test]
fn recordings_are_checked_together_and_what_is_broken_in_one_spares_the_others() {
    let contract = Contract::parse(CONTRACT).unwrap();
    let good = "GET /v1/berths/Z-9 HTTP/1.1\r\nHost: harbour.example\r\n\r\n\
        HTTP/1.1 404 Not Found\r\nContent-Type: text/html\r\nContent-Length: 6\r\n\r\n<html>";
    let result = check(
        &contract,
        [
            Recording::new("broken.har", "{\"log\": {\"entries\": [{]}}".as_bytes()),
            Recording::new("good.http", good.as_bytes()),
        ],
    );
    assert_eq!((result.checked(), result.excluded()), (1, 0));
    assert_eq!(result.read_errors()[0].recording, "broken.har");
    let finding = result.findings().find(|finding| finding.clause == "media.declared").unwrap();
    assert_eq!(finding.addresses, ["good.http#1"]);
    assert_eq!(result.count(Severity::Breach), {
        let breaches = result.findings().filter(|one| one.severity == Severity::Breach);
        breaches.map(|one| one.count).sum::<u64>()
    });
    assert!(coverage(&result).verified() >= 1);
}

#[test]
fn a_recording_may_be_compressed_or_in_two_parts() {
    use std::io::Write as _;
    let text = "GET /a HTTP/1.1\r\nHost: h.example\r\n\r\nHTTP/1.1 204 No Content\r\n\r\n";
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packed.write_all(text.as_bytes()).unwrap();
    let packed = packed.finish().unwrap();
    let (requests, responses) = text.split_at(text.find("HTTP/1.1 204").unwrap());
    for recording in [
        Recording::new("a.http.gz", packed.as_slice()),
        Recording::pair("a", requests.as_bytes(), responses.as_bytes()),
    ] {
        let mut seen = Vec::new();
        let errors = read_exchanges(recording, |exchange| {
            let status = exchange.response.as_ref().map(|response| response.status);
            seen.push((exchange.request.method.to_string(), status));
        });
        assert_eq!((seen, errors), (vec![("GET".to_owned(), Some(204))], vec![]));
    }
}

#[test]
fn limits_are_told_as_read_errors() {
    let entry = format!("{{\"comment\": \"{}\"}}", "x".repeat(5000));
    let options = ReadOptions {
        format: Some(Format::JsonLines),
        max_exchange: 1000,
        ..ReadOptions::default()
    };
    let recording = Recording::new("large.jsonl", entry.as_bytes());
    let errors = read_exchanges_with(options, recording, |_| panic!("there is none to be read"));
    assert_eq!(errors.len(), 1, "{errors:?}");
}

#[test]
fn a_contract_has_its_files_from_its_caller() {
    let text = "contract = 1\nopenapi = \"api.json\"\n";
    let error = Contract::parse_with_files(text, &ContractFiles::new()).unwrap_err();
    assert_eq!(error.iter().next().map(|error| error.line), Some(2));
    let description =
        r#"{"openapi": "3.1.0", "paths": {"/a": {"get": {"responses": {"200": {}}}}}}"#;
    let files = ContractFiles::new().with("api.json", description);
    let contract = Contract::parse_with_files(text, &files).unwrap();
    assert_eq!(contract.endpoints().collect::<Vec<_>>(), ["GET /a"]);
}
