//! The corpus: recordings of services in real web frameworks, scored by a truth that was written by hand.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use serde::Deserialize;
use serde_json::Value;

use crate::harness::Project;

/// A clause, and the exchanges in which it is broken.
type Broken = BTreeMap<String, BTreeSet<u64>>;

/// `SERVICE/truth.toml`. Exchanges that are in no list break nothing.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Truth {
    #[serde(default)]
    breach: Broken,
    #[serde(default)]
    warning: Broken,
    /// Right if it is found, and not missed if not.
    #[serde(default)]
    may: Broken,
    /// Clauses that compare exchanges, and find that they differ.
    #[serde(default)]
    compared: BTreeSet<String>,
    /// Which errors have one shape, how fields are named, and what endpoints there are: for the tests of surveys.
    #[serde(default, rename = "shapes")]
    _shapes: BTreeMap<String, BTreeSet<u64>>,
    #[serde(default, rename = "naming")]
    _naming: toml::Table,
    #[serde(default, rename = "endpoints")]
    _endpoints: toml::Table,
}

/// A clause in an exchange.
type Place = (String, u64);

fn places(broken: &Broken) -> BTreeSet<Place> {
    let each = |(clause, at): (&String, &BTreeSet<u64>)| {
        at.iter().map(|at| (clause.clone(), *at)).collect::<Vec<_>>()
    };
    broken.iter().flat_map(each).collect()
}

fn corpus() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../corpus")
}

fn services() -> Vec<PathBuf> {
    let mut found: Vec<PathBuf> = std::fs::read_dir(corpus())
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .filter(|path| path.join("truth.toml").exists())
        .collect();
    found.sort();
    found
}

/// What a check finds, by severity; those of comparisons are told by their clause alone.
fn found(service: &Path, truth: &Truth) -> (BTreeMap<Place, String>, BTreeSet<String>) {
    let read = |path: PathBuf| std::fs::read_to_string(path).unwrap();
    let project = Project::new();
    let own = read(service.join("errors.toml"));
    let every = read(corpus().join("endpoints.toml"));
    project.write("error-contract.toml", format!("{own}\n{every}"));
    project.write("recording.jsonl", read(service.join("recording.jsonl")));
    let run = project.run("check recording.jsonl -q --report findings=found.jsonl");
    assert_eq!(run.code, Some(1), "{run}");
    let (mut alone, mut compared) = (BTreeMap::new(), BTreeSet::new());
    for line in read(project.path().join("found.jsonl")).lines() {
        let finding: Value = serde_json::from_str(line).unwrap();
        let text = |name: &str| finding[name].as_str().unwrap().to_owned();
        let (clause, severity) = (text("clause"), text("severity"));
        if severity == "note" {
        } else if truth.compared.contains(&clause) {
            compared.insert(clause);
        } else {
            let at = text("address").rsplit_once('#').unwrap().1.parse().unwrap();
            alone.insert((clause, at), severity);
        }
    }
    (alone, compared)
}

