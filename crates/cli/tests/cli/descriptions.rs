//! Small descriptions that use every construct, each with exchanges and what is true of them by the description, written by
//! hand: which operation, whether its status and media type are documented, and where its body breaks the schema.

use std::path::{Path, PathBuf};

use serde::Deserialize;
use serde_json::{Value, json};

use crate::harness::{Project, har};
use faithful_clerk_testkit::{DescribedExchange, DescribedService, DescribedVersion};

#[derive(Debug, Deserialize)]
struct Day {
    exchange: Vec<Exchange>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Exchange {
    /// The method and the URL.
    request: String,
    /// A JSON body that is sent.
    send: Option<String>,
    status: u16,
    media: Option<String>,
    #[serde(default)]
    headers: toml::Table,
    body: Option<String>,
    truth: Truth,
}

#[derive(Debug, Default, Deserialize, PartialEq, Eq)]
#[serde(deny_unknown_fields, default)]
struct Truth {
    /// Did the request go to another service?
    excluded: bool,
    endpoint: String,
    /// Is the status documented?
    status: bool,
    /// Is the media type?
    media: bool,
    /// The places that break the documented schema.
    schema: Vec<String>,
    /// What was wrong with the request, by the description.
    situation: Option<String>,
}

fn descriptions() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/data/descriptions")
}

fn entry(exchange: &Exchange) -> Value {
    let (method, url) = exchange.request.split_once(' ').unwrap();
    let field = |(name, value): (&String, &toml::Value)| json!({"name": name, "value": value});
    let mut headers: Vec<Value> = exchange.headers.iter().map(field).collect();
    let text = exchange.body.as_deref().unwrap_or_default();
    if exchange.body.is_some() {
        let media = exchange.media.as_deref().unwrap_or("application/json");
        headers.push(json!({"name": "Content-Type", "value": media}));
    }
    let mut entry = json!({
        "request": {"method": method, "url": url, "headers": [], "bodySize": 0},
        "response": {"status": exchange.status, "headers": headers,
                     "content": {"size": text.len(), "text": text}},
    });
    if let Some(sent) = &exchange.send {
        entry["request"]["bodySize"] = json!(sent.len());
        entry["request"]["postData"] = json!({"mimeType": "application/json", "text": sent});
    }
    entry
}

/// What the program says of an exchange.
fn told(shown: &Value) -> Truth {
    if shown["excluded"].is_string() {
        return Truth { excluded: true, ..Truth::default() };
    }
    let findings = shown["findings"].as_array().unwrap();
    let of = |clauses: &[&str]| -> Vec<String> {
        let of = findings.iter().filter(|one| clauses.contains(&one["clause"].as_str().unwrap()));
        let mut found: Vec<String> =
            of.map(|one| one["location"].as_str().unwrap().to_owned()).collect();
        found.sort();
        found
    };
    let at = |location: &String| location.strip_prefix("body ").unwrap_or_default().to_owned();
    let places = of(&["shape.declared", "success.shape-declared"]).iter().map(at).collect();
    let situations = shown["situations"].as_array().unwrap();
    let situation = situations.iter().find_map(|one| one["situation"].as_str());
    Truth {
        excluded: false,
        endpoint: shown["endpoint"].as_str().unwrap_or_default().to_owned(),
        status: of(&["status.declared"]).is_empty(),
        media: of(&["media.documented", "success.media-declared"]).is_empty(),
        schema: places,
        situation: situation.map(str::to_owned),
    }
}

#[test]
fn each_exchange_is_judged_as_its_description_says() {
    let mut wrong = Vec::new();
    let mut judged = 0;
    for folder in std::fs::read_dir(descriptions()).unwrap() {
        let folder = folder.unwrap().path();
        let project = Project::new();
        let mut description = String::new();
        for file in std::fs::read_dir(&folder).unwrap() {
            let file = file.unwrap().path();
            let name = file.file_name().unwrap().to_string_lossy().into_owned();
            project.write(&name, std::fs::read(&file).unwrap());
            if name.starts_with("openapi.") {
                description = name;
            }
        }
        let day = std::fs::read_to_string(folder.join("day.toml")).unwrap();
        let day: Day = toml::from_str(&day).unwrap();
        let entries: Vec<Value> = day.exchange.iter().map(entry).collect();
        project.write("day.har", har(&entries));
        let check = project.run(&format!("check --openapi {description} day.har --format json"));
        assert!(check.stderr.is_empty(), "{}: {}", folder.display(), check.stderr);
        for (at, exchange) in day.exchange.iter().enumerate() {
            let call = format!("show --openapi {description} day.har#{} --format json", at + 1);
            let mut told = told(&project.run(&call).exits(0).json());
            if exchange.truth.situation.is_none() {
                told.situation = None;
            }
            judged += 1;
            if told != exchange.truth {
                let (name, due) = (folder.file_name().unwrap().to_string_lossy(), &exchange.truth);
                wrong.push(format!("{name}#{}\n  due  {due:?}\n  told {told:?}", at + 1));
            }
        }
    }
    assert!(judged > 40, "{judged}");
    assert!(wrong.is_empty(), "{} of {judged}:\n{}", wrong.len(), wrong.join("\n"));
}

