//! `survey`: what a service's errors look like, found out from recordings alone.

use std::fs::File;

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::{Value, json};

use crate::harness::{Project, got, har, sent};

const PROBLEM: &str = "application/problem+json";

/// A demo without its contract, which a survey does not need.
fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    std::fs::remove_file(project.path().join("error-contract.toml")).unwrap();
    project
}

fn names(list: &Value, name: &str) -> Vec<String> {
    list.as_array().unwrap().iter().map(|one| one[name].as_str().unwrap().to_owned()).collect()
}

/// The addresses' numbers.
fn numbers(list: &Value) -> Vec<u64> {
    let number =
        |address: &Value| address.as_str().unwrap().rsplit('#').next().unwrap().parse().unwrap();
    list.as_array().unwrap().iter().map(number).collect()
}

/// Which errors of `before.har` deviate, by what the harbour answers: how many, the first of them, and the responses.
const BEFORE: [(&str, u64, &[u64]); 10] = [
    ("HTML", 3, &[8, 9, 67]),
    ("array-of-problem", 1, &[52]),
    ("error-message-statusCode", 1, &[16]),
    ("problem-status-type", 1, &[44]),
    ("empty", 1, &[21]),
    ("no response", 1, &[62]),
    ("plain text", 1, &[54]),
    ("problem-errors-parameter", 1, &[72]),
    ("problem-errors-strings", 1, &[60]),
    ("problem-errors-map", 1, &[27]),
];

#[test]
fn before_deviates_where_it_was_built_to() {
    let survey = demo().run("survey --format json before.har").exits(0).json();
    let results = survey["comparisons"].as_array().unwrap();
    let mut found = Vec::new();
    for result in results {
        for deviation in result["deviations"].as_array().unwrap() {
            found.push((
                deviation["body"].as_str().unwrap().to_owned(),
                deviation["count"].as_u64().unwrap(),
                numbers(&deviation["addresses"]),
            ));
        }
    }
    found.sort();
    let mut known: Vec<_> =
        BEFORE.iter().map(|(body, count, at)| ((*body).to_owned(), *count, at.to_vec())).collect();
    known.sort();
    assert_eq!(found, known);
    // 46 errors and one that was never answered; the one whose body was cut can't be known.
    let counts: Vec<u64> = results.iter().map(|one| one["count"].as_u64().unwrap()).collect();
    assert_eq!((survey["exchanges"].as_u64(), survey["errors"].as_u64()), (Some(75), Some(46)));
    assert_eq!(counts, [38, 8]);
    assert_eq!(names(&survey["disclosed"], "what"), ["a Java or Kotlin trace", "a Python trace"]);
    assert_eq!(survey["excluded"][0]["count"], 1);
}

#[test]
fn after_has_one_shape_for_all_and_one_for_validation() {
    let survey = demo().run("survey --format json after.har").exits(0).json();
    for result in survey["comparisons"].as_array().unwrap() {
        assert!(result["deviations"].as_array().unwrap().is_empty(), "{result}");
    }
    assert_eq!(names(&survey["shapes"], "name"), ["problem", "problem-errors"]);
    let endpoints: Vec<String> = survey["endpoints"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|location| location["status"] == "endpoint")
        .map(|location| {
            format!(
                "{} {}",
                location["method"].as_str().unwrap(),
                location["template"].as_str().unwrap()
            )
        })
        .collect();
    assert_eq!(
        endpoints,
        [
            "POST /v1/arrivals",
            "GET /v1/berths",
            "GET /v1/berths/{id}",
            "HEAD /v1/berths/{id}",
            "GET /v1/moorage-fees",
            "POST /v1/reservations",
            "GET /v1/reservations/{id}",
            "PATCH /v1/reservations/{id}",
            "DELETE /v1/reservations/{id}",
            "POST /v1/reservations/{id}/check-in",
            "GET /v1/tides/{date}",
            "GET /v1/vessels/{id}",
            "PUT /v1/vessels/{id}",
        ]
    );
    let responses: u64 = survey["endpoints"]
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|location| location["responses"].as_array().unwrap())
        .map(|response| response["count"].as_u64().unwrap())
        .sum();
    assert_eq!(responses, 75, "every exchange is in one row");
}

