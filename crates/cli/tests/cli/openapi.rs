//! A description alone is a contract: what it documents of responses is checked, where it says that the service is.

use serde_json::{Value, json};

use crate::harness::{Project, findings, got, har, sent};

const JSON: &str = "application/json";
const PROBLEM: &str = "application/problem+json";

const BOATS: &str = r##"openapi: 3.1.0
info: {title: Boats, version: "1"}
servers:
  - url: "https://{region}.harbour.example/{base}"
    variables: {region: {enum: [east, west], default: east}, base: {default: api/v2}}
paths:
  /boats:
    get:
      operationId: listBoats
      responses:
        "200":
          description: all of them
          headers:
            X-Total-Count: {required: true, schema: {type: integer}}
            X-Note: {schema: {type: string, maxLength: 5}}
          content: {application/json: {schema: {type: array, items: {$ref: "#/components/schemas/Boat"}}}}
  /boats/{boatId}:
    parameters: [{name: boatId, in: path, required: true, schema: {type: integer}}]
    get:
      operationId: getBoat
      responses:
        "200": {description: one, content: {application/json: {schema: {$ref: "#/components/schemas/Boat"}}}}
        "404": {$ref: "#/components/responses/NoSuchBoat"}
    put:
      servers: [{url: "https://write.harbour.example"}]
      operationId: putBoat
      requestBody: {required: true, content: {application/json: {schema: {$ref: "#/components/schemas/Boat"}}}}
      responses:
        "200": {description: changed}
        "404": {$ref: "#/components/responses/NoSuchBoat"}
        "422": {description: not valid, content: {application/problem+json: {schema: {$ref: "#/components/schemas/Problem"}}}}
components:
  responses:
    NoSuchBoat: {description: none, content: {application/problem+json: {schema: {$ref: "#/components/schemas/Problem"}}}}
  schemas:
    Boat: {type: object, required: [id, name], properties: {id: {type: integer}, name: {type: string}, owner: {type: [string, "null"]}}}
    Problem: {type: object, required: [title, status], properties: {title: {type: string}, status: {type: integer}}}
"##;

/// The same exchange at another URL, with more headers in its response.
fn at(url: &str, mut entry: Value, headers: &[(&str, &str)]) -> Value {
    entry["request"]["url"] = json!(url);
    let all = entry["response"]["headers"].as_array_mut().unwrap();
    all.extend(headers.iter().map(|(name, value)| json!({"name": name, "value": value})));
    entry
}

fn problem(status: u16, title: &str) -> String {
    json!({"title": title, "status": status}).to_string()
}

