//! Report files: what is in them, and that nothing recorded breaks one.

use faithful_clerk_check::clauses::HARBOUR;
use faithful_clerk_check::clauses::catalogue;
use quick_xml::events::Event;
use quick_xml::{Reader, XmlVersion};
use serde_json::{Value, json};

use crate::harness::{Project, got, har, sent};

const PROBLEM: &str = "application/problem+json";

/// What ends a script, a CDATA section, a line, a formula; what a terminal obeys; what changes direction.
const HOSTILE: &str =
    "=1+1</script><script>document.title='caught'</script>]]>\u{1b}[2J\u{202e}\u{0}\u{fffe}|`*";

/// A contract that waives, and a recording in which everything that is quoted is hostile.
pub(crate) fn hostile() -> Project {
    let waived = format!(
        "{HARBOUR}\n[[waiver]]\nclause = \"media.declared\"\nendpoint = \"(unknown route)\"\nreason = \"the \
         <gateway>\"\nuntil = 2999-01-01\n"
    );
    let body =
        json!({"title": HOSTILE, "status": HOSTILE, "detail": HOSTILE, HOSTILE: 1}).to_string();
    let mut exchanges = vec![
        got("GET", "/berths/A-3", 404, PROBLEM, &body),
        got("GET", "/nowhere", 404, "text/html", &format!("<h1>{HOSTILE}</h1>")),
        got("GET", &format!("/berths/{HOSTILE}"), 404, PROBLEM, &body),
        got("GET", "/berths/A-3", 500, &format!("text/{HOSTILE}"), HOSTILE),
        sent(
            "POST",
            "/reservations",
            &[("X-Note", HOSTILE)],
            Some(&body),
            200,
            "application/json",
            &body,
        ),
    ];
    // Half of a pair of surrogates, in a body's own escapes and in the recording's.
    let half = body.replace("\\u0000", "\\u0000\\ud800");
    exchanges.push(got("GET", "/berths/A-4", 404, PROBLEM, &half));
    exchanges.push(got("GET", "/berths/A-5", 404, PROBLEM, "{\"title\":\"HALF\"}"));
    exchanges.push(json!({"request": HOSTILE}));
    let project = Project::new();
    project.write("error-contract.toml", waived);
    project.write("a.har", har(&exchanges).replace("HALF", "\\ud800"));
    project
}

fn read(project: &Project, name: &str) -> String {
    std::fs::read_to_string(project.path().join(name)).unwrap()
}

#[test]
fn several_reports_come_of_one_run() {
    let project = hostile();
    let run = project
        .run(
            "check a.har --report html=a.html --report json=a.json --report junit=a.xml --report sarif=a.sarif \
             --report markdown=a.md --report csv=a.csv --report text=a.txt --report ledger=a.ledger.json",
        )
        .exits(3);
    // What standard output says in a form, its file says too.
    assert_eq!(read(&project, "a.txt"), run.stdout);
    assert_eq!(read(&project, "a.json"), project.run("check a.har --format json").stdout);
    assert_eq!(read(&project, "a.md"), project.run("check a.har --format markdown").stdout);
    let quiet = project.run("check a.har --quiet").exits(3);
    assert_eq!(quiet.stdout, "");
    for name in ["a.html", "a.json", "a.xml", "a.sarif", "a.md", "a.csv", "a.txt", "a.ledger.json"]
    {
        let text = read(&project, name);
        let harmful = |c: &char| (c.is_control() && !"\n\r\t".contains(*c)) || *c == '\u{202e}';
        assert_eq!(text.chars().find(harmful), None, "{name}");
    }
}

/// Element names with their attributes, and the text of all.
fn parsed(xml: &str) -> Vec<(String, Vec<(String, String)>)> {
    let mut reader = Reader::from_str(xml);
    reader.config_mut().check_end_names = true;
    let mut elements = Vec::new();
    loop {
        match reader.read_event().unwrap() {
            Event::Start(element) | Event::Empty(element) => {
                let attributes = element.attributes().map(|attribute| {
                    let attribute = attribute.unwrap();
                    let name = attribute.key.as_ref().to_owned();
                    (
                        name,
                        attribute.normalized_value(XmlVersion::Implicit1_0).unwrap().into_owned(),
                    )
                });
                let name = element.name().as_ref().to_owned();
                elements.push((name, attributes.collect()));
            }
            Event::Eof => return elements,
            _ => {}
        }
    }
}

