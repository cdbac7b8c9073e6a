//! A description is written with the contract's faults in it, and is else as it was.

use std::process::Command;

use serde_json::{Value, json};

use crate::harness::Project;

const PILOTS: &str = include_str!("../data/descriptions/pilots/openapi.yaml");
const PARTS: &str = include_str!("../data/descriptions/pilots/parts.yaml");
const CARGO: &str = include_str!("../data/descriptions/cargo/openapi.json");

const FAULTS: &str = r#"contract = 1
[error]
media = "application/problem+json"
shape = "problem"
[fault.not-valid]
status = 422
type = "https://pilots.example/faults/not-valid"
title = "The request is not valid"
when = ["invalid-body"]
members = { errors = "array of flaw", hint = "string or null" }
[shape.flaw]
pointer = "json pointer"
[fault.none]
status = 404
title = "Not Found"
when = ["resource-not-found"]
[fault.gone]
status = 404
type = "https://pilots.example/faults/gone"
title = "Gone"
[fault.wrong-query]
status = 400
title = "Bad Request"
when = ["invalid-parameters"]
[fault.busy]
status = 503
title = "Service Unavailable"
any-request = true
headers = { Retry-After = "integer, at least 1" }
[fault.unknown]
status = 404
title = "No such route"
when = ["unknown-route"]
[everywhere]
faults = ["busy", "unknown"]
"#;

fn pilots() -> Project {
    let project = Project::new();
    project.write("openapi.yaml", PILOTS);
    project.write("parts.yaml", PARTS);
    let endpoints = "[endpoint.\"GET /craft\"]\nfaults = [\"wrong-query\"]\n\
        [endpoint.\"POST /craft\"]\nfaults = [\"not-valid\"]\n\
        [endpoint.\"POST /accounts\"]\nfaults = [\"not-valid\"]\n\
        [endpoint.\"GET /branches/{name}\"]\nfaults = [\"none\", \"gone\"]\n";
    project.write("error-contract.toml", format!("{FAULTS}{endpoints}"));
    project
}

fn cargo() -> Project {
    let project = Project::new();
    project.write("openapi.json", CARGO);
    let endpoints = "[endpoint.\"GET /loads\"]\n[endpoint.\"GET /loads/{number}\"]\nfaults = [\"none\"]\n\
        [endpoint.\"PUT /loads/{number}\"]\nfaults = [\"none\", \"gone\", \"not-valid\"]\n\
        [endpoint.\"GET /docks\"]\nsuccess = [200]\n";
    project.write("error-contract.toml", format!("{FAULTS}{endpoints}"));
    project
}

fn read(project: &Project, name: &str) -> String {
    std::fs::read_to_string(project.path().join(name)).unwrap()
}

/// A description whose components have the names of the contract's, and are something else.
fn named_alike() -> Project {
    let project = Project::new();
    let description = json!({"openapi": "3.1.0", "info": {"title": "x", "version": "1"},
        "paths": {"/a": {"get": {"responses": {"200": {"description": "ok"}}}}},
        "components": {"schemas": {"problem": {"type": "string"}, "flaw": {"type": "array"}},
                       "responses": {"busy": {"description": "other"}}}});
    project.write("openapi.json", description.to_string());
    let endpoint = "[endpoint.\"GET /a\"]\nfaults = [\"not-valid\"]\n";
    project.write("error-contract.toml", format!("{FAULTS}{endpoint}"));
    project
}

/// The lines of a text that are not in another, in its order.
fn lost<'t>(text: &'t str, new: &str) -> Vec<&'t str> {
    let mut rest = new.lines();
    let mut lost = Vec::new();
    for line in text.lines() {
        let before = rest.clone();
        if !rest.any(|new| new == line) {
            rest = before;
            lost.push(line);
        }
    }
    lost
}

#[test]
fn a_description_in_yaml_keeps_every_line_but_those_that_disagree() {
    let project = pilots();
    let call = "handbook --openapi openapi.yaml -o new.yaml";
    let run = project.run(call).exits(0).says("new.yaml: the description with 5 responses more.");
    let run = run.says("• GET /craft: 400").says("agree about every documented error");
    assert!(run.stderr.is_empty(), "{}", run.stderr);
    let new = read(&project, "new.yaml");
    // The first breaks what is agreed, the second says nothing of a body.
    let due = [
        "        \"400\": { $ref: \"parts.yaml#/responses/Refused\" }",
        "        \"404\": { description: none }",
    ];
    assert_eq!(lost(PILOTS, &new), due);
    for due in [
        "        \"400\":\n          $ref: \"#/components/responses/wrong-query\"\n",
        "        \"404\": { description: none, content: { application/problem+json: { schema: { anyOf: [",
        // Each of two faults of one status has its example.
        "none: { value: { title: \"Not Found\", status: 404 } }, gone: { value: {",
        "        \"503\":\n          $ref: \"#/components/responses/busy\"\n",
        "    busy:\n      description: \"503 Service Unavailable\"\n",
    ] {
        assert!(new.contains(due), "{due}\n{new}");
    }
    project.run("check --contract-only --openapi new.yaml").exits(0);
    project.run("handbook --openapi new.yaml -o again.yaml").exits(0).says("as it was");
    assert_eq!(read(&project, "again.yaml"), new);
    // Nobody's file is written over.
    project.run(call).exits(2).complains("new.yaml");
    assert_eq!(read(&project, "new.yaml"), new);
}

