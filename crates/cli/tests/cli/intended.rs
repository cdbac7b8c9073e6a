//! What a probe meant by a request is kept with the exchange, and judged: a wrong token that is let in, an id of nothing that
//! is served.

use serde_json::{Value, json};

use crate::harness::{Project, findings, sent};

const CONTRACT: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
[fault.who]
status = 401
when = ["missing-credentials", "invalid-credentials"]
[fault.none]
status = 404
when = ["resource-not-found"]
[fault.taken]
status = 409
when = ["conflict"]
[fault.busy]
status = 429
any-request = true
[fault.broken]
status = 500
internal = true
[everywhere]
auth = "required"
faults = ["who", "none", "taken", "busy", "broken"]
[endpoint."GET /boats/{id}"]
success = [200]
[case.known]
request = "GET /boats/tern"
expect = "success"
"#;

/// An exchange that a probe sent for that situation; for none, it was to be served.
fn meant(situation: Option<&str>, path: &str, status: u16) -> Value {
    let token = [("Authorization", "Bearer no-such-token")];
    let (media, body) = match status {
        200 => ("application/json", "{\"id\":7}".to_owned()),
        status => {
            let phrase = match status {
                401 => "Unauthorized",
                404 => "Not Found",
                409 => "Conflict",
                429 => "Too Many Requests",
                _ => "Internal Server Error",
            };
            ("application/problem+json", json!({"title": phrase, "status": status}).to_string())
        }
    };
    let mut entry = sent("GET", path, &token, None, status, media, &body);
    let headers = entry["response"]["headers"].as_array_mut().unwrap();
    match status {
        401 => headers
            .push(json!({"name": "WWW-Authenticate", "value": "Bearer error=\"invalid_token\""})),
        429 => headers.push(json!({"name": "Retry-After", "value": "1"})),
        _ => {}
    }
    entry["_intended"] = json!({"request": format!("GET /boats/{{id}}: made {status}")});
    if let Some(situation) = situation {
        entry["_intended"]["situation"] = json!(situation);
    }
    entry
}

fn lines(entries: &[Value]) -> String {
    entries.iter().map(|entry| format!("{entry}\n")).collect()
}

#[test]
fn what_was_meant_is_judged_as_if_the_request_showed_it() {
    const TABLE: [(Option<&str>, &str, u16, &str); 14] = [
        (Some("invalid-credentials"), "/boats/7", 200, "situation.requires-error"),
        (Some("invalid-credentials"), "/boats/7", 401, ""),
        (Some("invalid-credentials"), "/boats/7", 500, "status.fits-situation"),
        // Whatever the request, it may be too many.
        (Some("invalid-credentials"), "/boats/7", 429, ""),
        (Some("resource-not-found"), "/boats/9", 200, "situation.requires-error"),
        (Some("resource-not-found"), "/boats/9", 404, ""),
        (Some("resource-not-found"), "/boats/9", 500, "status.fits-situation"),
        (Some("conflict"), "/boats/7", 200, "situation.requires-error"),
        (Some("conflict"), "/boats/7", 409, ""),
        (None, "/boats/7", 200, ""),
        // What is visible in a request is what it shows, whatever was meant.
        (Some("missing-credentials"), "/boats/7", 200, ""),
        (Some("no-such-situation"), "/boats/7", 200, ""),
        // The contract says otherwise.
        (Some("resource-not-found"), "/boats/tern", 200, ""),
        (Some("invalid-credentials"), "/boats/tern", 200, ""),
    ];
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let entries: Vec<Value> =
        TABLE.iter().map(|(situation, path, status, _)| meant(*situation, path, *status)).collect();
    project.write("probe.jsonl", lines(&entries));
    let check = project.run("check probe.jsonl --format json").exits(1).json();
    let told: Vec<(u64, String)> = findings(&check)
        .into_iter()
        .filter(|(_, _, severity, _)| severity == "breach")
        .map(|(number, clause, ..)| (number, clause))
        .collect();
    let due = (1..).zip(TABLE).filter(|(_, row)| !row.3.is_empty());
    let due: Vec<(u64, String)> = due.map(|(number, row)| (number, row.3.to_owned())).collect();
    assert_eq!(told, due, "{check:#}");
    let run = project.run("check probe.jsonl").exits(1);
    run.says("because   the probe meant it so: GET /boats/{id}: made 200");
    let shown = project.run("show probe.jsonl#5").exits(0);
    shown.says("situation resource-not-found: the probe meant it so: GET /boats/{id}: made 200");
    // By itself, the same recording shows nothing wrong.
    let bare = entries.iter().cloned().map(|mut entry| {
        entry.as_object_mut().unwrap().remove("_intended");
        entry
    });
    let bare: Vec<Value> = bare.collect();
    project.write("bare.jsonl", lines(&bare));
    project.run("check bare.jsonl").exits(0).says("0 breaches");
}

/// It is what coverage counts, and it is kept where a format can hold it.
#[test]
fn what_was_meant_is_counted_and_kept() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let entries = [
        meant(Some("resource-not-found"), "/boats/9", 404),
        meant(Some("invalid-credentials"), "/boats/7", 401),
        meant(Some("conflict"), "/boats/7", 429),
    ];
    project.write("probe.jsonl", lines(&entries));
    let covered = project.run("coverage probe.jsonl --format json").exits(0).json();
    let text = covered.to_string();
    assert!(text.contains("resource-not-found") && text.contains("invalid-credentials"), "{text}");
    project.run("convert probe.jsonl --to har --output kept.har").exits(0);
    let kept: Value =
        serde_json::from_slice(&std::fs::read(project.path().join("kept.har")).unwrap()).unwrap();
    for (entry, before) in kept["log"]["entries"].as_array().unwrap().iter().zip(&entries) {
        assert_eq!(entry["_intended"], before["_intended"]);
    }
    let run = project.run("convert probe.jsonl --to warc --output kept.warc");
    run.complains("what a probe meant by a request");
    project.run("scrub probe.jsonl --output clean.jsonl").exits(0);
    let clean = std::fs::read_to_string(project.path().join("clean.jsonl")).unwrap();
    assert_eq!(clean.matches("\"_intended\"").count(), 3, "{clean}");
}
