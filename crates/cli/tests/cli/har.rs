//! HAR files as they are found.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::json;

use crate::harness::{Project, got, har};

/// A 404 whose problem says 400, so that it is known to have been read.
fn telling(content: serde_json::Value) -> serde_json::Value {
    let mut entry = got("GET", "/nowhere", 404, "application/problem+json", "");
    entry["response"]["content"] = content;
    entry
}

const TOLD: &str = "problem.status-agrees";

#[test]
fn pretty_compact_and_with_a_byte_order_mark() {
    let text = r#"{"title":"Not Found","status":400}"#;
    let entry = telling(json!({"size": text.len(), "text": text}));
    let log = json!({"log": {"entries": [entry, entry], "version": "1.2", "pages": []}});
    let pretty = serde_json::to_string_pretty(&log).unwrap();
    let project = Project::with(HARBOUR, &[]);
    for har in
        [log.to_string(), pretty.clone(), pretty.replace('\n', "\r\n"), format!("\u{feff}{pretty}")]
    {
        project.write("a.har", har);
        project.run("check a.har").exits(1).says(&format!("{TOLD:35}a.har#1 #2"));
    }
}

#[test]
fn base64_bodies_are_read() {
    // {"title":"Not Found","status":400}
    let text = "eyJ0aXRsZSI6Ik5vdCBGb3VuZCIsInN0YXR1cyI6NDAwfQ==";
    let entry = telling(json!({"size": 34, "text": text, "encoding": "base64"}));
    Project::with(HARBOUR, &[entry]).run("check a.har").exits(1).says(TOLD);
    let broken = telling(json!({"size": 34, "text": "%%%", "encoding": "base64"}));
    Project::with(HARBOUR, &[broken])
        .run("check a.har")
        .exits(3)
        .says("not checked, because it can't be known: 1 (its base64 is not valid)")
        .complains("a.har#1, byte 35: the response body: its base64 is not valid");
}

#[test]
fn members_that_are_missing_null_or_private_do_no_harm() {
    let bare =
        json!({"request": {"method": "GET", "url": "/v1/berths/A-3"}, "response": {"status": 200}});
    let nulls = json!({"_x": [[{}]], "startedDateTime": null, "time": null,
        "request": {"method": "GET", "url": "https://harbour.example/v1/berths/A-3", "headers": null,
                    "postData": null, "bodySize": null, "_y": "z"},
        "response": {"status": 200.0, "headers": [{"name": "Date", "value": null}], "content": null,
                     "bodySize": -1, "headersSize": -1, "_error": null}});
    let run = Project::with(HARBOUR, &[bare, nulls]).run("check a.har").exits(0);
    assert!(run.stdout.contains("2 exchanges checked; 0 breaches"), "{run}");
}

#[test]
fn an_answer_that_never_came_is_said_and_a_cut_one_is_not_judged() {
    let none = json!({"request": {"method": "GET", "url": "https://harbour.example/v1/berths/A-3"},
        "response": {"status": 0, "content": {"size": 0, "mimeType": "x-unknown"}, "bodySize": -1,
                     "_error": "net::ERR_EMPTY_RESPONSE"}});
    let mut cut = got("GET", "/nowhere", 404, "application/problem+json", "");
    cut["response"]["content"] = json!({"size": 59, "mimeType": "application/problem+json"});
    cut["response"]["_error"] = json!("net::ERR_CONTENT_LENGTH_MISMATCH");
    // Without the recorder's word: shorter than announced, and no whole JSON.
    let mut short = got("GET", "/nowhere", 404, "application/problem+json", "{\"title\":\"Not");
    short["response"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": "Content-Length", "value": "90"}));
    // Masking changed the length, and the JSON is whole.
    let mut masked =
        got("GET", "/nowhere", 404, "application/problem+json", r#"{"title":"Not Found"}"#);
    masked["response"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": "Content-Length", "value": "90"}));
    let project = Project::with(HARBOUR, &[none, cut, short, masked]);
    let run = project.run("check a.har").exits(1);
    assert!(run.stdout.contains("exchange.has-response              a.har#1"), "{run}");
    assert!(run.stdout.contains("2 (the response is truncated)"), "{run}");
    assert!(run.stdout.contains("4 exchanges checked; 1 breach, 2 notes;"), "{run}");
    assert!(!run.stdout.contains("body.present"), "{run}");
}

#[test]
fn an_unreadable_entry_is_named_and_the_rest_is_checked() {
    let page = got("GET", "/nowhere", 404, "text/html", "<p>");
    let entries = [page.clone(), json!({"request": {"url": "/"}}), json!(17), page];
    let text = har(&entries);
    let project = Project::with(HARBOUR, &[]);
    project.write("a.har", &text);
    let run =
        project.run("check a.har").exits(3).says("media.declared                     a.har#1 #4");
    let at = text.find(r#"{"request":{"url"#).unwrap();
    let run = run.complains(&format!("a.har#2, byte {at}: missing field `method`"));
    let check = project.run("check --format json a.har").json();
    assert_eq!(check["unreadable"][1]["entry"], 3, "{run}");
    assert_eq!(check["totals"]["unreadable"], 2);
    assert_eq!(check["passed"], false);
}

/// A bracket or a quote too few, or too many: the entry is named, the others are checked.
#[test]
fn an_entry_that_does_not_close_takes_no_other_with_it() {
    let page = got("GET", "/nowhere", 404, "text/html", "<p>").to_string();
    let project = Project::with(HARBOUR, &[]);
    for (broken, reason) in [
        (page[..page.len() - 1].to_owned(), "its brackets do not match at byte "),
        (page.replace("\"GET\"", "\"GET"), "its brackets"),
        (format!("{page}}}"), "expected an entry or `]`"),
        (format!("{page}]"), "expected an entry or `]`"),
    ] {
        project.write("a.har", format!("{{\"log\":{{\"entries\":[{page},{broken},{page}]}}}}"));
        let run = project.run("check --format json a.har").exits(3).complains(reason);
        let whole = if reason.starts_with("its") { 2 } else { 3 };
        assert_eq!(run.json()["totals"]["checked"], whole, "{run}");
    }
}

#[test]
fn a_truncated_recording_is_checked_as_far_as_it_goes() {
    let project = Project::with(HARBOUR, &[]);
    let text = har(&vec![got("GET", "/nowhere", 404, "text/html", "<p>"); 10]);
    project.write("a.har", &text[..text.len() - 50]);
    project
        .run("check a.har")
        .exits(3)
        .says("9 exchanges checked, 1 unreadable; 9 breaches")
        .complains("a.har#10, byte ")
        .complains("inside this entry");
}