/// A made-up exchange as an entry, and what breaks in it: whether its status and its media type do, and where its body.
fn made(exchange: &DescribedExchange) -> (Value, [Option<String>; 3]) {
    let DescribedExchange { method, url, status, media, body, .. } = exchange;
    let media_type = json!({"name": "Content-Type", "value": media});
    let headers = if body.is_empty() { Vec::new() } else { vec![media_type] };
    let mut entry = json!({
        "request": {"method": method, "url": url, "headers": [], "bodySize": 0},
        "response": {"status": status, "headers": headers, "content": {"size": body.len(), "text": body}},
    });
    if let Some(sent) = &exchange.sent {
        let sent = sent.to_string();
        entry["request"]["bodySize"] = json!(sent.len());
        entry["request"]["postData"] = json!({"mimeType": "application/json", "text": sent});
    }
    let due = |is_documented: bool, location: &str| (!is_documented).then(|| location.to_owned());
    let broken = [
        due(exchange.status_is_documented, "the status line"),
        due(exchange.media_is_documented, "header Content-Type"),
        exchange.schema_broken_at.as_ref().map(|at| format!("body {at}")),
    ];
    (entry, broken)
}

#[test]
fn hundreds_of_made_up_operations_are_judged_as_they_were_made() {
    for (seed, version, name) in
        [(11, DescribedVersion::V30, "openapi.yaml"), (12, DescribedVersion::V31, "openapi.json")]
    {
        let service =
            DescribedService { operations: 300, seed, version, members: 0, description_words: 0 };
        let project = Project::new();
        // JSON is YAML, too.
        project.write(
            name,
            format!("{}{:#}", if seed == 11 { "---\n" } else { "" }, service.description()),
        );
        let all = service.exchanges();
        let (entries, due): (Vec<Value>, Vec<_>) = all.iter().map(made).unzip();
        project.write("made.har", har(&entries));
        let call = format!("check --openapi {name} made.har --report findings=all.jsonl -q");
        project.run(&call).exits(1);
        let log = std::fs::read_to_string(project.path().join("all.jsonl")).unwrap();
        let mut told = vec![[const { None }; 3]; all.len()];
        let mut twice = 0;
        for line in log.lines() {
            let finding: Value = serde_json::from_str(line).unwrap();
            let text = |name: &str| finding[name].as_str().unwrap_or_default().to_owned();
            let Some(number) = text("address").rsplit('#').next().and_then(|n| n.parse().ok())
            else {
                continue;
            };
            let (number, clause, location): (usize, _, _) =
                (number, text("clause"), text("location"));
            let which = match clause.as_str() {
                "status.declared" => 0,
                "media.documented" | "success.media-declared" => 1,
                "shape.declared" | "success.shape-declared" => 2,
                _ => continue,
            };
            assert_eq!(text("endpoint"), all[number - 1].endpoint, "{line}");
            let place = &mut told[number - 1][which];
            twice += u32::from(place.replace(location).is_some());
        }
        assert_eq!(twice, 0);
        let wrong: Vec<String> = all
            .iter()
            .zip(due.iter().zip(&told))
            .filter(|(_, (due, told))| due != told)
            .map(|(one, (due, told))| {
                let DescribedExchange { endpoint, status, media, body, .. } = one;
                format!("{endpoint} {status} {media} {body}\n  due  {due:?}\n  told {told:?}")
            })
            .collect();
        let first = wrong.iter().take(12).cloned().collect::<Vec<_>>().join("\n");
        assert!(wrong.is_empty(), "{name}: {} of {}:\n{first}", wrong.len(), all.len());
    }
}
