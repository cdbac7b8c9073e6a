//! Hostile and broken input: a clear message, the right exit code, and the rest is still done.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::json;

use crate::harness::{Project, got, har, sent};

const PROBLEM: &str = "application/problem+json";

#[test]
fn what_is_no_har_says_what_it_is() {
    let project = Project::with(HARBOUR, &[]);
    for (bytes, words) in [
        (&b""[..], "the file is empty"),
        (b"<html></html>", "this is not a recording: it begins with `<html></html`"),
        (b"[]", "it begins with `[]`"),
        (b"{\"a\":1}", "no log.entries"),
        (b"{\"log\":{\"entries\":[", "ends before its JSON does"),
        (b"\x1f\x8b\x08\x00", "reading failed"),
    ] {
        project.write("a.har", bytes);
        project.run("check a.har").exits(3).complains("a.har, byte ").complains(words);
    }
    // And the other recordings of the call are still checked.
    project.write("b.har", har(&[got("GET", "/nowhere", 404, "text/html", "<p>")]));
    project.run("check a.har b.har").exits(3).says("media.declared                     b.har#1");
}

#[test]
fn files_that_are_not_there_and_folders_without_recordings() {
    let project = Project::with(HARBOUR, &[]);
    std::fs::create_dir(project.path().join("empty")).unwrap();
    project.run("check none.har").exits(2).complains("none.har: No such file");
    project.run("check empty").exits(2).complains("empty: no recordings in this folder");
    project.run("check empty a.har").exits(2).says("0 exchanges checked");
    project.run("check - -").exits(2).complains("only once");
}

#[test]
fn a_contract_that_cannot_be_read() {
    let project = Project::with(HARBOUR, &[]);
    project.write("latin.toml", b"contract = 1\nservice = \"H\xe4fen\"\n");
    project.run("check --contract latin.toml a.har").exits(2).complains("not UTF-8 at byte 25");
    project.run("check --contract . a.har").exits(2).complains("can't read");
    project.write("empty.toml", "");
    project.run("check --contract empty.toml a.har").exits(2).complains("the contract is empty");
    project.write("binary.toml", "\u{0}\u{1b}[2J = 1");
    let run = project.run("check --contract binary.toml a.har").exits(2);
    assert!(!run.stderr.contains('\u{1b}'), "{run}");
}

/// Names in a contract can hold escapes, too; TOML writes them as `\u001B`.
#[test]
fn names_in_a_contract_are_shown_without_their_escapes() {
    let project = Project::with(HARBOUR, &[]);
    let evil = r#"\u001B[2J"#;
    project.write(
        "evil.toml",
        format!(
            "contract = 1\n[shape.\"x{evil}\"]\ncolour{evil} = 1\n\"{evil}\" = 2\n[fault.\"{evil}\"]\n\
             wind = 1\n[endpoint.\"GET /{evil}\"]\nwind = 1\n[endpoint.\"GET /{evil}\"]\n\
             [endpoint.\"GET /a{{b{evil}}}\"]\n[endpoint.\"GET /a{{c{evil}}}\"]\n"
        ),
    );
    let run = project.run("check --contract evil.toml a.har").exits(2);
    assert!(!run.stderr.contains(|c: char| c.is_control() && c != '\n'), "{:?}", run.stderr);
}

#[test]
fn a_contract_with_ten_mistakes_tells_all_ten() {
    let project = Project::with(HARBOUR, &[]);
    project.write(
        "ten.toml",
        r#"contract = 1
servers = ["harbour.example"]
colour = "blue"
[error]
media = "json"
shape = "problen"
[shape.a]
x = "txt"
[fault.b]
status = 42
when = ["field-invalid"]
[everywhere]
faults = ["c"]
[endpoint."GET berths"]
[endpoint."GET /berths"]
auth = "luck"
[severity]
"status.declared" = "much"
"#,
    );
    let run = project.run("check --contract ten.toml a.har").exits(2);
    for location in
        ["2:12", "3:1", "5:9", "6:9", "8:6", "10:10", "11:9", "13:11", "14:16", "16:8", "18:21"]
    {
        assert!(run.stderr.contains(&format!("ten.toml:{location}\n")), "{location}\n{run}");
    }
    run.complains("ten.toml: 11 errors").complains("did you mean `problem`?");
}

