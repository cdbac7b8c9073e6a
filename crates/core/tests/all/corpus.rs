//! The corpus: what is wrong with each request to the services in real web frameworks, as `requests.toml` says.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::ledger::LedgerSources;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::survey::{
    EndpointStatus, FieldNaming, Survey, SurveyCollector, SurveyData, SurveyLedger,
};
use faithful_clerk_model::address::Address;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_recording::{Visitor as _, har};
use serde::Deserialize;

/// `requests.toml`.
#[derive(Deserialize)]
struct Requests {
    request: Vec<Request>,
}

#[derive(Deserialize)]
struct Request {
    send: String,
    #[serde(default)]
    wrong: Vec<String>,
    #[serde(default)]
    invalid: Vec<String>,
}

fn corpus() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../corpus")
}

fn read(path: PathBuf) -> String {
    std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{}: {error}", path.display()))
}

/// The situations that a request is in, and the locations that break the rules, as the file writes them.
fn seen(contract: &ErrorContract, line: &str) -> (Vec<String>, Vec<String>) {
    let exchange = har::exchange(line.as_bytes(), Address::default()).unwrap();
    let Classification::Classified(classified) =
        classify(&exchange, contract, Credentials::Recorded)
    else {
        return (vec!["excluded".to_owned()], Vec::new());
    };
    let situations = &classified.situations;
    let parameters =
        situations.parameters.iter().map(|one| format!("{} in {}", one.name, one.location.name()));
    let members = situations.invalid.iter().map(|mismatch| mismatch.pointer.clone());
    let mut invalid: Vec<String> = parameters.chain(members).collect();
    invalid.sort();
    (situations.holds.iter().map(|situation| situation.name().to_owned()).collect(), invalid)
}

