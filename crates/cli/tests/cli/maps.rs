//! Logs that are no HAR, read by the maps of `examples/maps`: the same exchanges give the same result, whatever writes them.

use std::path::{Path, PathBuf};

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use serde_json::{Value, json};

use crate::harness::{Project, har};

const CONTRACT: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
credentials = ["authorization"]
[error]
media = "application/problem+json"
[fault.none]
status = 404
title = "Missing"
when = ["resource-not-found"]
[fault.invalid]
status = 422
title = "Invalid"
when = ["invalid-body"]
[fault.no-method]
status = 405
title = "Not Allowed"
when = ["method-not-allowed"]
[everywhere]
faults = ["no-method"]
[endpoint."GET /berths/{id}"]
success = [200]
faults = ["none"]
[endpoint."POST /reservations"]
success = [201]
faults = ["invalid"]
accepts = ["application/json"]
[endpoint."POST /reservations".body-members]
nights = "integer from 1 to 28"
"#;

/// Header fields.
type Fields = Vec<(&'static str, &'static str)>;

/// What a client and the service sent.
struct Sent {
    method: &'static str,
    path: &'static str,
    request: (Fields, Option<&'static str>),
    /// `None` where no response came.
    response: Option<(u16, Fields, Option<&'static str>)>,
}

const PROBLEM: (&str, &str) = ("Content-Type", "application/problem+json");
const JSON: (&str, &str) = ("Content-Type", "application/json");

fn all() -> Vec<Sent> {
    let get = |path, status, headers, body| Sent {
        method: "GET",
        path,
        request: (vec![("Accept", "application/json")], None),
        response: Some((status, headers, Some(body))),
    };
    let post = |body, status, headers, told| Sent {
        method: "POST",
        path: "/v1/reservations",
        request: (vec![JSON], Some(body)),
        response: Some((status, headers, Some(told))),
    };
    vec![
        get("/v1/berths/A-3?full=1", 200, vec![JSON], "{\"id\": \"A-3\", \"name\": \"T\u{e4}rn\"}"),
        get(
            "/v1/berths/Z-9",
            404,
            vec![PROBLEM, ("Vary", "Accept"), ("Vary", "Origin")],
            "{\"title\":\"Missing\",\"status\":404}",
        ),
        // The wrong media type, a wrong title, no JSON.
        get("/v1/berths/Z-8", 404, vec![JSON], "{\"title\":\"Missing\",\"status\":404}"),
        get("/v1/berths/Z-7", 404, vec![PROBLEM], "{\"title\":\"Gone\",\"status\":410}"),
        get(
            "/v1/berths/Z-6",
            500,
            vec![("Content-Type", "text/html")],
            "<html><h1>It broke</h1></html>",
        ),
        post("{\"nights\": 2}", 201, vec![JSON], "{\"id\": 1}"),
        post(
            "{\"nights\": 0}",
            422,
            vec![PROBLEM],
            "{\"title\":\"Invalid\",\"status\":422,\"errors\":[{\"pointer\":\"/nights\",\"detail\":\"at least 1\"}]}",
        ),
        post("{\"nights\": 0}", 201, vec![JSON], "{\"id\": 2}"),
        post(
            "{\"nights\": ",
            500,
            vec![PROBLEM],
            "{\"title\":\"Oops\",\"status\":500,\"detail\":\"x\"}",
        ),
        // No Allow.
        Sent {
            method: "PUT",
            path: "/v1/berths/A-3",
            request: (vec![JSON], Some("{}")),
            response: Some((
                405,
                vec![PROBLEM],
                Some("{\"title\":\"Not Allowed\",\"status\":405}"),
            )),
        },
        Sent { method: "GET", path: "/v1/berths/A-9", request: (vec![], None), response: None },
    ]
}

fn pairs(fields: &[(&str, &str)]) -> Value {
    fields.iter().map(|(name, value)| json!({"name": name, "value": value})).collect()
}

fn as_har(sent: &Sent) -> Value {
    let (fields, body) = &sent.request;
    let mut entry = json!({
        "time": 12.5,
        "request": {"method": sent.method, "url": format!("https://harbour.example{}", sent.path), "headers": pairs(fields), "bodySize": body.map_or(0, str::len)},
        "response": {"status": 0, "_error": "reset"},
    });
    if let Some(body) = body {
        entry["request"]["postData"] = json!({"mimeType": "application/json", "text": body});
    }
    if let Some((status, fields, body)) = &sent.response {
        entry["response"] =
            json!({"status": status, "headers": pairs(fields), "content": {"text": body}});
    }
    entry
}

/// An object of header fields; one that comes twice has an array.
fn object(fields: &[(&str, &str)]) -> Value {
    let mut object = json!({});
    for (name, value) in fields {
        let name = name.to_ascii_lowercase();
        object[name.as_str()] = match &object[name.as_str()] {
            Value::Null => json!(value),
            first => json!([first, value]),
        };
    }
    object
}

fn as_gateway_line(sent: &Sent) -> Value {
    let (fields, body) = &sent.request;
    let encoded = |body: &Option<&str>| body.map(|body| STANDARD.encode(body));
    let mut line = json!({
        "at": 1_826_540_000_123_u64, "client": "10.0.0.7", "latency": 12.5,
        "request": {
            "line": format!("{} {} HTTP/1.1", sent.method, sent.path), "scheme": "https", "host": "harbour.example",
            "headers": object(fields), "body": body, "body_cut": false,
        },
        "response": {"status": 0}, "error": "reset",
    });
    if let Some((status, fields, body)) = &sent.response {
        line["error"] = Value::Null;
        line["response"] = json!({
            "status": status, "headers": object(fields), "body": encoded(body), "body_encoding": "base64", "body_cut": null,
        });
    }
    line
}

fn as_service_line(sent: &Sent) -> Value {
    let (fields, body) = &sent.request;
    let list: Vec<Value> = fields.iter().map(|(name, value)| json!([name, value])).collect();
    let block = |fields: &[(&str, &str)]| -> String {
        fields.iter().map(|(name, value)| format!("{name}: {value}\r\n")).collect()
    };
    // As JSON where it is some, else as text.
    let logged = |body: &Option<&str>| match body.map(serde_json::from_str::<Value>) {
        Some(Ok(value)) => json!({"json": value}),
        _ => json!({"text": body}),
    };
    let mut asked = logged(body);
    asked["headers"] = json!(list);
    let mut line = json!({
        "time": "2027-11-18T12:13:20.123Z", "level": "info", "msg": "handled",
        "http": {
            "method": sent.method, "url": format!("https://harbour.example{}", sent.path),
            "request": asked, "took": "12.5ms", "error": "reset",
        },
    });
    if let Some((status, fields, body)) = &sent.response {
        line["http"]["status"] = json!(status);
        line["http"]["response"] = logged(body);
        line["http"]["response"]["headers"] = json!(block(fields));
    }
    line
}

fn as_row(sent: &Sent) -> Value {
    let (fields, body) = &sent.request;
    let (path, query) = sent.path.split_once('?').unzip();
    let mut row = json!({
        "event_time": "2027-11-18T12:13:20.123Z", "method": sent.method, "host": "harbour.example",
        "path": path.unwrap_or(sent.path), "request_headers": object(fields), "duration_ms": 12.5,
    });
    if let Some(query) = query {
        row["query"] = json!(query);
    }
    if let Some(body) = body {
        row["request_body"] = json!(body);
    }
    match &sent.response {
        Some((status, fields, body)) => {
            row["status"] = json!(status);
            row["response_headers"] = pairs(fields);
            row["response_body"] = json!(body);
        }
        None => row["failure"] = json!("reset"),
    }
    row
}

fn map(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../examples/maps/{name}.toml"))
}

fn lines(lines: impl IntoIterator<Item = Value>) -> String {
    lines.into_iter().map(|line| format!("{line}\n")).collect()
}

/// What a check says, with every recording under one name.
fn result(project: &Project, call: &str, name: &str) -> String {
    let run = project.run(call);
    assert!(matches!(run.code, Some(0 | 1)), "{run}");
    assert_eq!(run.stderr, "", "{run}");
    run.stdout.replace(name, "RECORDING")
}

#[test]
fn the_same_exchanges_give_the_same_result_in_any_log() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let sent = all();
    project.write("all.har", har(&sent.iter().map(as_har).collect::<Vec<_>>()));
    let whole = result(&project, "check all.har --format json", "all.har");
    // As they were made: what is wrong with them, and nothing else.
    let found: Value = serde_json::from_str(&whole).unwrap();
    let mut clauses: Vec<(&str, u64)> = found["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|finding| finding["severity"] == "breach")
        .map(|finding| (finding["clause"].as_str().unwrap(), finding["count"].as_u64().unwrap()))
        .collect();
    clauses.sort_unstable();
    assert_eq!(
        clauses,
        [
            ("exchange.has-response", 1),
            ("header.allow", 1),
            ("media.declared", 1),
            ("media.declared", 1),
            ("problem.status-agrees", 1),
            ("problem.title-declared", 1),
            ("situation.requires-error", 1),
            ("status.declared", 1),
            ("status.fits-situation", 1),
        ],
        "{whole}"
    );
    for (name, line) in [
        ("gateway", as_gateway_line as fn(&Sent) -> Value),
        ("service-log", as_service_line),
        ("table", as_row),
    ] {
        let recording = format!("{name}.jsonl");
        project.write(&recording, lines(sent.iter().map(line)));
        let call = |more: &str| format!("{more} --map {}", map(name).display());
        let mapped =
            result(&project, &call(&format!("check {recording} --format json")), &recording);
        assert!(mapped == whole, "{name}:\n{mapped}\n{whole}");
        // On one thread, by standard input in parts, and as HAR.
        let one = call(&format!("check {recording} --format json --threads 1"));
        assert_eq!(result(&project, &one, &recording), whole);
        project.run(&call(&format!("convert {recording} --to har --output {name}.har"))).exits(0);
        let converted = format!("{name}.har");
        let again = result(&project, &format!("check {converted} --format json"), &converted);
        assert!(again == whole, "{name}:\n{again}\n{whole}");
        let shown =
            project.run(&call(&format!("show {recording}#2 --format json"))).exits(0).json();
        assert_eq!(shown["milliseconds"], 12.5, "{name}");
        let text = std::fs::read_to_string(project.path().join(&converted)).unwrap();
        assert!(
            text.contains("\"startedDateTime\":\"2027-11-18T12:13:20.123Z\",\"time\":12.5"),
            "{name}"
        );
    }
}

#[test]
fn parts_of_a_log_add_up_and_another_map_is_refused() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let rows: Vec<Value> = all().iter().map(as_row).collect();
    project.write("all.jsonl", lines(rows.clone()));
    project.write("a.jsonl", lines(rows[..4].to_vec()));
    project.write("b.jsonl", lines(rows[4..].to_vec()));
    let map = map("table");
    let map = map.display();
    let whole = project.run(&format!("check all.jsonl --map {map}")).exits(1).stdout;
    for (name, first) in [("a", 1), ("b", 5)] {
        let call =
            format!("check {name}.jsonl --map {map} --ledger --part-of all.jsonl --first {first}");
        let run = project.run(&call).exits(0);
        project.write(&format!("l/{name}"), run.stdout);
    }
    assert_eq!(project.run("merge l").exits(1).stdout, whole);
    let other = std::fs::read_to_string(map.to_string()).unwrap() + "\n# another\n";
    project.write("other.toml", other);
    let run = project.run("check b.jsonl --map other.toml --ledger --part-of all.jsonl --first 5");
    project.write("l/b", run.exits(0).stdout);
    project.run("merge l").exits(2).complains("with the same --map");
}

/// A span as a collector exports it.
fn span(path: &str, status: Option<u16>, media: Option<&str>) -> Value {
    let mut attributes = vec![
        json!({"key": "http.request.method", "value": {"stringValue": "GET"}}),
        json!({"key": "url.scheme", "value": {"stringValue": "https"}}),
        json!({"key": "server.address", "value": {"stringValue": "harbour.example"}}),
        json!({"key": "server.port", "value": {"intValue": "443"}}),
        json!({"key": "url.path", "value": {"stringValue": path}}),
    ];
    match status {
        Some(status) => attributes.push(
            json!({"key": "http.response.status_code", "value": {"intValue": status.to_string()}}),
        ),
        None => attributes.push(json!({"key": "error.type", "value": {"stringValue": "timeout"}})),
    }
    if let Some(media) = media {
        attributes.push(json!({"key": "http.response.header.content-type", "value": {"arrayValue": {"values": [{"stringValue": media}]}}}));
    }
    json!({
        "traceId": "5b8efff798038103d269b633813fc60c", "name": "GET", "kind": 2,
        "startTimeUnixNano": "1826540000123456789", "endTimeUnixNano": "1826540000127956789", "attributes": attributes,
    })
}

/// Spans hold no bodies and few header fields: what is not in them is not said to be missing.
#[test]
fn spans_are_checked_as_far_as_they_go() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let spans = |spans: Vec<Value>| {
        json!({"resourceSpans": [{
            "resource": {"attributes": [{"key": "service.name", "value": {"stringValue": "harbour"}}]},
            "scopeSpans": [{"scope": {"name": "server"}, "spans": spans}],
        }]})
    };
    let first = vec![
        span("/v1/berths/A-3", Some(200), Some("application/json")),
        span("/v1/berths/Z-9", Some(404), Some("application/problem+json")),
        span("/v1/berths/Z-8", Some(404), Some("application/json")),
    ];
    let second = vec![
        span("/v1/berths/Z-6", Some(500), Some("application/problem+json")),
        // Allow is not recorded, so nobody knows.
        {
            let mut put = span("/v1/berths/A-3", Some(405), Some("application/problem+json"));
            put["attributes"][0]["value"]["stringValue"] = json!("PUT");
            put
        },
        span("/v1/berths/A-9", None, None),
    ];
    project
        .write("spans.jsonl", lines([spans(first), json!({"resourceSpans": []}), spans(second)]));
    let map = map("spans");
    let call = format!("check spans.jsonl --map {} --format json", map.display());
    let run = project.run(&call).exits(1);
    let found = run.json();
    let told: Vec<String> = found["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| {
            format!("{} {}", one["clause"].as_str().unwrap(), one["addresses"][0].as_str().unwrap())
        })
        .collect();
    assert_eq!(
        told,
        [
            "exchange.has-response spans.jsonl#6",
            "media.declared spans.jsonl#3",
            "status.declared spans.jsonl#4",
        ],
        "{run}"
    );
    assert_eq!(found["totals"]["checked"], 6, "{run}");
    let shown = project.run(&format!("show spans.jsonl#2 --map {}", map.display())).exits(0);
    let shown = shown.says("  (header fields that the recording does not hold)");
    shown.says("content-type: application/problem+json\n  (and header fields that the recording does not hold)");
    // Lines without spans are no empty file.
    project.write("none.jsonl", "{\"resourceSpans\": []}\n");
    let none = project.run(&format!("check none.jsonl --map {} --allow-empty", map.display()));
    assert_eq!(none.exits(0).stderr, "");
    // As HAR, it is still known what was not recorded.
    project
        .run(&format!("convert spans.jsonl --map {} --to har --output s.har", map.display()))
        .exits(0);
    let again = project.run("check s.har --format json").exits(1).stdout;
    assert_eq!(again.replace("s.har", "spans.jsonl"), run.stdout);
    let run = project
        .run(&format!("convert spans.jsonl --map {} --to http --output s.http", map.display()));
    run.exits(0).complains("that header fields were not recorded (6)");
}

