//! `coverage`: what was tried, what was not, and what to try next.

use serde_json::{Value, json};

use crate::harness::{Project, got, har, sent};

const PROBLEM: &str = "application/problem+json";

/// Two endpoints, of which by hand: in order 2, invalid-body, malformed-body and missing-body 3, resource-not-found 1,
/// method-not-allowed 1 (for all paths), unknown-route 1: eight cells that can occur.
const CONTRACT: &str = r#"
contract = 1
servers = ["https://harbour.example/v1"]
[error]
shape = "problem"
[fault.invalid]
status = 422
title = "Not valid"
when = ["invalid-body"]
[fault.malformed]
status = 400
title = "Bad Request"
when = ["malformed-body", "missing-body"]
[fault.no-berth]
status = 404
title = "No berth"
when = ["resource-not-found"]
[fault.no-route]
status = 404
title = "Not Found"
when = ["unknown-route"]
[fault.not-offered]
status = 405
title = "Method Not Allowed"
when = ["method-not-allowed"]
[fault.failed]
status = 500
title = "Internal Server Error"
[everywhere]
faults = ["no-route", "not-offered", "failed"]
[endpoint."GET /berths/{id}"]
success = [200]
faults = ["no-berth"]
[endpoint."POST /berths"]
success = [201]
faults = ["invalid", "malformed"]
[endpoint."POST /berths".body-members]
length_m = "number from 2 to 60"
name = "string"
[case.no-such]
request = "GET /berths/Z-99"
expect = "no-berth"
"#;

fn problem(status: u16, title: &str) -> String {
    json!({"title": title, "status": status}).to_string()
}

fn post(body: &str, status: u16, response: &str) -> Value {
    sent(
        "POST",
        "/berths",
        &[("Content-Type", "application/json")],
        Some(body),
        status,
        PROBLEM,
        response,
    )
}

fn numbers(coverage: &Value) -> [u64; 5] {
    ["met", "broken", "not_checked", "not_covered", "cannot_occur"]
        .map(|name| coverage["cells"][name].as_u64().unwrap())
}

fn names(list: &Value) -> Vec<&str> {
    list.as_array().unwrap().iter().map(|name| name.as_str().unwrap()).collect()
}

#[test]
fn cells_are_counted_as_by_hand() {
    let good = r#"{"length_m":12,"name":"A"}"#;
    let ok = got("GET", "/berths/1", 200, "application/json", "{}");
    let steps: [(Value, [u64; 4], u64); 5] = [
        (ok, [1, 0, 0, 7], 12),
        (got("GET", "/berths/Z-99", 404, PROBLEM, &problem(404, "No berth")), [2, 0, 0, 6], 25),
        (post(r#"{"length_m":1}"#, 500, &problem(500, "Internal Server Error")), [2, 1, 0, 5], 37),
        (post(good, 201, "{}"), [3, 1, 0, 4], 50),
        (got("GET", "/nowhere", 404, PROBLEM, &problem(404, "Not Found")), [4, 1, 0, 3], 62),
    ];
    let mut entries = Vec::new();
    for (entry, cells, percent) in steps {
        entries.push(entry);
        let project = Project::with(CONTRACT, &entries);
        let coverage = project.run("coverage --format json a.har").exits(0).json();
        assert_eq!(numbers(&coverage)[..4], cells, "{coverage}");
        assert_eq!(coverage["percent"], percent);
    }
    let coverage = Project::with(CONTRACT, &entries).run("coverage --format json a.har").json();
    assert_eq!(names(&coverage["faults_not_recorded"]), ["invalid", "malformed", "not-offered"]);
    assert_eq!(names(&coverage["cases_not_covered"]), Vec::<&str>::new());
    let all = Project::with(CONTRACT, &[]).run("coverage --format json a.har").exits(0).json();
    assert_eq!((numbers(&all)[3], all["percent"].as_u64()), (8, Some(0)));
    assert_eq!(names(&all["cases_not_covered"]), ["no-such"]);
}

#[test]
fn at_least_sets_the_exit_code() {
    let project =
        Project::with(CONTRACT, &[got("GET", "/berths/1", 200, "application/json", "{}")]);
    project.run("coverage --at-least 12 a.har").exits(0);
    project
        .run("coverage --at-least 13 a.har")
        .exits(1)
        .complains("12 % are covered; --at-least asks for 13 %");
    project.run("coverage --at-least 101 a.har").exits(2);
    project.run("coverage --at-least x a.har").exits(2);
    project.write("broken.har", har(&[json!({})]));
    project.run("coverage --at-least 100 a.har broken.har").exits(3);
    project.run("coverage none.har").exits(2);
    project.run("coverage --contract none.toml a.har").exits(2).complains("can't read");
    // Broken is tried, too: whether it is right is for `check`.
    let wrong = Project::with(CONTRACT, &[got("GET", "/berths/1", 500, "text/html", "<p>")]);
    wrong.run("coverage --at-least 1 a.har").exits(0);
}

/// The requests worth trying are the open ones, each a request that shows the situation that it names.
#[test]
fn what_is_worth_trying_shows_what_it_names() {
    let project = Project::with(CONTRACT, &[]);
    let coverage = project.run("coverage --format json a.har").exits(0).json();
    let worth = coverage["worth_trying"].as_array().unwrap();
    assert_eq!(worth.len(), 8);
    assert_eq!(worth[0]["situation"], "invalid-body", "the most telling first");
    assert_eq!(worth[0]["faults"], json!(["invalid"]));
    let mut entries = Vec::new();
    for one in worth {
        let (method, target) = (one["method"].as_str().unwrap(), one["target"].as_str().unwrap());
        let target = match one["situation"].as_str() {
            Some("resource-not-found") => target.replace("{id}", "Z-99"),
            _ => target.replace("{id}", "1"),
        };
        let status = if one["situation"].is_null() { 200 } else { 404 };
        entries.push(sent(method, &target, &[], one["body"].as_str(), status, PROBLEM, "{}"));
    }
    project.write("tried.har", har(&entries));
    let tried = project.run("coverage --format json tried.har").exits(0).json();
    assert_eq!((tried["percent"].as_u64(), numbers(&tried)[3]), (Some(100), 0), "{tried}");
    assert_eq!(tried["worth_trying"], json!([]));
}

#[test]
fn the_demo_has_gaps_and_ten_requests_for_them() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    let coverage = project.run("coverage --format json before.har").exits(0).json();
    let worth = coverage["worth_trying"].as_array().unwrap();
    assert_eq!(worth.len(), 10);
    let mut endpoints: Vec<_> =
        worth.iter().map(|one| format!("{} {}", one["method"], one["target"])).collect();
    endpoints.sort();
    endpoints.dedup();
    assert!(endpoints.len() >= 7, "they are spread: {endpoints:?}");
    let text = project.run("coverage before.har").exits(0);
    let text =
        text.says("% covered: ").says("A cell is a situation at an").says("Worth trying next");
    assert!(text.stdout.contains("✓ met   ✗ broken   · not covered"), "{text}");
    for columns in [80, 160] {
        project.fits("coverage before.har", columns);
    }
    let page = project.run("coverage --format markdown before.har").exits(0);
    page.says("| endpoint | valid |").says("✓ met, ✗ broken").says("## Worth trying next");
}
