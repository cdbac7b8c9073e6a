//! Services that put a probe off, and services that say the same to everything.

use std::sync::atomic::{AtomicUsize, Ordering};

use serde_json::Value;

use crate::harbour::Served;
use crate::harness::{Project, Run};
use crate::script::Script;

const CONTRACT: &str = r#"contract = 1
servers = ["/v1"]
[probe]
credentials = { Authorization = "Bearer $TOKEN" }
[fault.who]
status = 401
when = ["missing-credentials", "invalid-credentials"]
[fault.none]
status = 404
when = ["resource-not-found", "unknown-route"]
[fault.method]
status = 405
when = ["method-not-allowed"]
[fault.invalid]
status = 422
when = ["invalid-body", "missing-body", "malformed-body"]
[fault.busy]
status = 429
any-request = true
[fault.away]
status = 503
any-request = true
[everywhere]
auth = "required"
faults = ["who", "none", "method", "busy", "away"]
[endpoint."GET /boats/{id}"]
success = [200]
[endpoint."POST /boats"]
success = [201]
faults = ["invalid"]
body-members = { name = "string" }
"#;

fn project() -> Project {
    let project = Project::new();
    project.write("error-contract.toml", CONTRACT);
    project
}

fn probe(project: &Project, service: &Script, more: &str) -> Run {
    let call = format!("probe --base-url http://{}/v1 --rate 500 {more}", service.address);
    let mut command = project.command(&call);
    let output = command.env("TOKEN", "made-up").output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    Run::of(&call, output.status.code(), text(output.stdout), text(output.stderr))
}

fn response(status: &str, more: &str, media: &str, body: &str) -> Vec<u8> {
    let length = body.len();
    let head =
        format!("HTTP/1.1 {status}\r\nContent-Type: {media}\r\nContent-Length: {length}\r\n");
    format!("{head}{more}\r\n{body}").into_bytes()
}

fn problem(status: &str) -> String {
    let (number, phrase) = status.split_once(' ').unwrap();
    format!("{{\"title\":\"{phrase}\",\"status\":{number}}}")
}

const PROBLEM: &str = "application/problem+json";

/// How many cells of the grid a recording covers, and how many of them are met.
fn met(project: &Project) -> u64 {
    let covered = project.run("coverage probe.jsonl --format json").exits(0).json();
    covered["cells"]["met"].as_u64().unwrap_or_else(|| panic!("{covered:#}"))
}

fn planned(project: &Project) -> usize {
    let plan = project.run("probe --dry-run").exits(0).stdout;
    // What is asked about a thing that was not created is not sent.
    let is_sent = |line: &&str| line.contains("  [") && !line.contains("{created-");
    plan.lines().filter(is_sent).count()
}

#[test]
fn a_service_that_says_the_same_to_everything_meets_nothing() {
    for (status, more, media, body, code) in [
        ("429 Too Many Requests", "Retry-After: 1\r\n", PROBLEM, None, 3),
        ("503 Service Unavailable", "Retry-After: 1\r\n", PROBLEM, None, 3),
        ("200 OK", "", "application/json", Some("{}"), 1),
        ("200 OK", "", "text/html", Some("<!doctype html><title>Hello</title>"), 1),
    ] {
        let project = project();
        let text = body.map_or_else(|| problem(status), str::to_owned);
        let service = Script::responding(move |_| response(status, more, media, &text));
        let run = probe(&project, &service, "--allow-writes --timeout 1 --stop-after 100");
        let run = run.exits(code);
        let asked = service.asked.lock().unwrap().len();
        assert_eq!(asked, planned(&project), "{status} {media}: {run}");
        let of = if code == 3 { 0 } else { met(&project) };
        assert_eq!(of, 0, "{status} {media}: {run}");
        if code == 3 {
            run.complains(&format!("{asked} of {} requests were not tested", asked + 1));
            assert_eq!(met(&project), 0, "{status}");
        }
    }
}

