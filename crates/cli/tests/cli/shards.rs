//! Parts of a recording, checked one by one and added up: the sum is that of one check, or it is refused.

use std::io::Write as _;
use std::process::Stdio;

use serde_json::{Value, json};

use crate::harness::{Project, Run, got};

const CONTRACT: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
[fault.none]
status = 404
title = "Missing"
when = ["resource-not-found"]
[endpoint."GET /berths/{id}"]
success = [200]
faults = ["none"]
[endpoint."GET /vessels/{id}"]
success = [200]
faults = ["none"]
"#;

const WAIVER: &str = "\n[[waiver]]\nclause = \"media.declared\"\nendpoint = \"GET /berths/{id}\"\nreason = \"old\"\nuntil = 2026-06-30\n";

/// Exchanges of every sort, so that every part has something else in it.
fn lines(count: usize) -> Vec<String> {
    let line = |n: usize| {
        let media = ["application/problem+json", "text/html", "application/json"][n % 3];
        let title = ["Missing", "Missing", "Gone missing"][n % 7 % 3];
        let body = json!({"title": title, "status": 404 + n % 5 / 4, "detail": "There is none."});
        match n % 4 {
            0 => got("GET", &format!("/berths/A-{n}"), 200, "application/json", "{\"id\": 1}"),
            1 => got("GET", &format!("/vessels/{n}"), 404, media, &body.to_string()),
            _ => got("GET", &format!("/berths/{n}"), 404, media, &body.to_string()),
        }
    };
    (0..count).map(|n| format!("{}\n", line(n))).collect()
}

pub(crate) fn piped(project: &Project, call: &str, input: &str) -> Run {
    let mut command = project.command(call);
    command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    let mut child = command.spawn().unwrap();
    let mut stdin = child.stdin.take().unwrap();
    let input = input.to_owned();
    let writer = std::thread::spawn(move || stdin.write_all(input.as_bytes()));
    let output = child.wait_with_output().unwrap();
    let _ = writer.join().unwrap();
    Run::of_output(call, output)
}

fn project(contract: &str) -> Project {
    let project = Project::new();
    project.write("error-contract.toml", contract);
    project
}

/// Parts of `all`, each checked by pipe, as parts of one recording.
fn parts(project: &Project, all: &[String], cuts: &[usize]) -> Vec<String> {
    let mut ledgers = Vec::new();
    let mut from = 0;
    for to in cuts.iter().copied().chain([all.len()]) {
        let call =
            format!("check - --from jsonl --ledger --part-of all.jsonl --first {}", from + 1);
        let run = piped(project, &call, &all[from..to].concat()).exits(0);
        assert_eq!((run.stdout.lines().count(), run.stderr.as_str()), (1, ""), "{run}");
        ledgers.push(run.stdout);
        from = to;
    }
    ledgers
}

#[test]
fn parts_by_pipe_add_up_to_one_check_in_any_order() {
    let project = project(CONTRACT);
    let all = lines(60);
    project.write("all.jsonl", all.concat());
    let whole = |format: &str| {
        project.run(&format!("check all.jsonl --from jsonl --format {format}")).exits(1).stdout
    };
    let ledger = project.run("check all.jsonl --from jsonl --ledger").exits(0).stdout;
    let without_digests = |text: &str| -> Value {
        let mut value: Value = serde_json::from_str(text).unwrap();
        value["digests"] = json!([]);
        value
    };
    for (cuts, turn) in [(vec![7, 8, 30], 0), (vec![1, 59], 1), (vec![20, 20, 40], 2), (vec![], 0)]
    {
        let mut ledgers = parts(&project, &all, &cuts);
        let turn = turn % ledgers.len();
        ledgers.rotate_left(turn);
        // In files, in one file, by standard input, and as sums of sums.
        for (n, ledger) in ledgers.iter().enumerate() {
            project.write(&format!("some/{n}.json"), ledger);
        }
        project.write("one.jsonl", ledgers.concat());
        let half = ledgers.len().div_ceil(2);
        for (name, part) in [("x", &ledgers[..half]), ("y", &ledgers[half..])] {
            if !part.is_empty() {
                let sum = piped(&project, "merge - --ledger", &part.concat()).exits(0).stdout;
                project.write(&format!("sums/{name}.json"), sum);
            }
        }
        for from in ["some", "one.jsonl", "sums"] {
            for format in ["text", "json", "markdown"] {
                let run = project.run(&format!("merge {from} --format {format}")).exits(1);
                assert_eq!(run.stdout, whole(format), "{cuts:?} {from}");
            }
            let sum = project.run(&format!("merge {from} --ledger")).exits(0);
            assert_eq!(without_digests(&sum.stdout), without_digests(&ledger), "{cuts:?} {from}");
        }
        let piped = piped(&project, "merge - --format json", &ledgers.concat()).exits(1);
        assert_eq!(piped.stdout, whole("json"));
        for folder in ["some", "sums"] {
            std::fs::remove_dir_all(project.path().join(folder)).unwrap();
        }
    }
}

