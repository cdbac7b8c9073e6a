//! What JSON:API 1.1 asks of a service whose errors are its error objects, beyond the shape of one.

use crate::judging::found;
use faithful_clerk_model::finding::Severity;

const HARBOUR: &str = r#"contract = 1
servers = ["https://harbour.example"]

[error]
media = "application/vnd.api+json"
shape = "harbour-errors"

[shape.harbour-errors]
like = "jsonapi-errors"
meta = "optional object"

[fault.invalid]
status = 422
when   = ["invalid-body"]

[fault.wrong-media]
status = 415
when   = ["unsupported-media-type"]

[fault.no-such-media]
status = 406
when   = ["not-acceptable"]

[endpoint."POST /berths"]
success  = [201]
faults   = ["invalid", "wrong-media", "no-such-media"]
accepts  = ["application/vnd.api+json"]
produces = ["application/vnd.api+json"]

[endpoint."POST /berths".body-members]
data = "berth-data"

[shape.berth-data]
type       = "exactly berths"
attributes = "berth"

[shape.berth]
depth_m = "number at least 1"
"#;

const MADE: &str = r#"{"data":{"type":"berths","id":"7"}}"#;

fn told(request_media: &str, accept: &str, body: &str, answer: &str) -> Vec<String> {
    let accept = if accept.is_empty() { String::new() } else { format!("Accept: {accept}\n") };
    let request = format!("POST /berths\nContent-Type: {request_media}\n{accept}\n{body}");
    // What would be kind besides (`Accept` with 415) is a note.
    let found = found(HARBOUR, &request, answer).into_iter();
    let found = found.filter(|one| one.severity != Severity::Note);
    found.map(|one| format!("{} {}: {}", one.clause, one.location, one.got)).collect()
}

fn answer(status: u16, media: &str, body: &str) -> String {
    format!("HTTP/1.1 {status} X\nContent-Type: {media}\n\n{body}")
}

const API: &str = "application/vnd.api+json";

#[test]
fn a_pointer_leads_to_something_in_the_request() {
    let errors = |pointer: &str, detail: &str| {
        let body = format!(
            "{{\"errors\":[{{\"status\":\"422\",\"detail\":\"{detail}\",\"source\":{{\"pointer\":\"{pointer}\"}}}}]}}"
        );
        answer(422, API, &body)
    };
    let low = r#"{"data":{"type":"berths","attributes":{"depth_m":0}}}"#;
    let none = r#"{"data":{"type":"berths","attributes":{}}}"#;
    let missing = "depth_m is missing";
    for (body, pointer, detail, expected) in [
        (low, "/data/attributes/depth_m", "at least 1", &[][..]),
        (none, "/data/attributes", missing, &[]),
        (
            none,
            "/data/attributes/depth_m",
            missing,
            &[
                "validation.pointer-resolves body /errors/0/source/pointer: \"/data/attributes/depth_m\"",
            ],
        ),
    ] {
        assert_eq!(told(API, "", body, &errors(pointer, detail)), expected, "{pointer}");
    }
}

#[test]
fn parameters_of_the_media_type_are_its_own() {
    let good = r#"{"data":{"type":"berths","attributes":{"depth_m":2}}}"#;
    let made = answer(201, API, MADE);
    let refused = |status| {
        answer(
            status,
            API,
            &format!("{{\"errors\":[{{\"status\":\"{status}\",\"title\":\"no\"}}]}}"),
        )
    };
    let with = |parameters: &str| format!("{API}; {parameters}");
    assert_eq!(told(API, "", good, &made), [""; 0]);
    assert_eq!(told(&with("ext=\"https://harbour.example/bulk\""), "", good, &made), [""; 0]);
    assert_eq!(
        told(&with("charset=utf-8"), "", good, &made),
        ["situation.requires-error status line: 201"]
            .map(|one| one.replace("status line", "the status line"))
    );
    assert_eq!(told(&with("charset=utf-8"), "", good, &refused(415)), [""; 0]);
    assert_eq!(told(API, &with("version=2"), good, &refused(406)), [""; 0]);
    assert_eq!(told(API, &format!("{}, {API}", with("version=2")), good, &made), [""; 0]);
    assert_eq!(told(API, &with("q=0.5"), good, &made), [""; 0]);
    assert_eq!(
        told(API, "", good, &answer(201, &with("charset=utf-8"), MADE)),
        ["media.parameters header Content-Type: charset=utf-8"]
    );
    assert_eq!(
        told(API, "", good, &answer(201, &with("profile=\"https://harbour.example/tides\""), MADE)),
        [""; 0]
    );
}

#[test]
fn a_success_is_a_document() {
    let good = r#"{"data":{"type":"berths","attributes":{"depth_m":2}}}"#;
    for (body, expected) in [
        (MADE, &[][..]),
        (r#"{"data":[]}"#, &[]),
        (r#"{"data":null}"#, &[]),
        (r#"{"meta":{"count":3}}"#, &[]),
        (r#"{"bulk:results":[]}"#, &[]),
        (r#"{"data":[{"type":"berths","id":"1"},{"type":"berths","id":"2"}],"included":[]}"#, &[]),
        (r#"{"id":"7","depth_m":2}"#, &["success.json-api the whole body: none"]),
        (r#"[{"type":"berths","id":"1"}]"#, &["success.json-api the whole body: array"]),
        (r#"{"data":{"type":"berths","id":7}}"#, &["success.json-api body /data/id: number 7"]),
        (r#"{"data":{"id":"7"}}"#, &["success.json-api body /data/type: nothing"]),
        (r#"{"data":[{"type":"berths"}]}"#, &["success.json-api body /data/0/id: nothing"]),
        (r#"{"meta":{},"included":[]}"#, &["success.json-api body /included: `included`"]),
    ] {
        assert_eq!(told(API, "", good, &answer(201, API, body)), expected, "{body}");
    }
    assert_eq!(
        told(API, "", good, &answer(201, "application/json", MADE)),
        ["success.media-declared header Content-Type: application/json"]
    );
}