fn attribute<'e>(element: &'e (String, Vec<(String, String)>), name: &str) -> &'e str {
    element.1.iter().find(|(key, _)| key == name).map_or("", |(_, value)| value)
}

#[test]
fn junit_has_a_case_for_each_family_at_each_endpoint() {
    let project = hostile();
    project.run("check a.har -q --report junit=a.xml").exits(3);
    let elements = parsed(&read(&project, "a.xml"));
    let families: std::collections::BTreeSet<&str> =
        catalogue().map(|clause| clause.name.split('.').next().unwrap()).collect();
    let suites: Vec<_> = elements.iter().filter(|element| element.0 == "testsuite").collect();
    for suite in suites.iter().filter(|suite| attribute(suite, "name") != "(the run)") {
        assert_eq!(attribute(suite, "tests"), families.len().to_string(), "{suite:?}");
    }
    let whole = elements.iter().find(|element| element.0 == "testsuites").unwrap();
    let of = |name: &str| elements.iter().filter(|element| element.0 == name).count().to_string();
    assert_eq!(attribute(whole, "tests"), of("testcase"));
    assert_eq!(attribute(whole, "failures"), of("failure"));
    assert_eq!(attribute(whole, "skipped"), of("skipped"));
    // The entry that can't be read is an error, and nothing else is.
    assert_eq!((attribute(whole, "errors"), of("error").as_str()), ("1", "1"));
    // The waived finding fails nothing; the problem without its members does.
    let failed = |suite: &str, family: &str| {
        let cases = elements.windows(2).filter(|pair| pair[1].0 == "failure");
        cases.into_iter().any(|pair| {
            attribute(&pair[0], "classname") == suite && attribute(&pair[0], "name") == family
        })
    };
    assert!(!failed("(unknown route)", "media"));
    assert!(failed("GET /berths/{id}", "problem"));
    assert!(failed("GET /berths/{id}", "media"));
    // A service that keeps its contract has the same cases, and none fails.
    project.write("b.har", har(&[got("GET", "/berths/A-3", 200, "application/json", "{}")]));
    project.run("check b.har -q --report junit=b.xml").exits(0);
    let elements_b = parsed(&read(&project, "b.xml"));
    let names = |elements: &[(String, Vec<(String, String)>)]| -> Vec<String> {
        let cases = elements.iter().filter(|element| element.0 == "testcase");
        let name = |case: &(String, _)| {
            format!("{} {}", attribute_of(case, "classname"), attribute_of(case, "name"))
        };
        cases.map(name).filter(|name| name.starts_with("GET /berths/{id}")).collect()
    };
    assert_eq!(names(&elements), names(&elements_b));
    assert!(!elements_b.iter().any(|element| element.0 == "failure" || element.0 == "error"));
}

fn attribute_of(element: &(String, Vec<(String, String)>), name: &str) -> String {
    attribute(element, name).to_owned()
}