#[test]
fn a_part_that_is_empty_adds_nothing_and_one_that_is_cut_loses_a_line() {
    let project = project(CONTRACT);
    let all = lines(12);
    let empty = piped(&project, "check - --from jsonl --ledger --name part-2", "").exits(0);
    let text = all.concat();
    // Cut in the middle of the sixth line: both parts name it, and lose no other.
    let cut = all[..5].concat().len() + 40;
    let one = piped(&project, "check - --from jsonl --ledger --name part-1", &text[..cut]).exits(0);
    let one = one.complains("part-1#6, byte");
    let other =
        piped(&project, "check - --from jsonl --ledger --name part-3", &text[cut..]).exits(0);
    let other = other.complains("part-3#1, byte");
    project.write("l/1", &one.stdout);
    project.write("l/2", &empty.stdout);
    project.write("l/3", &other.stdout);
    let run = project.run("merge l --expect 3").exits(3).says("11 exchanges checked, 2 unreadable");
    assert!(!run.stdout.contains("part-2"), "{run}");
    project.run("merge l --expect 4").exits(2).complains("4 ledgers are expected, and 3 are there");
}

#[test]
fn what_does_not_belong_together_is_refused() {
    let project = project(&format!("{CONTRACT}{WAIVER}"));
    let all = lines(8);
    let ledger = |name: &str, more: &str| {
        let run = piped(
            &project,
            &format!("check - --from jsonl --ledger --name {name} {more}"),
            &all[..name.len()].concat(),
        );
        project.write(&format!("{name}.json"), run.exits(0).stdout);
    };
    ledger("a", "--today 2026-06-01");
    ledger("bb", "--today 2026-06-01");
    project.run("merge a.json bb.json").exits(1);
    // The day decides which waivers are in force.
    ledger("ccc", "--today 2026-07-01");
    project
        .run("merge a.json ccc.json")
        .exits(2)
        .complains("can't add ccc.json: its waivers are those in force on 2026-07-01");
    ledger("dddd", "--today 2026-06-01 --all");
    project.run("merge a.json dddd.json").exits(2).complains("with the same --all");
    ledger("eeeee", "--today 2026-06-01 --max-exchange 1");
    project.run("merge a.json eeeee.json").exits(2).complains("the same --max-exchange");
    // The same bytes, whatever they are called.
    let call = "check - --from jsonl --ledger --name z --today 2026-06-01";
    project.write("z.json", piped(&project, call, &all[0]).exits(0).stdout);
    let run = project.run("merge a.json z.json").exits(2);
    run.complains("can't add z.json: a.json holds the same bytes of a recording");
    project.run("merge a.json z.json --allow-duplicates").exits(0).says("2 exchanges checked");
    project.run("merge a.json a.json").exits(2).complains("the same bytes");
    // Another program, another contract, no ledger, nothing.
    let text = std::fs::read_to_string(project.path().join("a.json")).unwrap();
    let version = format!("\"program\":\"{}\"", env!("CARGO_PKG_VERSION"));
    assert!(text.contains(&version));
    project.write("old.json", text.replace(&version, "\"program\":\"0.0.9\""));
    project
        .run("merge bb.json old.json")
        .exits(2)
        .complains("it was made by version 0.0.9 of this program");
    project.write("other.toml", CONTRACT);
    project
        .run("merge --contract other.toml a.json")
        .exits(2)
        .complains("it was made with another contract");
    project.write("half.json", &text[..text.len() / 2]);
    project.run("merge a.json half.json").exits(2).complains("can't read the ledger half.json");
    project.write("none.json", "");
    project.run("merge none.json").exits(2).complains("the file is empty");
    project.run("merge nowhere.json").exits(2).complains("nowhere.json");
    project.run("check a b --ledger --name x").exits(2);
}