#[test]
fn deep_nesting_in_a_body_or_a_file_is_not_judged_and_does_no_harm() {
    let deep = format!("{}{}", "[".repeat(200), "]".repeat(200));
    let mut entry =
        got("GET", "/nowhere", 404, PROBLEM, &format!("{{\"title\":\"Not Found\",\"x\":{deep}}}"));
    entry["_deep"] =
        serde_json::from_str(&format!("{}{}", "[".repeat(100), "]".repeat(100))).unwrap();
    let text = har(&[entry])
        .replace("\"log\":{", &format!("\"_deep\":{deep},\"log\":{{\"_deep\":{deep},"));
    let project = Project::with(HARBOUR, &[]);
    project.write("a.har", text);
    project.run("check a.har").exits(0).says("its JSON is nested deeper than 127 levels");
    // A request's body as deep: it is JSON, and its members are not checked.
    let request = sent("POST", "/reservations", &[], Some(&deep), 201, "application/json", "{}");
    Project::with(HARBOUR, &[request]).run("check a.har").exits(0);
}

#[test]
fn a_body_of_50_megabytes_is_read_in_good_time() {
    let body =
        json!({"title": "Not Found", "status": 404, "echo": "x".repeat(50 << 20)}).to_string();
    let project = Project::with(HARBOUR, &[got("GET", "/nowhere", 404, PROBLEM, &body)]);
    project.run_in_seconds(20, "check a.har").exits(0).says("1 exchange checked; 0 breaches");
}

#[test]
fn an_entry_beyond_the_limit_is_named_and_skipped() {
    let project = Project::with(HARBOUR, &[]);
    let large = got("GET", "/nowhere", 404, PROBLEM, &"x".repeat(65 << 20));
    project.write("a.har", har(&[large, got("GET", "/nowhere", 404, "text/html", "<p>")]));
    project
        .run("check a.har")
        .exits(3)
        .complains("a.har#1, byte ")
        .says("media.declared                     a.har#2");
}