#[test]
fn what_is_wrong_with_each_request_is_seen() {
    let requests: Requests = toml::from_str(&read(corpus().join("requests.toml"))).unwrap();
    let every = read(corpus().join("endpoints.toml"));
    let mut wrong = Vec::new();
    for entry in std::fs::read_dir(corpus()).unwrap() {
        let service = entry.unwrap().path();
        if !service.join("errors.toml").exists() {
            continue;
        }
        let own = read(service.join("errors.toml"));
        let parsed = faithful_clerk_check::parse_contract(&format!("{own}\n{every}"));
        let contract = parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics));
        let recording = read(service.join("recording.jsonl"));
        assert_eq!(recording.lines().count(), requests.request.len(), "{}", service.display());
        for (line, request) in recording.lines().zip(&requests.request) {
            // That the boat is launched already shows in no request; what is not acceptable is agreed by one service.
            let mut due = request.wrong.clone();
            due.retain(|name| Situation::named(name) != Some(Situation::Conflict));
            let mut invalid = request.invalid.clone();
            invalid.sort();
            let (mut holds, found) = seen(&contract, line);
            holds.retain(|name| name != "not-acceptable");
            if (&holds, &found) != (&due, &invalid) {
                wrong.push(format!(
                    "{}: {}: {holds:?} {found:?}, and not {due:?} {invalid:?}",
                    service.display(),
                    request.send
                ));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// `truth.toml`, as far as it says which errors have one shape.
#[derive(Deserialize)]
struct Truth {
    #[serde(default)]
    shapes: BTreeMap<String, Vec<u64>>,
    #[serde(default)]
    naming: Naming,
    #[serde(default)]
    endpoints: MoreEndpoints,
}

/// What a service has beside the endpoints of `endpoints.toml`, or seems to have.
#[derive(Deserialize, Default)]
struct MoreEndpoints {
    also: Vec<String>,
}

/// How a service names invalid fields.
#[derive(Deserialize, Default)]
struct Naming {
    /// Where: `own`, `prose` or `nowhere`.
    places: Vec<String>,
    /// Does one response name all? Nothing where the recording does not show it.
    all: Option<bool>,
}

/// The services with their truth.
fn services() -> Vec<(PathBuf, Truth)> {
    let folders = std::fs::read_dir(corpus()).unwrap().map(|entry| entry.unwrap().path());
    folders
        .filter(|path| path.join("truth.toml").exists())
        .map(|path| {
            let truth = toml::from_str(&read(path.join("truth.toml"))).unwrap();
            (path, truth)
        })
        .collect()
}

/// A survey of a service's recording, without a contract.
fn survey(service: &Path) -> Survey {
    let contract = ErrorContract::default();
    let mut survey = SurveyCollector::new(&contract);
    for (number, line) in (1..).zip(read(service.join("recording.jsonl")).lines()) {
        let address = Address { recording: 0, number };
        survey.exchange(&har::exchange(line.as_bytes(), address).unwrap());
    }
    survey.data.conclude()
}

/// The exchanges of each shape that a survey finds, in its order.
fn surveyed_shapes(recording: &str) -> Vec<(String, Vec<u64>)> {
    let contract = ErrorContract::default();
    let mut all = SurveyData::default();
    let mut groups = Vec::new();
    for (number, line) in (1..).zip(recording.lines()) {
        let exchange = har::exchange(line.as_bytes(), Address { recording: 0, number }).unwrap();
        let mut one = SurveyCollector::new(&contract);
        one.exchange(&exchange);
        groups.extend(one.data.groups.keys().map(|key| (key.clone(), number)));
        all.add(one.data);
    }
    let survey = all.conclude();
    survey
        .shapes
        .iter()
        .map(|shape| {
            let mine = groups.iter().filter(|(key, _)| shape.has(key));
            (shape.name.clone(), mine.map(|(_, number)| *number).collect())
        })
        .collect()
}

/// Surveys of parts of a service's recording, written down and added up, are the survey of all of it.
#[test]
fn surveys_of_parts_add_up_to_that_of_the_service() {
    let names = LedgerSources { recordings: vec!["all".to_owned()], ..LedgerSources::default() };
    let contract = ErrorContract::default();
    for (service, _) in services() {
        let text = read(service.join("recording.jsonl"));
        let lines: Vec<&str> = text.lines().collect();
        let surveyed = |from: usize, to: usize| {
            let mut survey = SurveyCollector::new(&contract);
            for (number, line) in (1..).zip(&lines).skip(from).take(to - from) {
                let address = Address { recording: 0, number };
                survey.exchange(&har::exchange(line.as_bytes(), address).unwrap());
            }
            SurveyLedger { data: survey.data, elsewhere: None }.save("", &names).unwrap()
        };
        let third = lines.len() / 3;
        let mut sum = SurveyLedger::default();
        for (from, to) in [(2 * third, lines.len()), (0, third), (third, 2 * third)] {
            sum.add(SurveyLedger::read(&surveyed(from, to), |_| 0).unwrap());
        }
        let whole = surveyed(0, lines.len());
        assert!(sum.save("", &names).unwrap() == whole, "{}", service.display());
        assert!(whole.len() > 5000, "{}", service.display());
    }
}

/// Where fields are named, and whether all at once: as the truth says, by hand.
#[test]
fn how_fields_are_named_is_seen() {
    let mut wrong = Vec::new();
    for (service, truth) in services() {
        let naming = survey(&service).naming;
        let places = naming.places.keys().map(|place| match place {
            FieldNaming::OwnPlace => "own".to_owned(),
            FieldNaming::Prose => "prose".to_owned(),
            FieldNaming::Nowhere => "nowhere".to_owned(),
        });
        let all = match (naming.later.is_empty(), naming.several.count) {
            (false, _) => Some(false),
            (true, 0) => None,
            (true, _) => Some(true),
        };
        let found = (places.collect::<Vec<_>>(), all);
        if found != (truth.naming.places.clone(), truth.naming.all) {
            wrong.push(format!(
                "{}: found {found:?}, due {:?} {:?}",
                service.display(),
                truth.naming.places,
                truth.naming.all
            ));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Two bodies have one shape if one declaration with optional members would serve both: as the truth says, by hand.
#[test]
fn errors_of_one_shape_are_told_to_be_of_one() {
    let mut wrong = Vec::new();
    for (service, truth) in services() {
        let found = surveyed_shapes(&read(service.join("recording.jsonl")));
        let mut due: Vec<&Vec<u64>> = truth.shapes.values().collect();
        due.sort();
        let mut seen: Vec<&Vec<u64>> = found.iter().map(|(_, numbers)| numbers).collect();
        seen.sort();
        if due != seen {
            wrong.push(format!(
                "{}:\n  found {found:?}\n  due {:?}",
                service.display(),
                truth.shapes
            ));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// The endpoints of the service, and no other: without a contract, from what was recorded alone. Which of them respond to
/// HEAD is the framework's.
#[test]
fn endpoints_are_told_from_what_is_not_offered_and_what_leads_nowhere() {
    let every: toml::Table = toml::from_str(&read(corpus().join("endpoints.toml"))).unwrap();
    let declared: Vec<String> = every["endpoint"].as_table().unwrap().keys().cloned().collect();
    let mut wrong = Vec::new();
    for (service, truth) in services() {
        let mut due = [declared.clone(), truth.endpoints.also].concat();
        due.sort();
        let mut found: Vec<String> = survey(&service)
            .endpoints
            .iter()
            .filter(|place| place.status == EndpointStatus::Endpoint && place.method != "HEAD")
            .map(|place| place.name())
            .collect();
        found.sort();
        if found != due {
            wrong.push(format!("{}: found {found:?}, due {due:?}", service.display()));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
