//! Secrets in every format and in every command's output; what is of a person; what is told to be left.

use std::path::Path;

use serde_json::{Value, json};

use crate::harness::{Project, har};
use crate::scrub::made_up;
use crate::scrub_kinds::{Planted, detail, header, member, path, planted, sent};

const CONTRACT: &str = r#"contract = 1
servers = ["https://harbour.example"]
[error]
media = "application/problem+json"
[fault.invalid]
status = 422
when = ["invalid-body"]
[fault.none]
status = 404
title = "Missing"
when = ["resource-not-found"]
[everywhere]
faults = ["none"]
[endpoint."POST /quays/{id}"]
success = [201]
faults = ["invalid"]
[endpoint."POST /sessions"]
success = [201]
"#;

fn entries(planted: &[Planted]) -> Vec<Value> {
    planted.iter().map(|(_, _, entry)| entry.clone()).collect()
}

/// The kinds of those secrets that stand in a text.
fn kinds_in(text: &str, planted: &[Planted]) -> Vec<&'static str> {
    planted.iter().filter(|(_, secret, _)| text.contains(secret)).map(|(kind, ..)| *kind).collect()
}

fn bytes_of(path: &Path) -> String {
    String::from_utf8_lossy(&std::fs::read(path).unwrap()).into_owned()
}

#[test]
fn none_of_four_hundred_secrets_is_left_in_any_format() {
    let all: Vec<Planted> = (0..10).flat_map(planted).collect();
    let project = Project::new();
    project.write("a.har", har(&entries(&all)));
    for format in ["jsonl", "http", "warc"] {
        project.run(&format!("convert --to {format} a.har --output a.{format}")).exits(0);
        let before = kinds_in(&bytes_of(&project.path().join(format!("a.{format}"))), &all);
        assert!(before.len() >= 300, "{format}: {}", before.len());
        let run = project.run(&format!("scrub --output b.{format} a.{format}")).exits(0);
        let after = bytes_of(&project.path().join(format!("b.{format}")));
        let left = kinds_in(&after, &all);
        assert!(left.is_empty(), "{format}: {left:#?}");
        assert_eq!(kinds_in(&run.stderr, &all), [""; 0], "{format}");
        // The other threads find the same.
        project.run(&format!("scrub --threads 1 --output c.{format} a.{format}")).exits(0);
        let length = |name: &str| bytes_of(&project.path().join(format!("{name}.{format}"))).len();
        assert_eq!((length("a"), length("a")), (length("b"), length("c")));
    }
}

#[test]
fn none_of_four_hundred_secrets_is_in_any_output() {
    let all: Vec<Planted> = (0..10).flat_map(planted).collect();
    let project = Project::with(CONTRACT, &entries(&all));
    let reports =
        ["html", "json", "junit", "sarif", "markdown", "csv", "text", "findings", "ledger"];
    let mut calls: Vec<String> = reports
        .iter()
        .map(|format| format!("check a.har --report {format}=report.{format}"))
        .collect();
    calls.extend(
        [
            "survey a.har --ledger",
            "survey a.har --format json",
            "survey a.har",
            "survey a.har --report html=report.survey",
            "draft a.har",
            "draft a.har --format json",
            "coverage a.har",
            "coverage a.har --format json",
            "compare a.har a.har",
            "compare a.har b.har",
            "compare a.har b.har --format json",
            "compare a.har b.har --report html=report.compare",
        ]
        .map(str::to_owned),
    );
    calls.extend((1..=all.len() / 10).map(|number| format!("show a.har#{number}")));
    let other: Vec<Value> = (0..10)
        .flat_map(planted)
        .rev()
        .map(|(_, _, mut entry)| {
            entry["response"]["status"] = json!(500);
            entry
        })
        .collect();
    project.write("b.har", har(&other));
    let mut told = Vec::new();
    for call in calls {
        let run = project.run(&call);
        assert!(matches!(run.code, Some(0 | 1 | 3)), "{run}");
        for kind in kinds_in(&run.stdout, &all).into_iter().chain(kinds_in(&run.stderr, &all)) {
            told.push((call.clone(), kind));
        }
    }
    for file in std::fs::read_dir(project.path()).unwrap() {
        let path = file.unwrap().path();
        if path.file_stem().unwrap() == "report" {
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            told.extend(
                kinds_in(&bytes_of(&path), &all).into_iter().map(|kind| (name.clone(), kind)),
            );
        }
    }
    told.dedup();
    assert!(told.is_empty(), "{told:#?}");
}