#[test]
fn what_a_map_does_not_find_is_named_with_line_and_pointer() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let row = as_row(&all()[0]);
    let with = |name: &str, value: Value| {
        let mut row = row.clone();
        row[name] = value;
        row.to_string()
    };
    let map = map("table");
    for (line, why) in [
        ("{\"method\":\"GET\"".to_owned(), "line 3: it is no JSON: EOF while parsing"),
        ("[1]".to_owned(), "line 3: nothing at /method, where the map has the method"),
        (with("method", Value::Null), "line 3: nothing at /method, where the map has the method"),
        (with("path", Value::Null), "line 3: nothing at /path, where the map has the URL"),
        (with("status", Value::Null), "line 3: nothing at /status, where the map has the status"),
        (with("status", json!("ok")), "line 3: \"ok\" at /status is no status code"),
        (with("status", json!(70000)), "line 3: 70000 at /status is no status code"),
        (with("method", json!({"a": 1})), "line 3: {\"a\":1} at /method is no text"),
        (
            with("response_headers", json!(7)),
            "line 3: 7 at /response_headers is no list of header fields",
        ),
        (with("duration_ms", json!("soon")), "line 3: \"soon\" at /duration_ms is no duration"),
        (
            with("event_time", json!(17)),
            "line 3: the time at /event_time: 17: the map does not say its unit",
        ),
        (
            with("event_time", json!("noon")),
            "line 3: the time at /event_time: \"noon\": it is no time",
        ),
    ] {
        // A blank line is a line, and no exchange.
        project.write("rows.jsonl", format!("{row}\n\n{line}\n{row}\n"));
        let run = project.run(&format!("check rows.jsonl --map {}", map.display())).exits(3);
        let run = run.complains("rows.jsonl#2, byte ").complains(why);
        run.says("2 exchanges checked, 1 unreadable");
    }
    project.write("rows.jsonl", b"{\"method\":\"\xff\"}\n");
    let run = project.run(&format!("check rows.jsonl --map {}", map.display())).exits(3);
    run.complains("line 1: it is not UTF-8 at byte 11");
}