#[test]
fn a_request_that_is_put_off_is_sent_again_when_it_is_time() {
    let project = project();
    let count = AtomicUsize::new(0);
    let service = Script::responding(move |request| {
        // Every second one comes too early.
        if count.fetch_add(1, Ordering::Relaxed).is_multiple_of(2) {
            let status = "429 Too Many Requests";
            return response(status, "Retry-After: 0\r\n", PROBLEM, &problem(status));
        }
        let text = String::from_utf8_lossy(request).into_owned();
        let is_known = text.contains("Bearer made-up");
        let (status, more) = match text.split(' ').next().unwrap() {
            _ if text.starts_with("GET /v1/no-such-path") => ("404 Not Found", ""),
            "PATCH" => ("405 Method Not Allowed", "Allow: GET, POST\r\n"),
            _ if !is_known => {
                ("401 Unauthorized", "WWW-Authenticate: Bearer error=\"invalid_token\"\r\n")
            }
            "GET" => ("404 Not Found", ""),
            _ => ("422 Unprocessable Content", ""),
        };
        response(status, more, PROBLEM, &problem(status))
    });
    let run = probe(&project, &service, "--allow-writes --timeout 5");
    assert!(!run.stderr.contains("not tested"), "{run}");
    let asked = service.asked.lock().unwrap().len();
    assert_eq!(asked, 2 * planned(&project), "{run}");
    let lines = std::fs::read_to_string(project.path().join("probe.jsonl")).unwrap();
    let statuses: Vec<u64> = lines
        .lines()
        .map(|line| {
            serde_json::from_str::<Value>(line).unwrap()["response"]["status"].as_u64().unwrap()
        })
        .collect();
    assert_eq!(statuses.len(), planned(&project));
    assert!(!statuses.contains(&429), "{statuses:?}");
}

#[test]
fn nothing_that_could_write_is_sent_unasked() {
    let project = project();
    let service =
        Script::responding(|_| response("404 Not Found", "", PROBLEM, &problem("404 Not Found")));
    probe(&project, &service, "");
    let asked = service.asked.lock().unwrap();
    assert!(!asked.is_empty() && asked.iter().all(|request| request.starts_with(b"GET ")));
}

/// The gate and the reports are those of a check.
#[test]
fn a_probe_ends_as_a_check_does() {
    let project = project();
    let service = Script::responding(|_| response("200 OK", "", "application/json", "{\"id\":1}"));
    let more = "--report junit=j.xml --report ledger=l.json --report html=p.html --format json";
    let run = probe(&project, &service, more).exits(1);
    let check = run.json();
    assert_eq!(check["format"], "fclerk check");
    for name in ["j.xml", "l.json", "p.html"] {
        assert!(project.path().join(name).is_file(), "{name}");
    }
    // What was found before does not fail any more.
    probe(&project, &service, "--output again.jsonl --baseline l.json").exits(0);
    // What is wrong with a report is known before anything is sent.
    let before = service.asked.lock().unwrap().len();
    probe(&project, &service, "--output third.jsonl --report junit=no/such/folder/j.xml").exits(2);
    assert_eq!(service.asked.lock().unwrap().len(), before);
    assert!(!project.path().join("third.jsonl").exists());
}

/// One that was stopped in the middle of a line is continued; nothing is sent twice.
#[test]
fn a_probe_that_was_stopped_is_continued() {
    let project = project();
    let service =
        Script::responding(|_| response("404 Not Found", "", PROBLEM, &problem("404 Not Found")));
    let whole = probe(&project, &service, "--allow-writes").exits(0);
    let path = project.path().join("probe.jsonl");
    let lines = std::fs::read_to_string(&path).unwrap();
    let planned = planned(&project);
    assert_eq!((lines.lines().count(), service.asked.lock().unwrap().len()), (planned, planned));
    let cut = lines.split_inclusive('\n').take(5).map(str::len).sum::<usize>() + 20;
    std::fs::write(&path, &lines[..cut]).unwrap();
    let run = probe(&project, &service, "--allow-writes --resume").exits(0);
    let run = run.complains(&format!("5 of {} requests are in probe.jsonl already", planned + 1));
    assert_eq!(service.asked.lock().unwrap().len(), planned + planned - 5);
    let again = std::fs::read_to_string(&path).unwrap();
    let names = |text: &str| -> Vec<String> {
        let name = |line: &str| serde_json::from_str::<Value>(line).unwrap()["comment"].to_string();
        text.lines().map(name).collect()
    };
    assert_eq!(names(&again), names(&lines));
    assert_eq!(run.stdout, whole.stdout);
    probe(&project, &service, "--resume --output nothing.jsonl")
        .exits(2)
        .complains("nothing.jsonl");
}