/// What SARIF 2.1.0 requires of the parts that are written (sections 3.13, 3.14, 3.19, 3.27, 3.28, 3.35, 3.49).
fn sarif_schema() -> Value {
    let text = json!({"type": "object", "required": ["text"], "properties": {"text": {"type": "string", "minLength": 1}}});
    let location = json!({
        "type": "object",
        "properties": {
            "id": {"type": "integer", "minimum": -1},
            "physicalLocation": {
                "type": "object", "required": ["artifactLocation"],
                "properties": {
                    "artifactLocation": {"type": "object", "required": ["uri"],
                        "properties": {"uri": {"type": "string", "format": "uri-reference"}}},
                    "region": {"type": "object", "properties": {"startLine": {"type": "integer", "minimum": 1}}},
                },
            },
            "logicalLocations": {"type": "array"},
            "message": text,
        },
    });
    let rules = catalogue().count();
    let result = json!({
        "type": "object",
        "required": ["message", "ruleId", "ruleIndex", "level", "locations", "partialFingerprints"],
        "properties": {
            "ruleIndex": {"type": "integer", "minimum": 0, "maximum": rules - 1},
            "level": {"enum": ["none", "note", "warning", "error"]},
            "message": text,
            "locations": {"type": "array", "minItems": 1, "items": location},
            "relatedLocations": {"type": "array", "uniqueItems": true, "items": location},
            "occurrenceCount": {"type": "integer", "minimum": 1},
            "baselineState": {"enum": ["new", "unchanged", "updated", "absent"]},
            "partialFingerprints": {"type": "object", "minProperties": 1, "additionalProperties": {"type": "string"}},
            "suppressions": {"type": "array", "items": {"type": "object", "required": ["kind"],
                "properties": {"kind": {"enum": ["inSource", "external"]},
                               "status": {"enum": ["accepted", "underReview", "rejected"]}}}},
        },
    });
    let rule = json!({
        "type": "object", "required": ["id", "shortDescription", "help"],
        "properties": {
            "shortDescription": text, "fullDescription": text, "help": text,
            "defaultConfiguration": {"type": "object", "properties": {"level": {"enum": ["none", "note", "warning", "error"]}}},
        },
    });
    json!({
        "type": "object", "required": ["version", "runs"],
        "properties": {
            "version": {"const": "2.1.0"},
            "runs": {"type": "array", "minItems": 1, "maxItems": 1, "items": {
                "type": "object", "required": ["tool", "results"],
                "properties": {
                    "tool": {"type": "object", "required": ["driver"], "properties": {"driver": {
                        "type": "object", "required": ["name", "rules"],
                        "properties": {"rules": {"type": "array", "minItems": rules, "maxItems": rules, "items": rule}},
                    }}},
                    "invocations": {"type": "array", "items": {"type": "object", "required": ["executionSuccessful"]}},
                    "results": {"type": "array", "items": result},
                },
            }},
        },
    })
}

#[track_caller]
pub(crate) fn is_valid(schema: &Value, value: &Value) {
    let validator = jsonschema::options().should_validate_formats(true).build(schema).unwrap();
    let errors: Vec<String> = validator
        .iter_errors(value)
        .map(|error| format!("{} at {}", error, error.instance_path()))
        .collect();
    assert!(errors.is_empty(), "{errors:#?}");
}

#[test]
fn sarif_is_as_its_standard_asks() {
    let project = hostile();
    project.run("check a.har -q --report sarif=a.sarif").exits(3);
    let sarif: Value = serde_json::from_str(&read(&project, "a.sarif")).unwrap();
    is_valid(&sarif_schema(), &sarif);
    let run = &sarif["runs"][0];
    assert_eq!(run["invocations"][0]["executionSuccessful"], false);
    let results = run["results"].as_array().unwrap();
    for result in results {
        let index = usize::try_from(result["ruleIndex"].as_u64().unwrap()).unwrap();
        assert_eq!(run["tool"]["driver"]["rules"][index]["id"], result["ruleId"]);
    }
    // The waived one is suppressed, with its reason and its line in the contract.
    let suppressed: Vec<_> =
        results.iter().filter(|result| result["suppressions"].is_array()).collect();
    assert_eq!(suppressed.len(), 1);
    assert_eq!(suppressed[0]["ruleId"], "media.declared");
    assert!(
        suppressed[0]["suppressions"][0]["justification"]
            .as_str()
            .unwrap()
            .ends_with("the <gateway>")
    );
    // The others stand at their endpoint's line.
    let line = HARBOUR.lines().position(|line| line.contains("\"GET /berths/{id}\"")).unwrap() + 1;
    let at_endpoint =
        results.iter().find(|result| result["properties"]["endpoint"] == "GET /berths/{id}");
    let location = &at_endpoint.unwrap()["locations"][0]["physicalLocation"];
    assert_eq!(location["artifactLocation"]["uri"], "error-contract.toml");
    assert_eq!(location["region"]["startLine"], line);
}