/// Everything that is wrong is found, with its severity, and nothing else is.
#[test]
fn every_verdict_on_real_frameworks_is_as_the_truth_says() {
    let services = services();
    assert!(services.len() >= 8, "{services:?}");
    let mut wrong = Vec::new();
    for service in services {
        let name = service.file_name().unwrap().to_string_lossy().into_owned();
        let truth = std::fs::read_to_string(service.join("truth.toml")).unwrap();
        let truth: Truth = toml::from_str(&truth).unwrap_or_else(|error| panic!("{name}: {error}"));
        let (found, compared) = found(&service, &truth);
        let may = places(&truth.may);
        for (severity, broken) in [("breach", &truth.breach), ("warning", &truth.warning)] {
            let due = places(broken);
            for place in &due {
                match found.get(place) {
                    Some(found) if found == severity => {}
                    other => wrong.push(format!("{name}: {place:?}: {severity}, found {other:?}")),
                }
            }
            let others = found.iter().filter(|(_, found)| *found == severity);
            let others = others.map(|(place, _)| place).filter(|place| !due.contains(*place));
            let others = others.filter(|place| !may.contains(*place));
            wrong.extend(others.map(|place| format!("{name}: {place:?}: a false {severity}")));
        }
        if compared != truth.compared {
            wrong.push(format!("{name}: compared {:?}, found {compared:?}", truth.compared));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// A draft claims nothing that its own recording contradicts but for what is wrong with the service by its truth, and it
/// asks about every finding.
#[test]
fn a_draft_agrees_with_its_own_recording() {
    let mut wrong = Vec::new();
    for service in services() {
        let text = std::fs::read_to_string(service.join("truth.toml")).unwrap();
        let truth: Truth = toml::from_str(&text).unwrap();
        let known: BTreeSet<&String> = [&truth.breach, &truth.warning, &truth.may]
            .into_iter()
            .flat_map(Broken::keys)
            .chain(&truth.compared)
            .collect();
        let project = Project::new();
        let recording = std::fs::read(service.join("recording.jsonl")).unwrap();
        project.write("recording.jsonl", recording);
        let draft = project.run("draft --format json recording.jsonl").exits(0).json();
        project.write("drafted.toml", draft["contract"].as_str().unwrap());
        let questions: Vec<&str> =
            draft["decide"].as_array().unwrap().iter().map(|one| one.as_str().unwrap()).collect();
        let run = project.run("check --contract drafted.toml --format json recording.jsonl");
        let mut counts: BTreeMap<String, u64> = BTreeMap::new();
        for finding in run.json()["findings"].as_array().unwrap() {
            if finding["severity"] != "note" {
                let clause = finding["clause"].as_str().unwrap().to_owned();
                *counts.entry(clause).or_default() += finding["count"].as_u64().unwrap();
            }
        }
        let name = service.file_name().unwrap().to_string_lossy().into_owned();
        for (clause, count) in counts {
            let is_asked = |question: &&str| {
                question.starts_with(&format!("{count} "))
                    && question.contains(&format!(" of `{clause}`"))
            };
            if !questions.iter().any(is_asked) {
                wrong.push(format!("{name}: {count} of {clause} are not asked about"));
            }
            if !known.contains(&clause) {
                wrong.push(format!("{name}: {clause} is the draft's own contradiction"));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// A draft with its suggested rules for bodies no longer comments.
pub(crate) fn with_suggestions(draft: &str) -> String {
    let (mut taken_in, mut is_suggested) = (String::new(), false);
    for line in draft.lines() {
        is_suggested = line.starts_with("# [") || (is_suggested && line.starts_with("# "));
        taken_in.push_str(if is_suggested { &line[2..] } else { line });
        taken_in.push('\n');
    }
    taken_in
}

/// The rules for bodies that a draft suggests, nested ones too, can be taken in as they are.
#[test]
fn suggested_rules_for_bodies_can_be_taken_in() {
    let mut nested = 0;
    for service in services() {
        let project = Project::new();
        project.write("a.jsonl", std::fs::read(service.join("recording.jsonl")).unwrap());
        let draft = project.run("draft a.jsonl").exits(0).stdout;
        let taken_in = with_suggestions(&draft);
        assert!(taken_in.contains("\n[endpoint.\"POST /boats/{id}/launch\".body-members]"));
        let owner = ["\n[shape.boats-owner]", "\n[shape.post-boats-owner]"];
        nested += usize::from(owner.iter().any(|table| taken_in.contains(table)));
        project.write("drafted.toml", taken_in);
        project.run("check --contract drafted.toml --contract-only").exits(0);
    }
    assert!(nested > 7, "{nested} services accepted a boat with an owner");
}

/// `SERVICE/described.toml`: what a service's own description says of its recording.
#[derive(Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct DescribedTruth {
    undocumented_status: BTreeSet<u64>,
    undocumented_media: BTreeSet<u64>,
    /// Where bodies break their documented schemas.
    schema: Broken,
}

/// The descriptions that frameworks publish are used as they are.
#[test]
fn recordings_are_judged_by_the_descriptions_that_the_frameworks_publish() {
    let described = |path: &PathBuf| path.join("described.toml").exists();
    let services: Vec<PathBuf> = services().into_iter().filter(described).collect();
    assert!(services.len() >= 4, "{services:?}");
    for service in services {
        let name = service.file_name().unwrap().to_string_lossy().into_owned();
        let read = |path: PathBuf| std::fs::read_to_string(path).unwrap();
        let truth: DescribedTruth = toml::from_str(&read(service.join("described.toml"))).unwrap();
        let project = Project::new();
        for file in ["openapi.json", "recording.jsonl"] {
            project.write(file, read(service.join(file)));
        }
        let call = "check recording.jsonl --openapi openapi.json -q --report findings=found.jsonl";
        let run = project.run(call);
        assert!(run.stderr.is_empty(), "{name}: {run}");
        let mut told = DescribedTruth {
            undocumented_status: BTreeSet::new(),
            undocumented_media: BTreeSet::new(),
            schema: truth.schema.keys().map(|at| (at.clone(), BTreeSet::new())).collect(),
        };
        for line in read(project.path().join("found.jsonl")).lines() {
            let finding: Value = serde_json::from_str(line).unwrap();
            let text = |name: &str| finding[name].as_str().unwrap_or_default().to_owned();
            let at: u64 = text("address").rsplit_once('#').unwrap().1.parse().unwrap();
            _ = match text("clause").as_str() {
                // An error that is not documented may be one that does not fit the request, either.
                "status.declared" | "status.fits-situation" => told.undocumented_status.insert(at),
                "media.documented" | "success.media-declared" => told.undocumented_media.insert(at),
                "shape.declared" | "success.shape-declared" => {
                    told.schema.entry(text("pointer")).or_default().insert(at)
                }
                _ => false,
            };
        }
        assert_eq!(told.undocumented_status, truth.undocumented_status, "{name}: statuses");
        assert_eq!(told.undocumented_media, truth.undocumented_media, "{name}: media types");
        assert_eq!(told.schema, truth.schema, "{name}: schemas");
    }
}
