//! Surveys, drafts and coverage by parts: what several machines gathered is what one would have.

use serde_json::{Value, json};

use crate::harness::{Project, Run, got};
use crate::shards::piped;

/// Exchanges of a service at a host: some found, some missing, some invalid.
fn lines(host: &str, count: usize) -> Vec<String> {
    let line = |n: usize| {
        let problem = |title: &str, status: u16| {
            json!({"type": format!("https://harbour.example/{title}"), "title": title, "status": status}).to_string()
        };
        let (status, media, body) = match n % 4 {
            0 => (404, "application/problem+json", problem("missing", 404)),
            1 => (404, "application/json", json!({"error": "none"}).to_string()),
            _ => (200, "application/json", json!({"id": n, "name": "x"}).to_string()),
        };
        let resource = ["berths", "vessels", "tides"][n % 3];
        let mut entry = got("GET", &format!("/{resource}/{n}"), status, media, &body);
        let url = entry["request"]["url"].as_str().unwrap().replace("harbour.example", host);
        entry["request"]["url"] = json!(url);
        entry
    };
    (0..count).map(|n| format!("{}\n", line(n))).collect()
}

/// The ledgers of parts of one recording.
fn parts(project: &Project, all: &[String], cuts: &[usize], more: &str) -> Vec<String> {
    let ends = || cuts.iter().copied().chain([all.len()]);
    std::iter::once(0)
        .chain(ends())
        .zip(ends())
        .map(|(from, to)| {
            let call = format!(
                "survey - --from jsonl --ledger --part-of all.jsonl --first {} {more}",
                from + 1
            );
            let run = piped(project, &call, &all[from..to].concat()).exits(0);
            assert_eq!((run.stdout.lines().count(), run.stderr.as_str()), (1, ""), "{run}");
            run.stdout
        })
        .collect()
}

fn without_digests(text: &str) -> Value {
    let mut value: Value = serde_json::from_str(text).unwrap();
    value["digests"] = json!([]);
    value
}

#[test]
fn surveys_by_pipe_add_up_to_one_in_any_order() {
    let project = Project::new();
    // One service, and one of more hosts than are told apart.
    let many = (0..90).flat_map(|n| lines(&format!("quay-{:02}.example", n * 7 % 90), 2)).collect();
    for all in [lines("harbour.example", 60), many] {
        project.write("all.jsonl", all.concat());
        let whole = |more: &str| project.run(&format!("survey all.jsonl {more}")).exits(0).stdout;
        for (cuts, turn) in [(vec![7, 8, 30], 3), (vec![1, 50], 1), (vec![20, 20], 2), (vec![], 0)]
        {
            let mut ledgers = parts(&project, &all, &cuts, "");
            ledgers.rotate_left(turn);
            for format in ["text", "json", "markdown"] {
                let call = format!("merge - --format {format}");
                let sum = piped(&project, &call, &ledgers.concat()).exits(0);
                assert_eq!(sum.stdout, whole(&format!("--from jsonl --format {format}")));
            }
            let half = ledgers.len().div_ceil(2);
            let sums = |part: &[String]| match part {
                [] => String::new(),
                part => piped(&project, "merge - --ledger", &part.concat()).exits(0).stdout,
            };
            project.write("sums", sums(&ledgers[half..]) + &sums(&ledgers[..half]));
            let sum = project.run("merge sums --ledger").exits(0).stdout;
            let ledger = whole("--from jsonl --ledger");
            assert_eq!(without_digests(&sum), without_digests(&ledger));
            project.run("merge sums --report html=sum.html --report text=sum.txt -q").exits(0);
            project.run("survey all.jsonl --from jsonl --report html=all.html -q").exits(0);
            let page = |name: &str| std::fs::read(project.path().join(name)).unwrap();
            assert!(page("sum.html") == page("all.html"), "{cuts:?}");
        }
        let listed = whole("--from jsonl").matches("quay-").count();
        assert!(listed == 0 || whole("--from jsonl").contains("other hosts"));
    }
}