/// What is not recorded is neither missing nor wrong; what is recorded as empty is.
#[test]
fn what_is_not_recorded_is_not_judged() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    let map = map("table");
    let clauses = |row: &Value| -> Vec<String> {
        project.write("rows.jsonl", lines([row.clone()]));
        let run = project.run(&format!("check rows.jsonl --map {} --format json", map.display()));
        let found = run.json();
        let findings = found["findings"].as_array().unwrap().iter();
        findings.map(|one| one["clause"].as_str().unwrap().to_owned()).collect()
    };
    let base = json!({"method": "PUT", "host": "harbour.example", "path": "/v1/berths/A-3", "status": 405,
        "response_body": "{\"title\":\"Not Allowed\",\"status\":405}"});
    let with = |members: Value| {
        let mut row = base.clone();
        row.as_object_mut().unwrap().extend(members.as_object().unwrap().clone());
        row
    };
    assert_eq!(clauses(&base), [""; 0]);
    assert_eq!(clauses(&with(json!({"response_headers": null}))), [""; 0]);
    // Recorded, and neither an Allow nor a Content-Type among them.
    assert_eq!(clauses(&with(json!({"response_headers": {}}))), ["header.allow", "media.declared"]);
    assert_eq!(clauses(&with(json!({"response_body": null}))), [""; 0]);
    assert_eq!(clauses(&with(json!({"response_body": ""}))), ["body.present"]);
    // The log cut it: its length says so.
    let headers = json!([
        ["Allow", "GET"],
        ["Content-Type", "application/problem+json"],
        ["Content-Length", "400"]
    ]);
    assert_eq!(
        clauses(&with(json!({"response_headers": headers, "response_body": "{\"title\":\"Not"}))),
        [""; 0]
    );
    // Members of JSON bodies are looked at without header fields, too.
    let gone = json!({"response_body": {"title": "Not Allowed", "status": 410}});
    assert_eq!(clauses(&with(gone)), ["problem.status-agrees"]);
    // What is no JSON is not of the declared type, whoever says so.
    for body in ["<html><h1>It broke</h1></html>", "it broke", "{\"title\": "] {
        assert_eq!(clauses(&with(json!({"response_body": body}))), ["media.declared"], "{body}");
    }
    // Base64 that is none is a body that can't be read, whatever its length says.
    let length = json!([
        ["Content-Type", "application/problem+json"],
        ["Allow", "GET"],
        ["Content-Length", "40"]
    ]);
    project.write("based.toml", "[request]\nmethod = \"/method\"\nhost = \"/host\"\npath = \"/path\"\n[response]\nstatus = \"/status\"\nheaders = \"/response_headers\"\nbody = { at = \"/response_body\", base64 = true }\n");
    project.write(
        "rows.jsonl",
        lines([with(json!({"response_headers": length, "response_body": "*"}))]),
    );
    let run = project.run("check rows.jsonl --map based.toml").exits(3);
    run.complains("the response body: its base64 is not valid");
    // A request body that was not recorded is not missing.
    let post = json!({"method": "POST", "host": "harbour.example", "path": "/v1/reservations", "status": 201, "response_body": {"id": 1}});
    assert_eq!(clauses(&post), [""; 0]);
}

#[test]
fn a_map_that_says_too_little_is_a_wrong_call() {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    project.write("rows.jsonl", lines([as_row(&all()[0])]));
    for (text, why) in [
        ("[request]\nmethod = \"/m\"\n[response]\nstatus = \"/s\"\n", "[request] needs `url`"),
        ("[request]\nmethod = \"m\"\n", "`m` is not a JSON Pointer"),
        ("[request]\nverb = \"/m\"\n", "unknown field `verb`"),
        ("{", "TOML parse error at line 1"),
    ] {
        project.write("map.toml", text);
        project.run("check rows.jsonl --map map.toml").exits(2).complains(why);
    }
    project.run("check rows.jsonl --map nowhere.toml").exits(2).complains("nowhere.toml");
    let map = map("table");
    let map = map.display();
    project.run(&format!("check rows.jsonl --map {map} --from har")).exits(2).complains("--from");
    project.run(&format!("scrub rows.jsonl --map {map}")).exits(2).complains("convert it first");
    std::fs::copy(map.to_string(), project.path().join("own.toml")).unwrap();
    let run = project.run("check rows.jsonl --map own.toml --report html=own.toml").exits(2);
    run.complains("own.toml is an input of this call; not overwritten");
}