#[test]
fn control_characters_and_terminal_escapes_never_reach_a_terminal() {
    let evil = "\u{1b}[2J\u{7}\u{202e}evil\u{0}\r";
    let body = json!({"title": evil, "status": 404, evil: 1, "statusCode": 404}).to_string();
    let mut entry = got("GET", "/nowhere", 404, PROBLEM, &body);
    entry["request"]["url"] = json!(format!("https://harbour.example/v1/nowhere{evil}"));
    let mut allow = got("PUT", "/berths/A-3", 405, PROBLEM, r#"{"title":"Method Not Allowed"}"#);
    let header = json!({"name": "Allow", "value": format!("PUT{evil}")});
    allow["response"]["headers"].as_array_mut().unwrap().push(header);
    let project = Project::with(HARBOUR, &[entry, allow]);
    project.write(
        &format!("{}.har", "\u{1b}[31m"),
        har(&[got("GET", "/nowhere", 404, "text/html", "<p>")]),
    );
    let run = project.run("check . ").exits(1);
    for stream in [&run.stdout, &run.stderr] {
        let harmful = |c: char| c.is_control() && c != '\n' || c == '\u{202e}';
        assert!(!stream.contains(harmful), "{stream:?}");
    }
    project.run("check --format json .").exits(1).json();
}

#[test]
fn one_place_of_one_body_cannot_flood_the_output() {
    let entries: Vec<_> = (0..5000).map(|n| json!({"pointer": n})).collect();
    let body = json!({"type": "https://harbour.example/faults/invalid-request",
        "title": "The request is not valid", "status": 422, "errors": entries});
    let token = [("Authorization", "Bearer made-up")];
    let exchange =
        sent("POST", "/reservations", &token, Some("{}"), 422, PROBLEM, &body.to_string());
    let endless = "x".repeat(100_000);
    let long = got("GET", "/nowhere", 404, PROBLEM, &json!({"title": endless}).to_string());
    let named = format!(
        "{{\"title\":\"Not Found\",\"trace\":{{\"{endless}\":\"goroutine 1 [running]:\"}}}}"
    );
    let named = got("GET", "/nowhere", 404, PROBLEM, &named);
    let mut allow = got("PUT", "/berths/A-3", 405, PROBLEM, r#"{"title":"Method Not Allowed"}"#);
    let header = json!({"name": "Allow", "value": endless});
    allow["response"]["headers"].as_array_mut().unwrap().push(header);
    let run = Project::with(HARBOUR, &[exchange, long, named, allow]).run("check a.har").exits(1);
    assert!(run.stdout.len() < 8000, "{}", run.stdout.len());
    run.says("; the same at 49 more locations of the array, or more");
}

#[cfg(unix)]
#[test]
fn a_folder_that_links_to_itself_is_walked_once() {
    let project = Project::with(HARBOUR, &[]);
    project.write("folder/a.har", har(&[]));
    std::os::unix::fs::symlink(project.path().join("folder"), project.path().join("folder/loop"))
        .unwrap();
    let check = project.run("check --format json --allow-empty folder").exits(0).json();
    assert_eq!(check["recordings"], json!(["folder/a.har"]));
}

/// Values that no parser likes, in an error's body: the rest of it is checked, and nothing breaks.
#[test]
fn odd_json_in_an_answer_is_judged_as_far_as_it_can_be() {
    let none =
        r#""type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth""#;
    for (body, said) in [
        (format!("{{{none},\"status\":404,\"status\":405}}"), "body.unique-names"),
        (format!("{{{none},\"size\":123456789012345678901234567890}}"), "0 breaches"),
        (format!("{{{none},\"size\":1e400}}"), "a number beyond a 64-bit float"),
        (format!("{{{none},\"odd\":\"\\ud800\"}}"), "half of a surrogate pair"),
        (format!("{{{none},\"status\":{}}}", "9".repeat(4000)), "a number beyond a 64-bit float"),
        (format!("{{{none},\"status\":-404}}"), "problem.member-type"),
    ] {
        let run = Project::with(HARBOUR, &[got("GET", "/berths/Z-99", 404, PROBLEM, &body)])
            .run("check a.har");
        assert!(matches!(run.code, Some(0 | 1)), "{run}");
        run.says(said);
    }
}

/// A wrong request of 300 KB, whose every item is wrong, and a response that echoes all of it.
#[test]
fn a_large_wrong_request_is_told_in_few_words() {
    let contract = HARBOUR
        .replace("note = \"optional string, at most 200\"", "note = \"optional array of integer\"");
    let items = vec!["\"xxxxxxxxxxxxxxxxxxxxxxxx\""; 11_000].join(",");
    let request = format!("{{\"vessel_id\":\"OB1234\",\"nights\":2,\"note\":[{items}]}}");
    assert!(request.len() > 280_000);
    let errors: Vec<_> = (0..11_000)
        .map(|n| json!({"pointer": format!("/note/{n}"), "detail": "is no number"}))
        .collect();
    let response = json!({"type": "https://harbour.example/faults/invalid-request", "title": "The request is not valid",
        "status": 422, "errors": errors[..10_999], "sent": request});
    let headers = [("Authorization", "x"), ("Content-Type", "application/json")];
    let entry = sent(
        "POST",
        "/reservations",
        &headers,
        Some(&request),
        422,
        PROBLEM,
        &response.to_string(),
    );
    let run = Project::with(&contract, &[entry]).run_in_seconds(20, "check a.har").exits(0);
    assert!(run.stdout.len() < 8000, "{}", run.stdout.len());
}

/// Lists in lists, fields that are members, objects keyed by ids, a hundred thousand of each: nothing is looked for
/// anew for each of them.
#[test]
fn what_is_deep_or_wide_takes_no_longer_than_it_is_long() {
    let (count, secret) = (100_000, "7f3a21bc9d04e5f6a7b8");
    let deep = format!("{}{}", "[".repeat(count), "\"a\",".repeat(count));
    let fields: Vec<String> = (0..count)
        .map(|n| format!(r#""f{n}":{{"name":"X-Api-Key","value":"{secret}{n}"}}"#))
        .collect();
    let wide = format!("{{{}}}", fields.join(","));
    let ids: Vec<String> = (0..count).map(|n| format!(r#""{n}":{{"1":2}}"#)).collect();
    let json = "application/json";
    let ids = got("GET", "/berths", 200, json, &format!("{{{}}}", ids.join(",")));
    let mut with_fields = got("GET", "/berths", 200, json, "{}");
    with_fields["request"]["headers"] = serde_json::from_str(&wide).unwrap();

    let project = Project::with(HARBOUR, &[got("GET", "/berths", 200, json, &deep), with_fields]);
    let scrubbed = project.run_in_seconds(20, "scrub a.har").exits(3).stdout;
    assert!(!scrubbed.contains(secret) && scrubbed.contains("X-Api-Key"));
    project.write("b.har", har(&[ids]));
    project.run_in_seconds(20, "compare b.har b.har").exits(0);
}

/// Names in schemas and descriptions are shown without their escapes.
#[test]
fn what_a_named_file_says_reaches_no_terminal_as_it_is() {
    let contract = HARBOUR.replace("auth = \"required\"", "auth = \"required\"\nbody = \"s.json\"");
    let project = Project::with(&contract, &[]);
    project.write("s.json", "{\"$ref\": \"x\\u001b[31m.json\"}");
    let run = project.run("check a.har").exits(2).complains("this JSON Schema can't be used");
    assert!(!run.stderr.contains('\u{1b}'), "{run}");
}

/// Each of these once took minutes, or all memory, or the stack.
#[test]
fn what_is_long_is_bounded_and_told() {
    let project = Project::with(HARBOUR, &[]);
    let path = "/q".repeat(50_000);
    project.write("long.har", har(&[got("GET", &path, 200, "application/json", "{}")]));
    project.run_in_seconds(20, "survey long.har").exits(0).says("at 1 endpoint");
    project.run_in_seconds(20, "draft long.har").exits(0);
    project.run_in_seconds(20, "compare long.har long.har").exits(0);
    let mistakes: String = (0..3_000).map(|n| format!("[fault.f{n}]\nstatsu = 404\n")).collect();
    project.write("mistakes.toml", format!("contract = 1\nservers = [\"/\"]\n{mistakes}"));
    let run = project.run_in_seconds(20, "check --contract mistakes.toml a.har").exits(2);
    run.complains("5800 more are not shown").complains("6000 errors");
    let shape = |n: usize| format!("[shape.s{}]\nlike = \"s{n}\"\nm{n} = \"string\"\n", n + 1);
    let chain: String = (0..1_000).map(shape).collect();
    let chain = format!("contract = 1\nservers = [\"/\"]\n[shape.s0]\na = \"string\"\n{chain}");
    project.write("chain.toml", chain);
    let run = project.run_in_seconds(20, "check --contract chain.toml a.har").exits(2);
    run.complains("take over too many members by `like`");
}

/// What has no end, or waits for somebody, is not read.
#[cfg(unix)]
#[test]
fn a_contract_names_regular_files_alone() {
    let project = Project::with(&format!("openapi = \"pipe\"\n{HARBOUR}"), &[]);
    let made = std::process::Command::new("mkfifo").arg(project.path().join("pipe")).status();
    if !made.is_ok_and(|status| status.success()) {
        println!("skipped: there is no mkfifo here");
        return;
    }
    project.run_in_seconds(5, "check a.har").exits(2).complains("it is not a regular file");
    let run = project.run_in_seconds(5, "check --contract /dev/zero a.har").exits(2);
    run.complains("it is larger than 64 MiB");
}