fn day() -> Vec<Value> {
    let list = "https://east.harbour.example/api/v2/boats";
    let one = |id: &str| format!("https://west.harbour.example/api/v2/boats/{id}");
    let total = ("X-Total-Count", "1");
    let get = |status: u16, media: &str, body: &str| got("GET", "/", status, media, body);
    let put = |body: &str, status: u16, came: &str| {
        sent("PUT", "/", &[], Some(body), status, PROBLEM, came)
    };
    let write = "https://write.harbour.example/boats/1";
    let missing = problem(404, "Not Found");
    vec![
        at(list, get(200, JSON, r#"[{"id":1,"name":"Tern"}]"#), &[total]),
        at(list, get(200, JSON, r#"[{"id":1,"name":"Tern"},{"id":"2"}]"#), &[total]),
        at(list, get(200, JSON, "[]"), &[]),
        at(list, get(200, JSON, "[]"), &[("X-Total-Count", "many"), ("X-Note", "too long")]),
        at(list, get(401, PROBLEM, &problem(401, "Unauthorized")), &[("WWW-Authenticate", "Bearer")]),
        at(&one("1"), get(200, JSON, r#"{"id":1,"name":"Tern","owner":null}"#), &[]),
        at(&one("9"), get(404, PROBLEM, &missing), &[]),
        at(&one("8"), get(404, JSON, r#"{"message":"none"}"#), &[]),
        at(&one("7"), get(409, PROBLEM, &problem(409, "Conflict")), &[]),
        at(write, put(r#"{"id":1}"#, 422, &json!({"title": "Unprocessable Content", "status": 422, "errors": [{"pointer": "/name", "detail": "is missing"}]}).to_string()), &[]),
        at(write, put(r#"{"id":1}"#, 200, "{}"), &[]),
        at("https://north.harbour.example/api/v2/boats", get(200, JSON, "[]"), &[]),
    ]
}

/// What each exchange breaks, by what the description says: written down before.
#[test]
fn a_description_alone_is_checked() {
    let project = Project::new();
    project.write("boats.yaml", BOATS);
    project.write("day.har", har(&day()));
    let check = project.run("check --openapi boats.yaml day.har --format json").exits(1).json();
    let breaches: Vec<(u64, String, String)> = findings(&check)
        .into_iter()
        .filter(|(_, _, severity, _)| severity == "breach")
        .map(|(number, clause, _, location)| (number, clause, location))
        .collect();
    let due = [
        (2, "success.shape-declared", "body /1/id"),
        (2, "success.shape-declared", "body /1/name"),
        (3, "header.declared", "header X-Total-Count"),
        (4, "header.declared", "header X-Note"),
        (4, "header.declared", "header X-Total-Count"),
        // The fifth is a refusal where the description documents none: it is silent.
        (8, "media.documented", "header Content-Type"),
        (8, "shape.declared", "body /status"),
        (8, "shape.declared", "body /title"),
        (9, "status.declared", "the status line"),
        (11, "situation.requires-error", "the status line"),
    ];
    let due = due.map(|(number, clause, at)| (number, clause.to_owned(), at.to_owned()));
    assert_eq!(breaches, due);
    // The last one went to a server that is none of the description's.
    assert_eq!(check["totals"]["excluded"], 1, "{check:#}");
    let text = project.run("check --openapi boats.yaml day.har").exits(1);
    let text = text.says("according to the OpenAPI description (line 8 of boats.yaml)");
    let text = text.says("according to the OpenAPI description (line 19 of boats.yaml)");
    text.says("expected  422 (fault problem-422)");
    let covered = project.run("coverage --openapi boats.yaml day.har").exits(0);
    covered.says("resource-not-found → no-such-boat");
    let plan = project.run("probe --openapi boats.yaml --dry-run").exits(0);
    plan.says("PUT /boats/{boatId}: ");
    let shown = project.run("show --openapi boats.yaml day.har#11").exits(0);
    shown.says("422 Unprocessable Content").says("\"title\": ");
    project
        .run("check --openapi boats.yaml --contract x.toml day.har")
        .exits(2)
        .complains("stands in the place of --contract");
}

/// An operation that documents no errors is silent about refusals, whatever was wrong; and those who want it otherwise say so.
#[test]
fn where_no_error_is_documented_the_description_is_silent() {
    let silent = r#"{"openapi": "3.0.3", "paths": {"/tides": {"post": {
        "requestBody": {"required": true, "content": {"application/json": {"schema": {"type": "object", "required": ["day"]}}}},
        "responses": {"200": {"description": "one"}}}}}}"#;
    let project = Project::new();
    project.write("tides.json", silent);
    let refused = |status: u16, title: &str| {
        sent("POST", "/tides", &[], Some("{}"), status, PROBLEM, &problem(status, title))
    };
    let failed = refused(500, "Internal Server Error");
    project.write(
        "a.har",
        har(&[refused(422, "Unprocessable Content"), refused(404, "Not Found"), failed]),
    );
    let breaches = |call: &str| -> Vec<(u64, String)> {
        let check = project.run(&format!("check {call} --all --format json a.har")).json();
        let breach = |(number, clause, severity, _): (u64, String, String, String)| {
            (severity == "breach").then_some((number, clause))
        };
        findings(&check).into_iter().filter_map(breach).collect()
    };
    let servers = "servers = [\"https://harbour.example/v1\"]\n";
    let contract = |rest: &str| format!("contract = 1\n{servers}openapi = \"tides.json\"\n{rest}");
    project.write("silent.toml", contract(""));
    project.write("strict.toml", contract("undocumented-errors = \"breach\"\n"));
    let misfit = (3, "status.fits-situation".to_owned());
    assert_eq!(breaches("--contract silent.toml"), [misfit]);
    let strict = breaches("--contract strict.toml");
    assert!(strict.iter().any(|(number, _)| *number == 1), "{strict:?}");
}

#[test]
fn a_description_of_version_2_is_refused_with_what_to_do() {
    let project = Project::new();
    project.write("old.yaml", "swagger: \"2.0\"\npaths: {}\n");
    project.write("a.har", har(&[got("GET", "/x", 200, JSON, "{}")]));
    project
        .run("check --openapi old.yaml a.har")
        .exits(2)
        .complains("it is version 2.0 (Swagger)")
        .complains("convert it to OpenAPI 3");
}

/// A contract and a description are held against each other: endpoints, statuses, media types, schemas.
#[test]
fn where_a_contract_and_a_description_disagree_is_told() {
    let contract = |rest: &str| {
        format!(
            "contract = 1\n[error]\nmedia = \"application/problem+json\"\nshape = \"problem\"\n\
             [fault.no-boat]\nstatus = 404\ntitle = \"Not Found\"\nwhen = [\"resource-not-found\"]\n\
             [fault.invalid]\nstatus = 422\ntitle = \"Not valid\"\nwhen = [\"invalid-body\"]\n\
             [fault.wrong-type]\nstatus = 415\nmedia = \"text/plain\"\nwhen = [\"unsupported-media-type\"]\n\
             [endpoint.\"GET /boats\"]\nsuccess = [200]\n\
             [endpoint.\"GET /boats/{{id}}\"]\nfaults = [\"no-boat\"]\n{rest}"
        )
    };
    let project = Project::new();
    project.write("boats.yaml", BOATS);
    let call = "check --contract-only --openapi boats.yaml";
    let agreed = "[endpoint.\"PUT /boats/{id}\"]\nfaults = [\"no-boat\", \"invalid\"]\n";
    // An unused fault is only a warning.
    project.write("error-contract.toml", contract(agreed));
    project.run(call).exits(0).says("agree about every documented error");
    let other = "[endpoint.\"PUT /boats/{id}\"]\nfaults = [\"no-boat\", \"wrong-type\"]\n\
                 [endpoint.\"GET /docks\"]\nsuccess = [200]\n";
    project.write("error-contract.toml", contract(other));
    let run = project.run(call).exits(1).says("disagree about 3 things");
    let run = run.says("PUT /boats/{id}\n\n  • 422 is documented, and no fault has it");
    let run = run.says("• 415 (fault wrong-type) is agreed, and not documented");
    run.says("GET /docks\n\n  • is in the contract, and not documented");
    let plain =
        contract(agreed).replace("status = 422\n", "status = 422\nmedia = \"text/plain\"\n");
    project.write("error-contract.toml", plain);
    let run = project.run(call).exits(1);
    run.says("• 422 is agreed as text/plain, and documented as application/problem+json");
    project.write("error-contract.toml", contract(agreed).replace("title = \"Not valid\"\n", ""));
    let run = project.run(call).exits(1);
    run.says("breaks the documented schema at /title");
}

/// Operations whose paths are written with a query are told apart by it.
#[test]
fn a_path_with_a_query_is_an_endpoint_of_its_own() {
    let project = Project::new();
    let schema = |kind: &str| json!({"description": "ok", "content": {"application/json": {"schema": {"type": kind}}}});
    let operation = |kind: &str| json!({"get": {"responses": {"200": schema(kind)}}});
    let description = json!({"openapi": "3.1.0", "info": {"title": "Search", "version": "1"}, "paths": {
        "/search?mode=deep": operation("object"),
        "/search?mode=quick": operation("array"),
        "/boats": operation("array"),
        "/boats?by=name": operation("object"),
    }});
    project.write("search.json", description.to_string());
    let get = |path: &str, body: &str| got("GET", path, 200, JSON, body);
    project.write(
        "a.har",
        har(&[
            get("/search?mode=deep&q=x", "{}"),
            get("/search?mode=quick", "{}"),
            get("/search?mode=other", "{}"),
            get("/boats?limit=3", "[]"),
            get("/boats?by=name", "[]"),
        ]),
    );
    let servers = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n";
    project.write("c.toml", format!("{servers}openapi = \"search.json\"\n"));
    let check = project.run("check --contract c.toml a.har --format json").exits(1).json();
    let found: Vec<(u64, String)> =
        findings(&check).into_iter().map(|(number, clause, ..)| (number, clause)).collect();
    let broken = |number: u64| (number, "success.shape-declared".to_owned());
    assert_eq!(found, [broken(2), broken(5)]);
    let text = project.run("check --contract c.toml a.har").exits(1);
    text.says("GET /search?mode=quick").says("GET /boats?by=name");
    let plan = project.run("probe --contract c.toml --dry-run").exits(0);
    plan.says("/search?mode=");
}

/// What a description gives as examples is there; what is unknown is something else of the same form.
#[test]
fn a_probe_asks_for_the_examples_of_a_description() {
    const EXAMPLES: &str = r##"openapi: 3.1.0
info: { title: Examples, version: "1" }
paths:
  /boats/{id}:
    parameters:
      - { name: id, in: path, required: true, schema: { type: integer }, examples: { tern: { $ref: "#/components/examples/Tern" } } }
      - { name: X-Unit, in: header, required: true, schema: { type: string, enum: [m, ft] } }
    get:
      parameters: [{ name: on, in: query, required: true, example: "2027-05-01", schema: { type: string, format: date } }]
      responses: { "200": { description: ok }, "404": { description: none }, "400": { description: bad } }
    put:
      requestBody:
        required: true
        content:
          application/json:
            example: { name: Auk, tags: [small] }
            schema: { type: object, required: [name, tags], properties: { name: { type: string, pattern: "^[A-Z]" }, tags: { type: array, items: { type: string } } } }
      responses: { "200": { description: ok }, "422": { description: bad } }
  /names/{name}:
    get:
      parameters: [{ name: name, in: path, required: true, schema: { type: string, pattern: "^[A-Z]{2}$" } }]
      responses: { "200": { description: ok }, "404": { description: none } }
components: { examples: { Tern: { value: 42 } } }
"##;
    let project = Project::new();
    project.write("examples.yaml", EXAMPLES);
    let plan = project.run("probe --openapi examples.yaml --dry-run").exits(0);
    for due in [
        "GET /boats/{id}: an unknown id  [GET /boats/987654321?on=2027-05-01]",
        "GET /boats/{id}: without `on`  [GET /boats/42]",
        "GET /boats/{id}: `id` of another type  [GET /boats/x?on=2027-05-01]",
        "GET /boats/{id}: `id` a fraction  [GET /boats/1.5?on=2027-05-01]",
        "PUT /boats/{id}: `tags[2]` of another JSON type  [PUT /boats/42]",
        "PUT /boats/{id}: without `tags`  [PUT /boats/42]",
        "PUT /boats/{id}: an empty body  [PUT /boats/42]",
        "GET /names/{name}: an unknown id  [GET /names/AA]",
    ] {
        assert!(plan.stdout.contains(due), "{due}\n{}", plan.stdout);
    }
    assert!(!plan.stdout.contains("not planned"), "{}", plan.stdout);
}