#[test]
fn sarif_points_into_the_description_too() {
    let project = Project::new();
    project.write(
        "contracts/api.yaml",
        "openapi: 3.1.0\ninfo: {title: x, version: '1'}\npaths:\n  /berths/{id}:\n    get:\n      parameters:\n        - {name: id, in: path, required: true, schema: {type: string}}\n      responses: {'200': {description: ok}}\n  /tides:\n    get:\n      responses: {'200': {description: ok}}\n",
    );
    let contract = "contract = 1\nopenapi = \"api.yaml\"\nservers = [\"https://harbour.example/v1\"]\n[error]\nmedia = \
                    \"application/problem+json\"\n[fault.none]\nstatus = 404\n[everywhere]\nfaults = [\"none\"]\n\
                    [endpoint.\"GET /tides\"]\nsuccess = [200]\n";
    project.write("contracts/error.toml", contract);
    let page = |path| got("GET", path, 404, "text/html", "<p>no</p>");
    project.write("a.har", har(&[page("/berths/A-3"), page("/tides")]));
    project.run("check --contract contracts/error.toml a.har -q --report sarif=a.sarif").exits(1);
    let sarif: Value = serde_json::from_str(&read(&project, "a.sarif")).unwrap();
    is_valid(&sarif_schema(), &sarif);
    let places = |endpoint: &str, list: &str| -> Vec<(String, u64)> {
        let results = sarif["runs"][0]["results"].as_array().unwrap();
        let result =
            results.iter().find(|result| result["properties"]["endpoint"] == endpoint).unwrap();
        let location = |at: &Value| {
            let at = &at["physicalLocation"];
            let line = at["region"]["startLine"].as_u64();
            line.map(|line| (at["artifactLocation"]["uri"].as_str().unwrap().to_owned(), line))
        };
        result[list].as_array().unwrap().iter().filter_map(location).collect()
    };
    let described = |line| ("contracts/api.yaml".to_owned(), line);
    assert_eq!(places("GET /berths/{id}", "locations"), [described(5)]);
    assert_eq!(places("GET /tides", "locations"), [("contracts/error.toml".to_owned(), 10)]);
    assert_eq!(places("GET /tides", "relatedLocations"), [described(10)]);
}

#[test]
fn the_json_keeps_to_its_schema() {
    let schema = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/check.schema.json");
    let schema: Value = serde_json::from_str(&std::fs::read_to_string(schema).unwrap()).unwrap();
    let project = hostile();
    is_valid(&schema, &project.checked());
    project.run("demo --files-only --output .").exits(0);
    project.run("check before.har -q --report ledger=old.json").exits(1);
    for call in [
        "check before.har --format json",
        "check after.har --format json",
        "check after.har --format json --baseline old.json --fail-on note",
        "merge old.json --format json",
    ] {
        is_valid(&schema, &project.run(call).json());
    }
    // The schema can say no.
    let validator = jsonschema::validator_for(&schema).unwrap();
    let mut wrong = project.checked();
    wrong["findings"][0]["severity"] = json!("error");
    assert!(!validator.is_valid(&wrong));
}

#[test]
fn csv_has_a_line_for_each_finding_and_no_formula() {
    let project = hostile();
    let check = project.checked();
    project.run("check a.har -q --report csv=a.csv").exits(3);
    let text = read(&project, "a.csv");
    let mut lines = Vec::new();
    // RFC 4180: cells in quotation marks, which are doubled within.
    for line in text.split("\r\n").filter(|line| !line.is_empty()) {
        let mut cells = vec![String::new()];
        let (mut is_quoted, mut chars) = (false, line.chars().peekable());
        while let Some(c) = chars.next() {
            match c {
                '"' if is_quoted && chars.next_if_eq(&'"').is_some() => {
                    cells.last_mut().unwrap().push('"');
                }
                '"' => is_quoted = !is_quoted,
                ',' if !is_quoted => cells.push(String::new()),
                c => cells.last_mut().unwrap().push(c),
            }
        }
        assert_eq!(cells.len(), 12, "{line}");
        assert!(cells.iter().all(|cell| !cell.starts_with(['=', '+', '-', '@'])), "{line}");
        lines.push(cells);
    }
    assert_eq!(lines[0][..3], ["severity", "clause", "endpoint"]);
    assert_eq!(lines.len() - 1, check["findings"].as_array().unwrap().len());
}