/// What a service without flaws is asked, in a hurry and by a service that limits it: the same is found, nothing, and nothing is
/// left untested.
#[test]
fn a_service_that_limits_rates_is_probed_to_the_end() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    let served = Served::started(&project, "after --port 0 --per-second 8");
    let mut command = project
        .command(&format!("probe --base-url http://{}/v1 --rate 400 --skip PUT", served.address));
    let output =
        command.env("HARBOUR_TOKEN", "made-up-token-of-the-harbour-office").output().unwrap();
    let complaints = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(0), "{complaints}");
    assert!(!complaints.contains("not tested"), "{complaints}");
    let plan = project.run("probe --dry-run --skip PUT").exits(0);
    // What nobody created is not read.
    let is_sent = |line: &&str| line.ends_with(']') && !line.starts_with("sequence");
    let reads = plan.stdout.lines().filter(is_sent).count();
    let text = std::fs::read_to_string(project.path().join("probe.jsonl")).unwrap();
    let statuses: Vec<u64> = text
        .lines()
        .map(|line| {
            serde_json::from_str::<Value>(line).unwrap()["response"]["status"].as_u64().unwrap()
        })
        .collect();
    assert!(reads > 16, "{plan}");
    assert_eq!(statuses.len(), reads);
    assert!(!statuses.contains(&429), "{statuses:?}");
}

/// A thing is created, read, changed and deleted; one that is still there is found, as is one that nobody takes away.
#[test]
fn the_life_of_a_thing_is_led_to_its_end() {
    const THINGS: &str = "[endpoint.\"PATCH /boats/{id}\"]\nsuccess = [200]\nfaults = [\"invalid\"]\n\
        body-members = { name = \"string\" }\n[endpoint.\"DELETE /boats/{id}\"]\nsuccess = [204]\n";
    // It says that it deletes, and does not.
    let service = || {
        Script::responding(|request| {
            let text = String::from_utf8_lossy(request).into_owned();
            let mut words = text.split(' ');
            let (method, path) = (words.next().unwrap(), words.next().unwrap());
            let is_thing = path == "/v1/boats/new-1";
            let body = text.split("\r\n\r\n").nth(1).unwrap_or_default();
            let is_right = body.starts_with("{\"name\":\"");
            let known = text.contains("Bearer made-up");
            let (status, more) = match method {
                _ if !path.starts_with("/v1/boats") => ("404 Not Found", ""),
                "PUT" | "DELETE" if path == "/v1/boats" => {
                    ("405 Method Not Allowed", "Allow: POST\r\n")
                }
                "PATCH" if path == "/v1/boats" => ("405 Method Not Allowed", "Allow: POST\r\n"),
                "POST" | "PUT" if path != "/v1/boats" => {
                    ("405 Method Not Allowed", "Allow: GET, PATCH, DELETE\r\n")
                }
                _ if !known => {
                    ("401 Unauthorized", "WWW-Authenticate: Bearer error=\"invalid_token\"\r\n")
                }
                "POST" | "PATCH" if !is_right => ("422 Unprocessable Content", ""),
                "POST" => ("201 Created", "Location: /v1/boats/new-1\r\n"),
                "GET" | "PATCH" if is_thing => ("200 OK", ""),
                "DELETE" if is_thing => ("204 No Content", ""),
                _ => ("404 Not Found", ""),
            };
            match status {
                "204 No Content" => b"HTTP/1.1 204 No Content\r\n\r\n".to_vec(),
                "200 OK" | "201 Created" => {
                    response(status, more, "application/json", "{\"name\":\"x\"}")
                }
                status => response(status, more, PROBLEM, &problem(status)),
            }
        })
    };
    let project = Project::new();
    project.write("error-contract.toml", format!("{CONTRACT}{THINGS}"));
    let run = probe(&project, &service(), "--allow-writes").exits(1);
    let run = run.says("because   the probe meant it so: sequence of /boats: read what is gone");
    assert!(!run.stderr.contains("still there"), "{run}");
    let steps = |name: &str| -> Vec<String> {
        let text = std::fs::read_to_string(project.path().join(name)).unwrap();
        let entries = text.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
        let of = |entry: &Value| {
            let name = entry["comment"].as_str().unwrap().strip_prefix("sequence of /boats: ");
            name.map(|name| format!("{name}: {}", entry["response"]["status"]))
        };
        entries.filter_map(|entry| of(&entry)).collect()
    };
    assert_eq!(
        steps("probe.jsonl"),
        [
            "create: 201",
            "read: 200",
            "change by PATCH: 200",
            "delete: 204",
            "read what is gone: 200",
            "delete what is gone: 204",
        ]
    );
    // Where nothing deletes, what was made is told.
    project.write("error-contract.toml", CONTRACT);
    let run = probe(&project, &service(), "--allow-writes --output other.jsonl");
    run.complains("created, and still there: http://127.0.0.1:").complains("/v1/boats/new-1");
    assert_eq!(steps("other.jsonl"), ["create: 201", "read: 200"]);
    // Unasked, nothing of it is sent.
    probe(&project, &service(), "--output third.jsonl");
    assert_eq!(steps("third.jsonl"), [""; 0]);
}