/// Of a service of which the contract is known: which of its templates were found from the recording
/// alone, which were missed (written down beforehand: words, in an envelope, are no evidence), and that none
/// was made up.
#[test]
fn the_ferry_line_shows_its_templates() {
    let project = crate::dunlin::project();
    let survey = project.run("survey --format json dunlin.har").exits(0).json();
    let found: Vec<String> = survey["endpoints"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|location| location["template"].as_str().unwrap().contains('{'))
        .map(|location| {
            format!(
                "{} {}",
                location["method"].as_str().unwrap(),
                location["template"].as_str().unwrap()
            )
        })
        .collect();
    for known in [
        "GET /api/tickets/{id}",
        "PATCH /api/tickets/{id}",
        "DELETE /api/tickets/{id}",
        "POST /api/tickets/{id}/seat",
        "GET /api/agents/{id}",
        "PUT /api/agents/{id}",
    ] {
        assert!(found.iter().any(|name| name == known), "missed {known} in {found:?}");
    }
    assert_eq!(found.len(), 6, "made up: {found:?}");
    // The contract decides, where it is given.
    let survey = project
        .run("survey --format json --contract error-contract.toml dunlin.har")
        .exits(0)
        .json();
    let templates = names(&survey["endpoints"], "template");
    for known in ["/ferries/{ferry}", "/fares/{class}", "/timetable/{day}.pdf", "/ports/{code}"] {
        assert!(templates.iter().any(|name| name == known), "{templates:?}");
    }
    assert!(survey["exchanges"].as_u64().unwrap() <= 96);
}

#[test]
fn a_description_decides_about_endpoints() {
    let project = Project::with(HARBOUR, &[got("GET", "/ports/oban", 404, PROBLEM, "{}")]);
    project.write("api.yaml", "openapi: 3.1.0\npaths: {'/v1/ports/{port}': {get: {responses: {'200': {description: one}}}}}");
    let survey = project.run("survey --openapi api.yaml --format json a.har").exits(0).json();
    assert_eq!(survey["endpoints"][0]["template"], "/v1/ports/{port}");
    project
        .run("survey --openapi none.yaml a.har")
        .exits(2)
        .complains("can't read the OpenAPI description none.yaml");
    project
        .run("survey --contract none.toml a.har")
        .exits(2)
        .complains("can't read the contract none.toml");
}

#[test]
fn it_fits_the_terminal() {
    let project = demo();
    for width in [80, 120, 160] {
        for har in ["before.har", "after.har"] {
            project.fits(&format!("survey {har}"), width);
        }
    }
}

#[test]
fn files_folders_and_standard_input_are_read() {
    let project = demo();
    let both = project.run("survey --format json .").exits(0).json();
    assert_eq!(both["recordings"].as_array().unwrap().len(), 2);
    assert_eq!(both["exchanges"], 150);
    let before = File::open(project.path().join("before.har")).unwrap();
    let piped = project.run_with("survey --format json -", before).exits(0).json();
    let plain = project.run("survey --format json before.har").exits(0).json();
    assert_eq!(piped["shapes"][0]["phrase"], plain["shapes"][0]["phrase"]);
    for threads in ["1", "2", "7"] {
        let again =
            project.run(&format!("survey --threads {threads} --format json before.har")).json();
        assert_eq!(again, plain, "{threads} threads");
    }
}

#[test]
fn markdown_is_a_page_with_tables_and_trees() {
    let run = demo().run("survey --format markdown before.har").exits(0);
    let run = run
        .says("## Responses, by endpoint")
        .says("| endpoint | status | media type | body | count |");
    let run = run.says("```text\n  ├─ errors").says("- 3 HTML at");
    let run = run.says("Without a shape: 3 HTML, 1 empty, 1 no response, 1 plain text");
    assert!(!run.stdout.contains('\u{1b}'), "{run}");
}