#[test]
fn markdown_fits_a_comment_and_counts_the_rest() {
    // Fifty texts of each of several clauses, each as long as a finding's text gets.
    let long = "x".repeat(390);
    let exchanges: Vec<Value> = (0..600_usize)
        .map(|number| {
            let odd = format!("{long} {number}");
            let body = json!({"type": odd, "title": odd, "status": odd, "detail": 1}).to_string();
            let (method, path) =
                [("GET", "/berths/A-3"), ("GET", "/nowhere"), ("PUT", "/berths/A-3")][number % 3];
            got(method, path, 404, PROBLEM, &body)
        })
        .collect();
    let project = Project::with(HARBOUR, &exchanges);
    project.run("check a.har -q --report markdown=a.md").exits(1);
    let text = read(&project, "a.md");
    let length = text.chars().count();
    assert!((40_000..=60_000).contains(&length), "{length}");
    assert!(text.contains("not shown here."), "{text}");
    // Nothing is told less than it counts: all that is shown and counted is all that there is.
    let check = project.checked();
    let all: u64 = ["breaches", "warnings", "notes"]
        .iter()
        .map(|of| check["totals"][of].as_u64().unwrap())
        .sum();
    let counted: u64 = text
        .lines()
        .filter_map(|line| line.strip_prefix("And ")?.split(' ').next()?.parse::<u64>().ok())
        .sum();
    // Behind a finding stand the first addresses, and how many more there are.
    let of = |line: &str| -> u64 {
        let more = line
            .rsplit_once(" and ")
            .and_then(|(_, more)| more.strip_suffix(" more")?.parse().ok());
        line.matches("#").count() as u64 + more.unwrap_or(0_u64)
    };
    let shown: u64 = text.lines().filter(|line| line.starts_with("- **")).map(of).sum();
    assert_eq!(shown + counted, all);
}