/// A draft from ledgers is that from the recording, but for what only a check of the recording can ask.
#[test]
fn a_draft_from_ledgers_is_that_of_the_recording() {
    let project = Project::new();
    let all = lines("harbour.example", 40);
    project.write("all.jsonl", all.concat());
    project.write("parts", parts(&project, &all, &[3, 20], "").concat());
    let drafted = project.run("draft --from-ledger parts").exits(0);
    let drafted = drafted.complains("the draft was not checked against its recordings");
    let whole = project.run("draft all.jsonl --from jsonl").exits(0).stdout;
    let asked = |text: &str| text.contains("disagrees with its own recording") || text.len() > 200;
    assert!(asked(&whole) && drafted.stdout.contains("[endpoint.\"GET /berths/{id}\"]"), "{whole}");
    let is_of_survey = |line: &&str| !line.is_empty() && !line.starts_with('#');
    let lines =
        |text: &str| text.lines().filter(is_of_survey).map(str::to_owned).collect::<Vec<_>>();
    assert_eq!(lines(&drafted.stdout), lines(&whole));
    project.run("draft --from-ledger parts --output c.toml").exits(0);
    project.run("check --contract c.toml --contract-only").exits(0);
    project.run("draft --from-ledger parts --all").exits(2);
    project.run("draft parts").exits(2).complains("is a ledger of a survey, not a recording");
}

/// Whether a description's servers were called is decided over all parts.
#[test]
fn a_description_is_looked_for_on_any_host_only_where_no_part_called_its_servers() {
    let project = Project::new();
    let description = json!({
        "openapi": "3.1.0",
        "info": {"title": "Harbour", "version": "1"},
        "servers": [{"url": "https://harbour.example"}],
        "paths": {"/berths/{id}": {"get": {"responses": {"200": {"description": "found"}}}}},
    });
    project.write("harbour.json", description.to_string());
    let (local, served) = (lines("localhost:8080", 12), lines("harbour.example", 12));
    for all in [[local.clone(), local.clone()].concat(), [local, served].concat()] {
        project.write("all.jsonl", all.concat());
        for format in ["text", "json"] {
            let call =
                format!("survey all.jsonl --from jsonl --openapi harbour.json --format {format}");
            let whole = project.run(&call).exits(0);
            let ledgers = parts(&project, &all, &[12, 18], "--openapi harbour.json");
            let sum =
                piped(&project, &format!("merge - --format {format}"), &ledgers.concat()).exits(0);
            assert_eq!((sum.stdout, sum.stderr), (whole.stdout, whole.stderr));
        }
        project.write("l", parts(&project, &all, &[5], "--openapi harbour.json").concat());
        let drafted = project.run("draft --from-ledger l --openapi harbour.json").exits(0).stdout;
        let whole =
            project.run("draft all.jsonl --from jsonl --openapi harbour.json").exits(0).stdout;
        let servers =
            |text: &str| text.lines().find(|line| line.contains("servers =")).map(str::to_owned);
        assert_eq!(servers(&drafted), servers(&whole));
    }
    project.run("draft --from-ledger l").exits(2).complains("it was made with another contract");
}

#[test]
fn coverage_of_ledgers_is_that_of_the_recording() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project.run("convert before.har --to jsonl --output all.jsonl").exits(0);
    let text = std::fs::read_to_string(project.path().join("all.jsonl")).unwrap();
    let all: Vec<String> = text.lines().map(|line| format!("{line}\n")).collect();
    let ledger = |from: usize, to: usize| {
        let call =
            format!("check - --from jsonl --ledger --part-of all.jsonl --first {}", from + 1);
        piped(&project, &call, &all[from..to].concat()).exits(0).stdout
    };
    let ledgers = ledger(30, all.len()) + &ledger(0, 11) + &ledger(11, 30);
    project.write("l/ledgers", &ledgers);
    for more in ["", "--format json", "--format markdown", "--all-rows", "--at-least 100"] {
        let whole = project.run(&format!("coverage all.jsonl {more}"));
        let sum = project.run(&format!("coverage l {more}"));
        assert_eq!(
            (sum.code, &sum.stdout, &sum.stderr),
            (whole.code, &whole.stdout, &whole.stderr)
        );
        let sum = piped(&project, &format!("coverage - {more}"), &ledgers);
        assert_eq!((sum.code, &sum.stdout), (whole.code, &whole.stdout), "{more}");
    }
    // A recording by standard input is still one.
    let run = piped(&project, "coverage - --from jsonl", &text).exits(0);
    assert_eq!(run.stdout, project.run("coverage all.jsonl").exits(0).stdout);
    project.run("coverage l --all").exits(2).complains("belong to the checks that they are of");
    project.run("check l/ledgers").exits(2).complains("is a ledger of a check, not a recording");
}

