//! Findings one by one, and many of them told together: a line for each, and a list that people can read to its end.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::{Value, json};

use crate::harness::{Project, got, har, sent};
use crate::reports::is_valid;

/// One line for each finding in each exchange, in the order of the recordings, whatever the number of threads and however
/// many exchanges have the same finding.
#[test]
fn every_finding_is_a_line() {
    let schema = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/findings.schema.json");
    let schema: Value = serde_json::from_str(&std::fs::read_to_string(schema).unwrap()).unwrap();
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    // Every exchange six times, so that no list of first addresses has them all; and one where clauses compare.
    let before: Value =
        serde_json::from_str(&std::fs::read_to_string(project.path().join("before.har")).unwrap())
            .unwrap();
    let entries = before["log"]["entries"].as_array().unwrap();
    project.write("six.har", har(&vec![entries.clone(); 6].concat()));
    let lines = |call: &str| -> Vec<Value> {
        project.run(call).exits(1);
        let text = std::fs::read_to_string(project.path().join("findings.jsonl")).unwrap();
        text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let one = lines("check six.har -q --threads 1 --report findings=findings.jsonl");
    assert_eq!(one, lines("check six.har -q --threads 4 --report findings=findings.jsonl"));
    one.iter().for_each(|line| is_valid(&schema, line));
    let sum = project.run("check six.har --format json").exits(1).json();
    let total: u64 = ["breaches", "warnings", "notes"]
        .iter()
        .map(|of| sum["totals"][of].as_u64().unwrap())
        .sum();
    assert_eq!(one.len() as u64, total);
    let numbers: Vec<u64> = one
        .iter()
        .map(|line| line["address"].as_str().unwrap().rsplit_once('#').unwrap().1.parse().unwrap())
        .collect();
    assert!(numbers.is_sorted(), "{numbers:?}");
    let prints = |of: &[Value]| -> std::collections::BTreeSet<String> {
        of.iter().map(|line| line["fingerprint"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(prints(&one), prints(sum["findings"].as_array().unwrap()));
}

/// What only the end decides is in the lines, too: comparisons, waivers, and whether credentials were recorded.
#[test]
fn lines_of_findings_know_what_the_end_decides() {
    let waiver =
        "[[waiver]]\nclause = \"media.declared\"\nuntil = 2099-12-31\nreason = \"gateway\"\n";
    let contract = format!("{HARBOUR}\n{waiver}");
    let nowhere = |media: &str| got("GET", "/nowhere", 404, media, r#"{"title":"Not Found"}"#);
    let json = r#"{"vessel_id":"OB1234","nights":2}"#;
    let booked = sent(
        "POST",
        "/reservations",
        &[("Content-Type", "application/json")],
        Some(json),
        201,
        "application/json",
        "{}",
    );
    let project = Project::with(&contract, &[nowhere("text/plain"), booked.clone()]);
    let call = "check a.har -q --report findings=f.jsonl";
    let lines = || -> Vec<(String, bool)> {
        project.run(call);
        let text = std::fs::read_to_string(project.path().join("f.jsonl")).unwrap();
        let line = |line: &str| -> (String, bool) {
            let line: Value = serde_json::from_str(line).unwrap();
            let at = format!(
                "{} {}",
                line["address"].as_str().unwrap(),
                line["clause"].as_str().unwrap()
            );
            (at, line["waived"].as_bool().unwrap())
        };
        text.lines().map(line).collect()
    };
    // Nobody sent credentials, so nobody knows whether the second should have been refused.
    assert_eq!(lines(), [("a.har#1 media.declared".to_owned(), true)]);
    let mut with_token = booked.clone();
    with_token["request"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": "Authorization", "value": "Bearer x"}));
    project.write("a.har", har(&[nowhere("text/plain"), booked, with_token]));
    assert_eq!(
        lines(),
        [
            ("a.har#1 media.declared".to_owned(), true),
            ("a.har#2 situation.requires-error".to_owned(), false)
        ]
    );
    let titled = |title: &str| {
        let body =
            json!({"type": "https://harbour.example/faults/other", "title": title}).to_string();
        got("GET", "/berths/A-3", 409, "application/problem+json", &body)
    };
    project.write("error-contract.toml", "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[endpoint.\"GET /berths/{id}\"]\n");
    project.write("a.har", har(&[titled("Taken"), titled("Occupied"), titled("Taken")]));
    let found = lines();
    assert!(found.contains(&("a.har#2 problem.title-stable".to_owned(), false)), "{found:?}");
    project.run("check a.har -q --report ledger=l.json");
    project
        .run("merge l.json --report findings=g.jsonl")
        .exits(2)
        .complains("belongs to `fclerk check`");
}

/// What many endpoints have alike is told once to people, and at each endpoint to programs.
#[test]
fn what_many_endpoints_have_alike_is_told_once() {
    let paths = ["berths", "tides", "vessels", "piers", "fees"];
    let endpoints: String =
        paths.iter().map(|path| format!("[endpoint.\"GET /{path}\"]\n")).collect();
    let exchanges: Vec<Value> = paths
        .iter()
        .map(|path| {
            let mut exchange = got(
                "GET",
                &format!("/{path}"),
                404,
                "application/json",
                r#"{"message":"There is no such thing"}"#,
            );
            let header = json!({"name": "Server", "value": "nginx/1.25.3"});
            exchange["response"]["headers"].as_array_mut().unwrap().push(header);
            exchange
        })
        .collect();
    let project = Project::with(
        &format!("contract = 1\nservers = [\"https://harbour.example/v1\"]\n{endpoints}"),
        &exchanges,
    );
    let run = project.run("check a.har");
    assert_eq!(run.stdout.matches("disclosure.version").count(), 1, "{run}");
    let run = run.says("At several endpoints").says("at 5 endpoints: a.har#1 #2 #3 #4 #5");
    run.says("exposes   a version: nginx/1.25.3");
    let json = project.run("check a.har --format json").json();
    let of = |finding: &&Value| finding["clause"] == "disclosure.version";
    assert_eq!(json["findings"].as_array().unwrap().iter().filter(of).count(), 5);
}

/// A grid of many endpoints shows those that an exchange was for.
#[test]
fn a_large_grid_shows_the_rows_that_were_covered() {
    let endpoints: String =
        (0..1200).map(|n| format!("[endpoint.\"GET /harbours/{n}\"]\n")).collect();
    let exchange = got("GET", "/harbours/7", 200, "application/json", "{}");
    let project = Project::with(
        &format!("contract = 1\nservers = [\"https://harbour.example/v1\"]\n{endpoints}"),
        &[exchange],
    );
    let run = project.run("check a.har").says("1,199 endpoints not covered (--all-rows)");
    assert!(run.stdout.lines().count() < 20, "{run}");
    let run = project.run("check a.har --all-rows").says("GET /harbours/1199");
    assert!(!run.stdout.contains("--all-rows"), "{run}");
}