#[test]
fn what_is_of_a_person_is_replaced_on_demand_alone() {
    let body = json!({
        "first_name": "Wilhelmina", "surname": "O’Quill", "berth": "Tern",
        "customer": {"name": "Ada Fairweather", "email": "ada@mail.example", "card": 4000001234567899_u64},
        "note": "call +44 20 7946 0958 or write to quay.master@harbour.example",
        "paid_with": "5105 1051 0510 5100", "order": "4000 0012 3456 7890", "at": "2027-03-08T09:00:00Z",
    });
    let error = "No berth for Ada Fairweather (ada@mail.example)";
    let invalid =
        json!({"title": "Invalid", "status": 422, "errors": {"first_name": ["Give a name"]}});
    let mut refused = sent("application/json", "{}");
    refused["response"]["status"] = json!(422);
    refused["response"]["content"]["text"] = json!(invalid.to_string());
    let project = Project::new();
    let entries = [
        sent("application/json", &body.to_string()),
        detail(error),
        refused,
        path("/crew?email=ada%40mail.example&name=Tern&phone=%2B442079460958"),
        header("X-Contact", "quay.master@harbour.example"),
    ];
    project.write("a.har", har(&entries));
    let personal = [
        "Wilhelmina",
        "O’Quill",
        "Ada Fairweather",
        "ada@mail.example",
        "ada%40mail.example",
        "4000001234567899",
        "7946 0958",
        "quay.master",
        "5105 1051 0510 5100",
        "442079460958",
    ];
    let other =
        ["Tern", "4000 0012 3456 7890", "2027-03-08T09:00:00Z", "Give a name", "No berth for "];
    let run = project.run("scrub a.har --output plain.har").exits(0);
    run.complains("no secret was found");
    let plain = bytes_of(&project.path().join("plain.har"));
    assert_eq!(plain, bytes_of(&project.path().join("a.har")));
    let run = project.run("scrub --personal a.har --output b.har").exits(0);
    run.complains("personal data, member first_name").complains("personal data, member email");
    let scrubbed = bytes_of(&project.path().join("b.har"));
    for text in personal {
        assert!(plain.contains(text) && !scrubbed.contains(text), "{text}: {scrubbed}");
    }
    for text in other {
        assert!(scrubbed.contains(text), "{text}: {scrubbed}");
    }
    // It is still JSON, and the card is still a number.
    let har: Value = serde_json::from_str(&scrubbed).unwrap();
    let text = har["log"]["entries"][0]["request"]["postData"]["text"].as_str().unwrap();
    let body: Value = serde_json::from_str(text).unwrap();
    assert!(body["customer"]["card"].is_u64());
}