#[test]
fn a_description_in_json_keeps_its_lines_and_what_is_left_is_told() {
    let project = cargo();
    let run = project.run("handbook --openapi openapi.json -o new.json").exits(0);
    let run = run.says("with 3 responses more").says("• GET /docks: it is not in the description");
    run.says("GET /loads?open=true\n\n  • is documented, and the contract does not have it");
    let new = read(&project, "new.json");
    let lost = lost(CARGO, &new);
    // Each but for the comma behind it.
    assert_eq!(lost.len(), 5, "{lost:#?}");
    let has = |line: &&str| new.lines().any(|new| new == format!("{line},"));
    assert!(lost.iter().all(has), "{lost:#?}");
    let value: Value = serde_json::from_str(&new).unwrap();
    let busy = json!({"$ref": "#/components/responses/busy"});
    assert_eq!(value.pointer("/paths/~1loads/get/responses/503"), Some(&busy));
    assert_eq!(value.pointer("/paths/~1loads?open=true/get/responses/503"), None);
    project.run("handbook --openapi new.json -o again.json").exits(0).says("as it was");
    assert_eq!(read(&project, "again.json"), new);
}

/// What is called so already, and is something else, keeps its name.
#[test]
fn components_of_the_same_name_are_not_mixed_up() {
    let project = named_alike();
    project.run("handbook --openapi openapi.json -o new.json").exits(0);
    let new: Value = serde_json::from_str(&read(&project, "new.json")).unwrap();
    let at = |pointer: &str| new.pointer(pointer).cloned();
    assert_eq!(at("/components/schemas/problem"), Some(json!({"type": "string"})));
    assert_eq!(at("/components/responses/busy"), Some(json!({"description": "other"})));
    let due = json!({"$ref": "#/components/responses/busy-agreed"});
    assert_eq!(at("/paths/~1a/get/responses/503"), Some(due));
    let schemas = at("/components/schemas").unwrap();
    let mut all = schemas.as_object().unwrap().values();
    let items = all.find_map(|schema| schema.pointer("/properties/errors/items"));
    assert_eq!(items, Some(&json!({"$ref": "#/components/schemas/flaw-agreed"})), "{schemas:#}");
    project.run("check --contract-only --openapi new.json").exits(0);
}

/// The written descriptions are read by a parser that is nobody's here: pydantic's models of OpenAPI, if Python has them.
#[test]
fn another_parser_reads_what_was_written() {
    const PARSE: &str = "import json, sys\n\
        from openapi_pydantic import parse_obj\n\
        text = open(sys.argv[1]).read()\n\
        if sys.argv[1].endswith('.yaml'):\n    import yaml; value = yaml.safe_load(text)\n\
        else:\n    value = json.loads(text)\n\
        print(len(parse_obj(value).paths))\n";
    let python = |arguments: &[&str]| Command::new("python3").args(arguments).output();
    let has = python(&["-c", "import openapi_pydantic, yaml"]);
    if !has.is_ok_and(|output| output.status.success()) {
        println!("skipped: Python has no openapi_pydantic and yaml here");
        return;
    }
    for (project, old, new, paths) in [
        (pilots(), "openapi.yaml", "new.yaml", "3"),
        (named_alike(), "openapi.json", "new.json", "1"),
    ] {
        project.run(&format!("handbook --openapi {old} -o {new}")).exits(0);
        let path = project.path().join(new);
        let output = python(&["-c", PARSE, &path.to_string_lossy()]).unwrap();
        let said = String::from_utf8_lossy(&output.stdout);
        assert_eq!(said.trim(), paths, "{new}: {}", String::from_utf8_lossy(&output.stderr));
    }
}

#[test]
fn a_handbook_is_made_of_a_description_alone() {
    let project = pilots();
    project.run("handbook --openapi openapi.yaml -o book").exits(0).says("files are in book");
    let index = read(&project, "book/index.md");
    assert!(index.contains("add-craft-422") && index.contains("refused"), "{index}");
    project
        .run("handbook --openapi openapi.yaml --contract error-contract.toml -o book")
        .exits(2)
        .complains("ends in .yaml or .json");
}