/// Known findings and waivers count for a sum as they do for one check.
#[test]
fn baselines_and_waivers_hold_for_sums() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    for (name, file) in [("before", "before.har"), ("after", "after.har")] {
        project.run(&format!("convert {file} --to jsonl --output {name}.jsonl")).exits(0);
        let text = std::fs::read_to_string(project.path().join(format!("{name}.jsonl"))).unwrap();
        let all: Vec<String> = text.lines().map(|line| format!("{line}\n")).collect();
        for (n, (from, to)) in [(0, 20), (20, 40), (40, all.len())].into_iter().enumerate() {
            let call = format!(
                "check - --from jsonl --ledger --part-of {name}.jsonl --first {}",
                from + 1
            );
            let ledger = piped(&project, &call, &all[from..to].concat()).exits(0).stdout;
            project.write(&format!("{name}/{n}"), ledger);
        }
    }
    let same = |of_sum: &str, of_whole: &str| -> Run {
        let (sum, whole) = (project.run(of_sum), project.run(of_whole));
        assert_eq!(
            (sum.code, &sum.stdout, &sum.stderr),
            (whole.code, &whole.stdout, &whole.stderr)
        );
        sum
    };
    // A sum as the baseline of a check, and a check as that of a sum.
    project.run("merge before -q --report ledger=sum.json").exits(1);
    project.run("check before.jsonl -q --report ledger=whole.json").exits(1);
    same("merge after --baseline whole.json", "check after.jsonl --baseline whole.json");
    let known =
        same("merge before --baseline whole.json", "check before.jsonl --baseline whole.json");
    assert_eq!(known.code, Some(0), "{known}");
    project.run("check before.jsonl --baseline sum.json").exits(0);
    // Waivers that a sum writes, in the contract of the next one.
    let waivers = "--write-waivers FILE --until 2999-12-31 --reason known";
    project.run(&format!("merge before {}", waivers.replace("FILE", "sum.toml"))).exits(1);
    project.run(&format!("check before.jsonl {}", waivers.replace("FILE", "whole.toml"))).exits(1);
    let read = |name: &str| std::fs::read_to_string(project.path().join(name)).unwrap();
    assert_eq!(read("sum.toml"), read("whole.toml"));
    project.write("error-contract.toml", read("error-contract.toml") + &read("sum.toml"));
    project.run("check before.jsonl -q --report ledger=waived.json").exits(0);
    same("merge waived.json", "check before.jsonl");
}

#[test]
fn what_is_no_sum_of_surveys_is_refused() {
    let project = Project::new();
    let all = lines("harbour.example", 8);
    project.write("all.jsonl", all.concat());
    let ledger = |call: &str, name: &str| {
        let run = project.run(&format!("{call} --ledger")).exits(0);
        project.write(name, &run.stdout);
        run.stdout
    };
    let text = ledger("survey all.jsonl --from jsonl", "a");
    ledger("survey all.jsonl --from jsonl --name other --all", "all");
    project.run("merge a a").exits(2).complains("a holds the same bytes of a recording");
    project.run("merge a all --allow-duplicates").exits(2).complains("the same --all");
    project.run("merge a a --allow-duplicates --format json").exits(0).says("\"exchanges\": 16");
    project.run("merge a --expect 2").exits(2).complains("2 ledgers are expected, and 1 are there");
    for of_checks in ["--fail-on note", "--allow-empty", "--all-rows", "--contract a"] {
        project.run(&format!("merge a {of_checks}")).exits(2).complains("ledgers of surveys");
    }
    project.run("merge a --report junit=x").exits(2).complains("a survey has no report junit");
    // Of another kind, by another contract.
    let demo = Project::new();
    demo.run("demo --files-only --output .").exits(0);
    demo.run("check before.har -q --report ledger=checked").exits(1);
    demo.write("a", &text);
    demo.run("merge a checked").exits(2).complains("its `format` is \"fclerk ledger\"");
    demo.run("merge checked a").exits(2).complains("its `format` is \"fclerk survey ledger\"");
    demo.run("survey before.har --contract error-contract.toml --ledger").exits(0);
    let run = demo.run("survey before.har --contract error-contract.toml --ledger").exits(0);
    demo.write("b", run.stdout);
    demo.run("merge a b").exits(2).complains("it was made with another contract");
    // What nobody's survey writes.
    let hostile = |from: &str, to: &str, why: &str| {
        assert!(text.contains(from), "{from}");
        project.write("h", text.replacen(from, to, 1));
        project.run("merge h").exits(2).complains(why);
    };
    hostile("\"exchanges\":8", "\"exchanges\":9007199254740993", "a number beyond 2^53");
    hostile("\"exchanges\":8", "\"exchanges\":-1", "ledger");
    hostile("\"recording\":0", "\"recording\":7", "a recording that it does not name");
    hostile("\"version\":1", "\"version\":2", "a ledger of version 2");
    let deep = vec!["\"x\""; 65].join(",");
    hostile("\"path\":[", &format!("\"path\":[{deep},"), "more than 64 segments");
}