#[test]
fn what_looks_random_and_was_left_is_told_by_place() {
    let uuid = |n: usize| format!("1b4e28ba-2fa1-11d2-883f-{n:012}");
    let mut entries: Vec<Value> = (0..7).map(|n| member("quay", &uuid(n))).collect();
    entries.push(member("cursor", &made_up(1, 30)));
    entries.push(header("X-Trace", "d41d8cd98f00b204e9800998ecf8427e"));
    // A name that may be a secret is not told.
    entries.push(sent(
        "application/json",
        &format!("{{\"{}\": \"{}\"}}", made_up(2, 30), made_up(3, 30)),
    ));
    entries.push(member("pin", &made_up(4, 30)));
    let project = Project::new();
    project.write("a.har", har(&entries));
    let run = project.run("scrub a.har --output b.har").exits(0);
    let run = run
        .complains("11 strings look random and were left")
        .complains("7 × UUID, member quay")
        .complains("1 × letters and digits, member cursor")
        .complains("1 × hexadecimal, header x-trace")
        .complains("1 × letters and digits, the names of members")
        .complains("1 × letters and digits, member …");
    assert!((1..5).all(|number| !run.stderr.contains(&made_up(number, 30))), "{run}");
    // What is declared is no longer left.
    let declared =
        "contract = 1\nservers = [\"https://harbour.example\"]\n[secret]\nnames = [\"quay\"]\n";
    project.write("secrets.toml", declared);
    let run = project.run("scrub --contract secrets.toml a.har --output c.har").exits(0);
    run.complains("4 strings look random");
}

#[test]
fn a_secret_that_is_a_name_is_replaced_there_too() {
    let token = made_up(9, 40);
    let project = Project::new();
    let sessions = format!("{{\"sessions\": {{\"{token}\": {{\"boat\": \"Tern\"}}}}}}");
    project.write("a.har", har(&[member("token", &token), sent("application/json", &sessions)]));
    project.run("scrub a.har --output b.har").exits(0);
    let scrubbed = bytes_of(&project.path().join("b.har"));
    assert!(!scrubbed.contains(&token) && scrubbed.contains("Tern"), "{scrubbed}");
}

#[test]
fn of_several_recordings_each_has_its_own_report() {
    let project = Project::new();
    project.write("in/a.har", har(&[header("X-Api-Key", &made_up(1, 30))]));
    project.write("in/b.jsonl", "{\"request\": {\"method\": \"GET\"}\n");
    let run = project.run("scrub in --output out").exits(3);
    run.complains("a.har:")
        .complains("1 secret replaced")
        .complains("b.jsonl:")
        .complains("because it can't be read: #1");
}

/// What `show` can't look into it does not show as it is, says so, and exits with 3.
#[test]
fn a_body_that_cannot_be_looked_into_is_not_shown_as_it_is() {
    let of = |media: &str, text: &str| {
        let mut entry = member("boat", "Tern");
        entry["response"]["status"] = json!(422);
        entry["response"]["content"] = json!({"mimeType": media, "text": text});
        entry
    };
    let mut bytes = of("application/octet-stream", "/wB6dXRvcAA=");
    bytes["response"]["content"]["encoding"] = json!("base64");
    let entries = [
        of("application/json", "{\"pin\": \"q7x9k2m4b5\", \"boat\": Tern}"),
        bytes,
        of(
            "application/x-ndjson",
            "{\"boat\": 1}\n{\"pinCode\": 1, \"userPin\": \"q7x9k2m4b5\"}\n",
        ),
        of("text/plain", "the pin: q7x9k2m4b5"),
    ];
    let project = Project::with(CONTRACT, &entries);
    for (number, code) in [(1, 3), (2, 3), (3, 0), (4, 0)] {
        for more in ["", " --format json", " --format markdown", " --raw"] {
            let run = project.run(&format!("show{more} a.har#{number}")).exits(code);
            assert!(!run.stdout.contains("q7x9k2m4b5") && !run.stdout.contains("zutop"), "{run}");
        }
    }
    let told = "a.har#1: the body of the response is not shown as it is, because it looks like JSON and is not valid JSON";
    let run = project.run("show a.har#1").exits(3).complains(told);
    run.says("{\"pin\": \"x1x1x1x1x1\", \"boat\": xxxx}");
    project.run("show a.har#2").exits(3).complains("because its bytes are not text");
    // What is found of it is masked as well.
    for format in ["text", "json", "csv", "html"] {
        project.run(&format!("check a.har --report {format}=report.{format}"));
        assert!(
            !bytes_of(&project.path().join(format!("report.{format}"))).contains("q7x9k2m4b5"),
            "{format}"
        );
    }
}
