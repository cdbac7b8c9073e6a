//! `compare`: what was fixed, what got worse, which success responses broke.

use std::fs::File;

use serde_json::{Value, json};

use crate::harness::{Project, got, har, sent};

const JSON: &str = "application/json";
const PROBLEM: &str = "application/problem+json";

fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project
}

fn counts(compare: &Value) -> [u64; 7] {
    ["regressed", "fixed", "changed", "unchanged", "only_before", "only_after", "more_often"]
        .map(|name| compare["counts"][name].as_u64().unwrap())
}

/// The numbers of the pairs of a grade, where at most five pairs have one change.
fn pairs(compare: &Value, grade: &str) -> Vec<u64> {
    let mut numbers: Vec<u64> = compare["changes"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|change| change["pair"] == grade)
        .flat_map(|change| change["pairs"].as_array().unwrap())
        .map(|pair| pair["before"].as_str().unwrap().rsplit('#').next().unwrap().parse().unwrap())
        .collect();
    numbers.sort_unstable();
    numbers.dedup();
    numbers
}

/// What became of each exchange of the demo, by what the harbour answers and the tables of what is broken in `before.har` and
/// `after.har`, written down by hand: three successes lost a member; what was a finding is none; and of three
/// there is only a note less, or a cut response that is whole now.
const REGRESSED: [u64; 3] = [3, 4, 12];
const FIXED: [u64; 27] = [
    5, 7, 8, 9, 16, 21, 22, 24, 27, 29, 33, 34, 39, 42, 43, 44, 48, 49, 52, 54, 56, 60, 62, 67, 68,
    72, 73,
];
const CHANGED: [u64; 3] = [13, 23, 35];

#[test]
fn every_exchange_of_the_demo_is_where_it_belongs() {
    let compare = demo().run("compare --format json before.har after.har").exits(1).json();
    assert_eq!(counts(&compare), [3, 27, 3, 42, 0, 0, 0]);
    assert_eq!(pairs(&compare, "regressed"), REGRESSED);
    assert_eq!(pairs(&compare, "fixed"), FIXED);
    assert_eq!(pairs(&compare, "changed"), CHANGED);
    let broken: Vec<&Value> = compare["changes"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|change| change["grade"] == "regressed")
        .collect();
    assert_eq!(broken.len(), 1, "{broken:#?}");
    assert_eq!(broken[0]["endpoint"], "GET /berths/{berth_id}");
    assert_eq!(
        (broken[0]["what"].as_str(), broken[0]["location"].as_str()),
        (Some("no longer has"), Some("/depth_m"))
    );
    assert_eq!(broken[0]["count"], 3);
}

/// Without a contract a refusal is only a status that went up: so it is said, with both.
#[test]
fn without_a_contract_it_goes_by_what_anybody_can_see() {
    let project = demo();
    std::fs::remove_file(project.path().join("error-contract.toml")).unwrap();
    let compare = project.run("compare --format json before.har after.har").exits(1).json();
    assert_eq!(pairs(&compare, "regressed"), [3, 4, 12, 29, 48]);
    for fixed in [5, 8, 9, 21, 22, 49, 54, 60, 62, 67, 68, 73] {
        assert!(pairs(&compare, "fixed").contains(&fixed), "{fixed}");
    }
    project.run("compare before.har after.har").exits(1).says("without a contract");
    project.run("compare --contract none.toml before.har after.har").exits(2);
}

#[test]
fn a_recording_is_the_same_as_itself() {
    let project = demo();
    for har in ["before.har", "after.har"] {
        let compare = project.run(&format!("compare --format json {har} {har}")).exits(0).json();
        assert_eq!(counts(&compare), [0, 0, 0, 75, 0, 0, 0]);
        assert_eq!(compare["changes"], json!([]));
    }
    let ferries = crate::dunlin::project();
    let compare = ferries.run("compare --format json dunlin.har dunlin.har").exits(0).json();
    assert_eq!(counts(&compare)[..3], [0, 0, 0]);
}

#[test]
fn the_page_says_what_and_where() {
    let project = demo();
    let run = project.run("compare before.har after.har").exits(1);
    let run = run
        .says("before.har and after.har: 75 pairs. 3 regressed, 27 fixed, 3 changed, 42 unchanged");
    let run = run.says(
        "Regressed\n\n  GET /berths/{berth_id}\n  • regressed: no longer has /depth_m (#3 #4 #12)",
    );
    let run = run.says("• fixed: fixed finding: problem.near-miss at body /error (#16)");
    // The finding that goes with a change of the status is not told beside it.
    let run = run.says("• fixed: responds 422 instead of 201 (#29)");
    assert!(!run.stdout.contains("situation.requires-error"), "{run}");
    for columns in [80, 160] {
        project.fits("compare before.har after.har", columns);
    }
    let page = project.run("compare --format markdown before.har after.har").exits(1);
    page.says("## Regressed")
        .says("**GET /berths/{berth\\_id}**\n\n- **regressed:** no longer has `/depth_m`");
}