/// What is created twice by one key, what is changed by a tag that nobody gave, and what changes nothing.
#[test]
fn keys_and_tags_are_tried_where_the_contract_speaks_of_them() {
    const MORE: &str = "[fault.stale]\nstatus = 412\nwhen = [\"precondition-failed\"]\n\
        [endpoint.\"POST /boats\".parameters.header]\nIdempotency-Key = 'string matching ^[0-9a-f-]{36}$'\n\
        [endpoint.\"PATCH /boats/{id}\"]\nsuccess = [200]\nfaults = [\"invalid\", \"stale\"]\n\
        requires = { If-Match = \"precondition-required\" }\nbody-members = { name = \"string\" }\n\
        [endpoint.\"DELETE /boats/{id}\"]\nsuccess = [204]\n\
        [fault.required]\nstatus = 428\nwhen = [\"precondition-required\"]\n";
    let steps = |has_strong_tags: bool| -> Vec<String> {
        let boats = AtomicUsize::new(0);
        let service = Script::responding(move |request| {
            let text = String::from_utf8_lossy(request).to_ascii_lowercase();
            let mut words = text.split(' ');
            let (method, path) = (words.next().unwrap(), words.next().unwrap());
            // Each creation is one, whatever its key; no change changes the tag.
            let tag = if has_strong_tags { "\"t\"" } else { "W/\"t\"" };
            let more = match method {
                "post" => {
                    let number = boats.fetch_add(1, Ordering::Relaxed);
                    format!("ETag: {tag}\r\nLocation: /v1/boats/new-{number}\r\n")
                }
                _ => format!("ETag: {tag}\r\n"),
            };
            let (status, body) = match method {
                _ if path == "/v1/boats/new-0" && method == "get" => ("200 OK", "{\"name\":\"x\"}"),
                "post" => ("201 Created", "{\"name\":\"x\"}"),
                "patch" if text.contains("no-such-entity-tag") => ("412 Precondition Failed", "{}"),
                _ => ("200 OK", "{\"name\":\"x\"}"),
            };
            response(status, &more, "application/json", body)
        });
        let project = Project::new();
        project.write("error-contract.toml", format!("{CONTRACT}{MORE}"));
        let run = probe(&project, &service, "--allow-writes --only sequence").exits(1);
        run.complains("not sent, as no response provided what");
        let text = std::fs::read_to_string(project.path().join("probe.jsonl")).unwrap();
        text.lines()
            .map(|line| {
                let entry: Value = serde_json::from_str(line).unwrap();
                let name = entry["comment"].as_str().unwrap();
                let header = |name: &str| -> String {
                    let headers = entry["request"]["headers"].as_array().unwrap();
                    let found = headers.iter().find(|header| header["name"] == name);
                    found.map_or("", |header| header["value"].as_str().unwrap()).to_owned()
                };
                let url = entry["request"]["url"].as_str().unwrap().rsplit('/').next().unwrap();
                let key = header("Idempotency-Key");
                let key = key.split_at_checked(23).map_or("", |(_, number)| number);
                let name = name.strip_prefix("sequence of /boats: ").unwrap();
                format!("{name}: {url} {}{key}", header("If-Match"))
            })
            .collect()
    };
    let life = |steps: &[&str]| -> Vec<String> {
        let begin = [
            "create: boats -000001000000",
            "create once more with the same idempotency key: boats -000001000000",
            "read: new-0 ",
            "change by PATCH: new-0 *",
            "PATCH if an unknown tag matches: new-0 \"no-such-entity-tag\"",
            "read before PATCH with its tag: new-0 ",
        ];
        let end = [
            "delete: new-0 ",
            "read what is gone: new-0 ",
            "read what the repeated creation gave, which is gone: new-1 ",
            "delete what is gone: new-0 ",
        ];
        begin.iter().chain(steps).chain(&end).map(|step| (*step).to_owned()).collect()
    };
    // A tag that did not change says nothing of an old one; a weak one matches nothing.
    let strong = ["PATCH if its tag matches: new-0 \"t\"", "read after PATCH with its tag: new-0 "];
    assert_eq!(steps(true), life(&strong));
    assert_eq!(steps(false), life(&strong[1..]));
}

