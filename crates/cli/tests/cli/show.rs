//! `show`: one exchange, laid out.

use std::fs::File;

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::json;

use crate::harness::{Project, got, har, sent};

const PROBLEM: &str = "application/problem+json";

fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project
}

/// Does the line with these words stand right under the line with those?
#[track_caller]
fn under(text: &str, above: &str, below: &str) {
    let mut lines = text.lines();
    lines.find(|line| line.contains(above)).unwrap_or_else(|| panic!("no {above:?} in\n{text}"));
    let next = lines.next().unwrap_or_default();
    assert!(next.contains(below), "{next:?} under {above:?}, not {below:?}, in\n{text}");
}

/// A finding stands at the line that it concerns; what is missing, before the end of what it is missing in.
#[test]
fn findings_stand_at_their_lines() {
    let project = demo();
    for (number, above, below) in [
        (29, "201 Created", "^ breach situation.requires-error"),
        (29, "\"nights\": 99", "^ out of range; expected integer from 1 to 28"),
        (20, "\"errors\": [", "^ breach validation.complete"),
        (33, "\"status\": 400", "^ breach problem.status-agrees"),
        (24, "Content-Type: text/html", "^ breach media.matches-body at header Content-Type"),
        (5, "byId(Berths.java:88)", "^ breach disclosure.stack-trace"),
        (44, "\"status\": 404", "^ breach problem.required-members"),
        (21, "(no body)", "^ breach body.present"),
        (62, "(no response: no answer within 30 s)", "^ breach exchange.has-response"),
        (7, "Content-Length: 100", "^ breach header.allow at header Allow"),
        (52, "  [", "^ breach problem.is-object"),
    ] {
        let run = project.run(&format!("show before.har#{number}")).exits(0);
        under(&run.stdout, above, below);
    }
}

/// How the situation was recognised, the fault for it, and the response as it should have been.
#[test]
fn what_was_agreed_is_told_and_drafted() {
    let project = demo();
    for (number, words) in [
        (
            29,
            &[
                "situation invalid-body: /nights is out of range",
                "the fault invalid-request",
                "422 Unprocessable Content",
                "\"pointer\": \"/nights\"",
                "\"code\": \"out_of_range\"",
            ][..],
        ),
        (
            5,
            &[
                "situation resource-not-found: the case `unknown-berth` says so",
                "404 Not Found",
                "\"title\": \"There is no such berth\"",
            ],
        ),
        (
            7,
            &[
                "no endpoint of the contract",
                "method-not-allowed: the path offers GET",
                "Allow: GET",
            ],
        ),
        (8, &["unknown-route: no path of the contract matches", "the fault no-route"]),
        (22, &["malformed-body: the body is malformed JSON: EOF while parsing", "400 Bad Request"]),
        (31, &["missing-body: the endpoint requires a body, and there is none"]),
        (
            48,
            &[
                "missing-credentials: the endpoint requires credentials, and there is no Authorization",
                "WWW-Authenticate: Bearer",
            ],
        ),
        (
            23,
            &["unsupported-media-type: the body is application/x-www-form-urlencoded; accepted is"],
        ),
        (
            72,
            &[
                "invalid-parameters: length_m in the query breaks its rule",
                "\"parameter\": \"length_m\"",
            ],
        ),
        (47, &["the response says so: 404, the fault `no-such-reservation`", "no finding"]),
        (3, &["the request is valid", "a success was expected: 200", "no finding"]),
        (11, &["It is excluded: an OPTIONS request"]),
    ] {
        // One has a body that is not JSON, in which no secret can be looked for.
        let code = if number == 22 { 3 } else { 0 };
        let run = project.run(&format!("show before.har#{number}")).exits(code);
        words.iter().fold(run, |run, words| run.says(words));
    }
}

#[test]
fn json_and_markdown_tell_the_same() {
    let project = demo();
    let show = project.run("show --format json before.har#29").exits(0).json();
    assert_eq!(show["address"], "before.har#29");
    assert_eq!(show["endpoint"], "POST /reservations");
    assert_eq!(show["request"]["body"]["nights"], 99);
    assert_eq!(show["response"]["status"], 201);
    assert_eq!(show["situations"][0]["situation"], "invalid-body");
    assert_eq!(show["findings"][0]["clause"], "situation.requires-error");
    assert_eq!(show["expected"]["status"], 422);
    assert_eq!(show["expected"]["body"]["errors"][0]["pointer"], "/nights");
    let run = project.run("show --format markdown before.har#29").exits(0);
    run.says("## `before.har#29`")
        .says("```text\n  POST https://harbour.example/v1/reservations")
        .says("- situation `invalid-body`");
}

#[test]
fn it_fits_the_terminal() {
    let project = demo();
    for number in [5, 20, 27, 29, 67] {
        project.fits(&format!("show before.har#{number}"), 80);
    }
}