#[test]
fn folders_and_standard_input_are_sides_too() {
    let project = demo();
    for name in ["before", "after"] {
        let bytes = std::fs::read(project.path().join(format!("{name}.har"))).unwrap();
        project.write(&format!("{name}/one.har"), &bytes);
        project.write(
            &format!("{name}/two.har"),
            har(&[got("GET", "/berths/A-3", 200, JSON, r#"{"id":"A-3"}"#)]),
        );
    }
    let compare = project.run("compare --format json before after").exits(1).json();
    assert_eq!(
        compare["recordings"],
        json!(["before/one.har", "before/two.har", "after/one.har", "after/two.har"])
    );
    assert_eq!(counts(&compare), [3, 27, 3, 43, 0, 0, 0]);
    let text = project.run("compare before after").exits(1);
    text.says("before/one.har#3→after/one.har#3");
    let input = File::open(project.path().join("before.har")).unwrap();
    let piped = project.run_with("compare --format json - after.har", input).exits(1).json();
    assert_eq!(counts(&piped), [3, 27, 3, 42, 0, 0, 0]);
    assert_eq!(piped["sides"], json!(["-", "after.har"]));
    project.run("compare - -").exits(2).complains("only one of the two can be standard input");
}

#[test]
fn what_is_the_matter_is_said() {
    let project = Project::new();
    project.write("a.har", har(&[got("GET", "/berths/1", 200, JSON, "{}")]));
    let mut other = got("GET", "/x", 200, JSON, "{}");
    other["request"]["url"] = json!("https://tides.example/high");
    project.write("other.har", har(&[other]));
    let run =
        project.run("compare a.har other.har").exits(2).says("No request is in both recordings.");
    run.says("https://harbour.example, other.har calls")
        .says("other.har calls https://tides.example.");
    project.run("compare a.har none.har").exits(2).complains("none.har: No such file");
    project.run("compare a.har").exits(2).complains("AFTER");
    project.write("broken.har", har(&[got("GET", "/berths/1", 200, JSON, "{}"), json!({})]));
    project.run("compare a.har broken.har").exits(3).complains("broken.har#2, byte");
    project.write("empty.har", har(&[]));
    project.run("compare empty.har empty.har").exits(2).says("There is nothing to compare.");
    // A contract that names other servers sets everything aside: that is no pass.
    project.write(
        "far.toml",
        "contract = 1\nservers = [\"https://far.example\"]\n[endpoint.\"GET /x\"]\n",
    );
    let run = project
        .run("compare --contract far.toml a.har a.har")
        .exits(2)
        .says("Nothing was compared.");
    run.says("excluded: 2 (not the service's, according to the contract)");
    project.write("no.har", "<html>");
    project
        .run("compare a.har no.har")
        .exits(3)
        .complains("no.har, byte 0: this is not a recording");
}

/// Two environments: neither is right by itself; two callers: who they are makes no other request of it.
#[test]
fn environments_and_callers_are_at_odds_or_not() {
    let project = Project::new();
    let problem = r#"{"title":"Not Found","status":404}"#;
    project.write(
        "live.har",
        har(&[
            got("GET", "/berths/9", 404, PROBLEM, problem),
            got("GET", "/berths/1", 200, JSON, r#"{"id":1}"#),
        ]),
    );
    project.write(
        "local.har",
        har(&[
            got("GET", "/berths/9", 500, "text/html", "<h1>no</h1>"),
            got("GET", "/berths/1", 200, JSON, r#"{"id":1,"extra":2}"#),
        ]),
    );
    let run = project.run("compare --between environments live.har local.har").exits(1);
    let run = run.says("2 at odds, 0 different, 0 unchanged").says("from live.har to local.har");
    assert!(!run.stdout.contains("worse"), "{run}");
    // The other way about they are at odds all the same.
    project
        .run("compare --between environments local.har live.har")
        .exits(1)
        .says("2 at odds")
        .says("does not have /extra");
    let ask = |token: &str, status: u16, body: &str| {
        sent("GET", "/berths/1", &[("Authorization", token)], None, status, JSON, body)
    };
    project.write("clerk.har", har(&[ask("Bearer a", 200, r#"{"id":1}"#)]));
    project.write(
        "guest.har",
        har(&[got("GET", "/berths/1", 403, PROBLEM, r#"{"title":"Forbidden","status":403}"#)]),
    );
    let run = project.run("compare --between callers clerk.har guest.har").exits(0);
    run.says("0 at odds, 1 different").says("responds 403 instead of 200");
}

/// What was recorded does no harm in a comparison either.
#[test]
fn what_was_recorded_does_no_harm() {
    let project = Project::new();
    let body = |title: &str| json!({"title": title, "a\u{1b}[2J|b": 1, "token": title}).to_string();
    let mut before = got("GET", "/berths/1", 409, PROBLEM, &body("Bearer s3cr3t.t0k3n-1"));
    before["response"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": "X-\u{1b}A", "value": "Bearer s3cr3t.t0k3n"}));
    project.write("a.har", har(&[before]));
    project.write("b.har", har(&[got("GET", "/berths/1", 409, PROBLEM, r#"{"title":"\u202e"}"#)]));
    for format in ["text", "markdown", "json"] {
        let run = project.run(&format!("compare --format {format} a.har b.har")).exits(0);
        assert!(!run.stdout.contains('\u{1b}') && !run.stdout.contains("s3cr3t"), "{run}");
        assert!(format == "json" || !run.stdout.contains('\u{202e}'), "{run}");
    }
}

/// More different responses than any service has: what is beyond is told, and nothing is called unchanged that was not looked at.
#[test]
fn a_great_many_different_responses_are_compared_as_far_as_they_are_kept() {
    let project = Project::new();
    let line = |n: usize| {
        let body = format!("{{\"k{n}x{}\": 1}}", n * 7919 % 10_007);
        got("GET", &format!("/boats/{n}"), 200, "application/json", &body).to_string()
    };
    let lines = |most: usize| (0..most).map(line).collect::<Vec<_>>().join("\n");
    project.write("a.jsonl", lines(20_500));
    project.write("b.jsonl", lines(20_500));
    let call = "compare a.jsonl b.jsonl --report json=c.json";
    let run = project.run_in_seconds(60, call).exits(3);
    run.says("20000 unchanged").says("500 more pairs not compared");
    let json = std::fs::read_to_string(project.path().join("c.json")).unwrap();
    assert!(json.contains("\"not_compared\": 500"), "{json}");
}