#[test]
fn a_recording_without_an_error_or_without_anything() {
    let project = Project::with(HARBOUR, &[got("GET", "/berths/1", 200, "application/json", "{}")]);
    project.run("survey a.har").exits(0).says("No error was recorded. Send some wrong requests");
    project.write("b.har", har(&[]));
    project.run("survey b.har").exits(0).says("0 exchanges").says("There is nothing to look at");
    project.write("c.har", har(&[got("GET", "/berths/1", 404, PROBLEM, r#"{"title":"x"}"#)]));
    project.run("survey c.har").exits(0).says("All 1 response have one shape, title");
    project.write(
        "d.har",
        har(&[json!({"request": {}}), got("GET", "/berths/1", 404, PROBLEM, "{}")]),
    );
    project.run("survey d.har").exits(3).says("1 unreadable").complains("d.har#1, byte");
    project.run("survey none.har").exits(2).complains("none.har: No such file");
    project.run("survey").exits(2).complains("RECORDING");
}

/// Titles that name the occurrence, and media types without end: rows are told apart only so far, and counts
/// still add up.
#[test]
fn a_great_many_answers_stay_a_small_table() {
    let entries: Vec<Value> = (0..3_000)
        .map(|n| {
            let body = json!({"title": format!("No berth {n}"), "status": 404}).to_string();
            let media =
                if n % 3 == 0 { format!("application/x{n}+json") } else { PROBLEM.to_owned() };
            got("GET", &format!("/berths/{n}"), 404, &media, &body)
        })
        .chain([got("GET", "/berths/1", 200, "application/json", "{}")])
        .collect();
    let project = Project::new();
    project.write("a.har", har(&entries));
    let survey = project.run("survey --format json a.har").exits(0).json();
    let responses = survey["endpoints"][0]["responses"].as_array().unwrap();
    let count: u64 = responses.iter().map(|response| response["count"].as_u64().unwrap()).sum();
    assert_eq!((survey["endpoints"].as_array().unwrap().len(), count), (1, 3_001));
    assert_eq!(survey["shapes"].as_array().unwrap().len(), 1);
    let draft = project.run("draft a.har").exits(0);
    assert!(draft.stdout.len() < 20_000, "{}", draft.stdout.len());
}

/// What a recording says is shown, and does no harm; secrets are not shown.
#[test]
fn what_was_recorded_does_no_harm() {
    let body = r#"{"ti\u001btle":"x","a|b`c":{"\u202e":1}}"#;
    let mut entry = sent(
        "GET",
        "/ber\u{1b}ths/|x|",
        &[("Authorization", "Bearer s3cr3t-t0k3n")],
        None,
        409,
        PROBLEM,
        body,
    );
    entry["request"]["url"] =
        json!("https://harbour.example/v1/things/eyJhbGciOi.eyJzdWIiOi.c2lnbmF0dXJl/a%7Cb%1B");
    let mut odd = got("GET", "/x", 409, "text/pl\u{1b}ain", "\u{1b}[2J");
    odd["request"]["method"] = json!("G\u{1b}E|T");
    let project = Project::with(HARBOUR, &[entry, odd]);
    for format in ["text", "markdown", "json"] {
        let run = project.run(&format!("survey --format {format} a.har")).exits(0);
        assert!(!run.stdout.contains(['\u{1b}', '\u{202e}']) || format == "json", "{run}");
        assert!(!run.stdout.contains("\u{1b}"), "{run}");
        assert!(!run.stdout.contains("s3cr3t"), "{run}");
    }
    project
        .run("survey --format markdown a.har")
        .says("E\\|T")
        .says("/v1/things/{id}/{thing\\_id}");
}