#[test]
fn an_address_that_does_not_exist_says_what_does() {
    let project = Project::with(
        HARBOUR,
        &[got("GET", "/berths/1", 200, "application/json", "{}"), json!({"request": 1})],
    );
    project
        .run("show a.har#9")
        .exits(2)
        .complains("a.har has no exchange 9; the last one is a.har#2");
    project.run("show a.har#2").exits(3).complains("a.har#2: invalid type");
    project.run("show a.har#0").exits(2).complains("numbered from 1");
    project.run("show a.har").exits(2).complains("before.har#29");
    project.run("show none.har#1").exits(2).complains("none.har: No such file");
    project.write("b.har", har(&[]));
    project.run("show b.har#1").exits(2).complains("has no readable exchange");
    project.run("show --raw --format json a.har#1").exits(2).complains("cannot be used with");
    project
        .run("show --contract none.toml a.har#1")
        .exits(2)
        .complains("can't read the contract none.toml");
    let input = File::open(project.path().join("a.har")).unwrap();
    project.run_with("show -#1", input).exits(0).says("GET https://harbour.example/v1/berths/1");
    project.write("odd#name.har", har(&[got("GET", "/berths/1", 200, "application/json", "{}")]));
    project.run("show odd#name.har#1").exits(0).says("odd#name.har#1");
}

#[test]
fn without_a_contract_it_still_lays_out() {
    let project = Project::new();
    project
        .write("a.har", har(&[got("GET", "/berths/1", 500, "text/html", "<h1>Oops</h1>\n<p>no")]));
    let run = project.run("show a.har#1").exits(0).says("  <h1>Oops</h1>\n  <p>no");
    run.says("No contract was given, so nothing was checked.");
}

/// Whether a request without credentials is wrong hangs on whether the recording holds any; `show` knows, as
/// `check` does.
#[test]
fn missing_credentials_are_judged_as_check_judges_them() {
    let bare = sent(
        "POST",
        "/reservations",
        &[],
        Some(r#"{"vessel_id":"OB1234","nights":2}"#),
        201,
        "application/json",
        "{}",
    );
    let mut token = bare.clone();
    token["request"]["headers"] = json!([{"name": "Authorization", "value": "Bearer t0"}]);
    let project = Project::with(HARBOUR, &[bare.clone(), token]);
    project
        .run("show a.har#1")
        .exits(0)
        .says("missing-credentials")
        .says("situation.requires-error");
    project.write("b.har", har(&[bare]));
    project.run("show b.har#1").exits(0).says("no finding");
}

#[test]
fn secrets_are_masked_and_escapes_are_shown() {
    let request = r#"{"password":"hunter2","name":"a\u001b[2Jb","note":"Bearer abc.def-123"}"#;
    let response = "{\"token\":\"eyJhbGciOi.eyJzdWIiOi.c2ln\",\"a  b\":\"two  spaces\u{202e}\"}";
    let mut entry = sent(
        "POST",
        "/reservations?access_token=s3cr3t",
        &[("Authorization", "Bearer s3cr3t"), ("Cookie", "sid=s3cr3t"), ("X-Api-Key", "s3cr3t")],
        Some(request),
        201,
        "application/json",
        response,
    );
    entry["response"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": "Set-Cookie", "value": "sid=s3cr3t; Path=/"}));
    let project = Project::with(HARBOUR, &[entry]);
    for call in [
        "show a.har#1",
        "show --format json a.har#1",
        "show --format markdown a.har#1",
        "show --raw a.har#1",
    ] {
        let run = project.run(call).exits(0);
        for secret in ["s3cr3t", "hunter2", "abc.def", "eyJhbGci"] {
            assert!(!run.stdout.contains(secret), "{secret} in {run}");
        }
        assert!(call.contains("raw") || !run.stdout.contains('\u{1b}'), "{run}");
    }
    project.run("show a.har#1").says("Authorization: Bearer ***").says("\"two  spaces\\u{202e}\"");
}

/// To a pipe, raw is the bytes, bodies as they came.
#[test]
fn raw_is_the_messages_as_they_were_sent() {
    let project = Project::with(
        HARBOUR,
        &[sent(
            "POST",
            "/x?y=1",
            &[("Content-Type", "application/json")],
            Some("{ \"a\":1 }"),
            404,
            PROBLEM,
            "{\"title\" : \"x\"}",
        )],
    );
    let run = project.run("show --raw a.har#1").exits(0);
    assert_eq!(
        run.stdout,
        "POST https://harbour.example/v1/x?y=1 HTTP/1.1\r\nContent-Type: application/json\r\n\r\n{ \"a\":1 }\r\n\
         \r\nHTTP/1.1 404 Not Found\r\nContent-Type: application/problem+json\r\n\r\n{\"title\" : \"x\"}"
    );
}

/// A body of megabytes is shortened, but not where something is found.
#[test]
fn a_great_body_is_shortened() {
    let items: Vec<_> = (0..20_000).map(|n| json!({"n": n})).collect();
    let body = json!({"title": "x".repeat(100_000), "status": 400, "items": items}).to_string();
    let project = Project::with(HARBOUR, &[got("GET", "/berths/1", 404, PROBLEM, &body)]);
    let run =
        project.run("show a.har#1").exits(0).says("lines are left out").says("more characters)");
    assert!(run.stdout.len() < 60_000, "{}", run.stdout.len());
    let run = run.says("^ breach problem.status-agrees");
    assert!(run.stdout.lines().count() < 1000);
}