/// A service that sends back what it got is recorded without the probe's credentials.
#[test]
fn an_echo_of_the_probes_credentials_is_not_recorded() {
    let service = Script::responding(|request| {
        let text = String::from_utf8_lossy(request).into_owned();
        let field = text.lines().find(|line| line.to_lowercase().starts_with("authorization"));
        let echo = field.and_then(|line| line.split_once(": ")).map_or("", |(_, value)| value);
        let body = serde_json::json!({"status": 404, "detail": format!("no boat for {echo}")});
        let more = format!("X-Echo: {echo}\r\n");
        response("404 Not Found", &more, "application/problem+json", &body.to_string())
    });
    let project = project();
    probe(&project, &service, "");
    let recorded = std::fs::read_to_string(project.path().join("probe.jsonl")).unwrap();
    assert!(
        recorded.contains("no boat for Bearer *******") || recorded.contains("no boat for ***"),
        "{recorded}"
    );
    assert!(!recorded.contains("made-up"), "{recorded}");
    let mut command = project.command(&format!("probe --base-url http://{}/v1", service.address));
    let output = command.env("TOKEN", "made\nup").output().unwrap();
    assert_eq!(output.status.code(), Some(2));
    let told = String::from_utf8(output.stderr).unwrap();
    assert!(told.contains("TOKEN has a line break") && !told.contains("made"), "{told}");
}

/// A service that never looks at `Accept` would do what it is asked for, and it was not to.
#[test]
fn nothing_that_could_write_depends_on_accept_alone() {
    let project = project();
    let contract = CONTRACT.replace("[everywhere]", "[fault.form]\nstatus = 406\nwhen = [\"not-acceptable\"]\n[everywhere]\nproduces = [\"application/json\"]");
    project.write("error-contract.toml", contract.replace("\"busy\", ", "\"busy\", \"form\", "));
    let plan =
        project.run("probe --dry-run --allow-writes --base-url http://127.0.0.1:1/v1").stdout;
    let asks = |name: &str| plan.lines().any(|line| line.contains(name) && line.contains("Accept"));
    assert!(asks("GET /boats") && !asks("POST /boats"), "{plan}");
}