#[test]
fn ledgers_may_be_compressed_and_many() {
    let project = project(CONTRACT);
    let all = lines(40);
    let ledgers = parts(&project, &all, &(1..40).collect::<Vec<_>>());
    project.write("all.jsonl", all.concat());
    let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    encoder.write_all(ledgers[..20].concat().as_bytes()).unwrap();
    project.write("l/a.json.gz", encoder.finish().unwrap());
    project.write("l/deep/b.json", ledgers[20..].concat());
    project.write("l/.hidden", "no ledger");
    let whole = project.run("check all.jsonl --from jsonl").exits(1).stdout;
    assert_eq!(project.run("merge l --expect 40").exits(1).stdout, whole);
    project.run("merge l --report ledger=sum.json").exits(1);
    assert_eq!(project.run("merge sum.json").exits(1).stdout, whole);
}

/// Whether a request without credentials is wrong is decided over all parts of a recording, not in each.
#[test]
fn credentials_in_one_part_count_for_all_parts() {
    let contract = format!(
        "{CONTRACT}\n[everywhere]\nauth = \"required\"\nfaults = [\"no-token\"]\n[fault.no-token]\nstatus = 401\nwhen = [\"missing-credentials\"]\n"
    );
    let project = project(&contract);
    let exchange = |n: usize, token: bool| {
        let mut entry =
            got("GET", &format!("/berths/A-{n}"), 200, "application/json", "{\"id\": 1}");
        if token {
            entry["request"]["headers"] =
                json!([{"name": "Authorization", "value": "Bearer q7x9k2m4b5"}]);
        }
        format!("{entry}\n")
    };
    for with_token in [vec![], vec![9], vec![0, 5]] {
        let all: Vec<String> = (0..10).map(|n| exchange(n, with_token.contains(&n))).collect();
        project.write("all.jsonl", all.concat());
        let whole = project.run("check all.jsonl --from jsonl --format json");
        assert_eq!(whole.code, Some(if with_token.is_empty() { 0 } else { 1 }), "{whole}");
        for cuts in [vec![3], vec![1, 2, 8], vec![9]] {
            let ledgers = parts(&project, &all, &cuts);
            let sum = piped(&project, "merge - --format json", &ledgers.concat());
            assert_eq!(
                (sum.code, &sum.stdout),
                (whole.code, &whole.stdout),
                "{with_token:?} {cuts:?}"
            );
            let sums = piped(&project, "merge - --ledger", &ledgers.concat()).exits(0).stdout;
            let sum = piped(&project, "merge - --format json", &sums);
            assert_eq!(sum.stdout, whole.stdout);
        }
    }
}

/// The ledger of a command that checks what it recorded itself adds up to that of a check.
#[test]
fn the_ledger_of_a_recorded_suite_adds_up_to_that_of_a_check() {
    let project = project(CONTRACT);
    project.write("a.jsonl", lines(3).concat());
    project.run("check a.jsonl --from jsonl -q --report ledger=checked.json").exits(1);
    let text = std::fs::read_to_string(project.path().join("checked.json")).unwrap();
    project.run("check a.jsonl -q --report ledger=own.json").exits(1);
    let call = "record --upstream http://127.0.0.1:9 --output r.jsonl --contract error-contract.toml --allow-empty --report ledger=recorded.json -- true";
    // The command asks for nothing, and an empty recording is told as one.
    project.run(call).exits(3);
    assert!(text.contains("\"max_exchange\":67108864"), "{text}");
    let run = project.run("merge own.json recorded.json --expect 2").exits(3);
    run.says("3 exchanges checked, 1 unreadable");
}