#[test]
fn reports_that_cannot_be_written_are_known_before_the_work() {
    let project = hostile();
    for (call, message) in [
        ("check a.har --report json=nowhere/a.json", "can't write the report nowhere/a.json"),
        ("check a.har --report json=x --report csv=x", "two reports would be written to x"),
        ("check a.har --report json=x --report csv=./x", "two reports would be written to ./x"),
        ("check a.har --report json=a.har", "a.har is an input of this call; not overwritten"),
        (
            "check a.har --report json=error-contract.toml",
            "is an input of this call; not overwritten",
        ),
        ("check a.har --report json=.", ". is a folder"),
        ("survey a.har --report html=nowhere/a.html", "can't write the report nowhere/a.html"),
        ("coverage a.har --report json=a.har", "is an input of this call"),
        ("compare a.har a.har --report json=a.har", "is an input of this call"),
        ("check a.har --report hmtl=x", "did you mean html?"),
    ] {
        let run = project.run(call).exits(2).complains(message);
        assert_eq!(run.stdout, "", "{call}");
    }
    assert!(!project.path().join("x").exists());
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_told_and_the_other_reports_are_written() {
    let project = hostile();
    project
        .run("check a.har --report json=/dev/full --report csv=a.csv")
        .exits(2)
        .complains("can't write the report /dev/full: No space left on device");
    assert!(read(&project, "a.csv").starts_with("severity,"));
}

#[test]
fn a_report_takes_the_place_of_the_last_one() {
    let project = hostile();
    project.write("a.json", "the last one");
    project.run("check a.har -q --report json=a.json").exits(3);
    assert!(read(&project, "a.json").starts_with('{'));
    let left: Vec<_> = std::fs::read_dir(project.path())
        .unwrap()
        .map(|entry| entry.unwrap().file_name())
        .collect();
    assert_eq!(left.len(), 3, "{left:?}");
}

#[test]
fn other_commands_write_reports_too() {
    let project = hostile();
    for command in ["survey a.har", "coverage a.har", "compare a.har a.har"] {
        let call = format!(
            "{command} --report html=x.html --report json=x.json --report markdown=x.md --report text=x.txt"
        );
        let run = project.run(&call);
        assert_eq!(read(&project, "x.txt"), run.stdout, "{command}");
        assert_eq!(
            read(&project, "x.json"),
            project.run(&format!("{command} --format json")).stdout
        );
        assert_eq!(
            read(&project, "x.md"),
            project.run(&format!("{command} --format markdown")).stdout
        );
        let html = read(&project, "x.html");
        assert_eq!(html.matches("<script").count(), 1, "{command}");
        assert!(html.contains("default-src 'none'"), "{command}");
    }
}

/// What stands in the way of a report is never destroyed by it.
#[cfg(unix)]
#[test]
fn reports_go_where_their_names_lead_and_destroy_nothing() {
    use std::os::unix::fs::symlink;
    let project = Project::with(HARBOUR, &[got("GET", "/nowhere", 404, "text/html", "<p>")]);
    let json = project.run("check a.har --format json").exits(1).stdout;
    // Printed, a report stands in the place of the result, and is written behind what a file has already.
    for name in ["-", "/dev/stdout", "/dev/fd/1"] {
        assert_eq!(project.run(&format!("check a.har --report json={name}")).exits(1).stdout, json);
        let path = project.write("log.txt", "before\n");
        let log = std::fs::OpenOptions::new().append(true).open(&path).unwrap();
        let mut command = project.command(&format!("check a.har --report json={name}"));
        assert_eq!(command.stdout(log).status().unwrap().code(), Some(1));
        assert_eq!(std::fs::read_to_string(&path).unwrap(), format!("before\n{json}"), "{name}");
    }
    for call in ["survey a.har", "coverage a.har", "compare a.har a.har"] {
        let run = project.run(&format!("{call} --report json=-"));
        assert!(run.json().is_object(), "{run}");
    }
    let both = project.run("check a.har --report json=- --report csv=/dev/stdout").exits(2);
    both.complains("two reports would be written to standard output");
    project
        .run("check a.har --ledger --report json=-")
        .exits(2)
        .complains("can't be printed beside it");
    // Through a link, and through one to a file that is not there yet.
    std::fs::create_dir(project.path().join("real")).unwrap();
    project.write("real/old.json", "old");
    for (link, target) in
        [("one.json", "real/old.json"), ("two.json", "real/new.json"), ("three.json", "two.json")]
    {
        symlink(target, project.path().join(link)).unwrap();
        project.run(&format!("check a.har -q --report json={link}")).exits(1);
        let is_link = project.path().join(link).symlink_metadata().unwrap().is_symlink();
        assert!(is_link, "{link} is still a link");
        assert_eq!(std::fs::read_to_string(project.path().join(link)).unwrap(), json);
    }
    assert_eq!(std::fs::read_to_string(project.path().join("real/new.json")).unwrap(), json);
    // Two names of one file are one.
    let run = project.run("check a.har --report json=two.json --report csv=real/new.json").exits(2);
    run.complains("two reports would be written to real/new.json");
    symlink("b.json", project.path().join("a.json")).unwrap();
    symlink("a.json", project.path().join("b.json")).unwrap();
    project.run("check a.har --report json=a.json").exits(2).complains("round in a circle");
    project.run("check a.har --report json=real").exits(2).complains("is a folder");
    // A pipe with a name is written to, and stays.
    let made = std::process::Command::new("mkfifo").arg(project.path().join("pipe")).status();
    if made.is_ok_and(|status| status.success()) {
        let path = project.path().join("pipe");
        let reader = std::thread::spawn(move || std::fs::read_to_string(path).unwrap());
        project.run("check a.har -q --report json=pipe").exits(1);
        assert_eq!(reader.join().unwrap(), json);
    }
}
