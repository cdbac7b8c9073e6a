//! Rules from files: JSON Schema, and OpenAPI descriptions.

use std::collections::BTreeMap;

use faithful_clerk_check::classify::{Classification, Classified, Credentials, classify};
use faithful_clerk_check::clauses::{check_exchange, exchange};
use faithful_clerk_contract::{Authentication, ParameterLocation};
use faithful_clerk_contract::{DiagnosticSeverity, ErrorContract, ParsedContract};
use faithful_clerk_schema::FileLoader;
use serde_json::{Value, json};

/// Files that are not on a disk.
#[derive(Debug, Default)]
pub(crate) struct Folder(BTreeMap<&'static str, String>);

impl FileLoader for Folder {
    fn read(&self, path: &str) -> Result<Vec<u8>, String> {
        let found = self.0.get(path).map(|text| text.clone().into_bytes());
        found.ok_or_else(|| "no such file".to_owned())
    }
}

pub(crate) fn folder(files: &[(&'static str, &str)]) -> Folder {
    Folder(files.iter().map(|(name, text)| (*name, (*text).to_owned())).collect())
}

const POSTS: &str = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
    [fault.invalid]\nstatus = 422\n when = [\"invalid-body\", \"invalid-parameters\"]\n\
    [endpoint.\"POST /bookings\"]\nfaults = [\"invalid\"]\nbody = \"schemas/booking.json\"\n";

fn whole(parsed: ParsedContract) -> ErrorContract {
    let mistakes: Vec<_> =
        parsed.diagnostics.iter().filter(|m| m.severity == DiagnosticSeverity::Error).collect();
    assert!(mistakes.is_empty(), "{mistakes:#?}");
    parsed.contract.unwrap()
}

/// What is wrong with a booking, as `/place words`.
fn invalid(contract: &ErrorContract, body: &Value) -> Vec<String> {
    let request = format!("POST /v1/bookings\nContent-Type: application/json\n\n{body}");
    with(contract, &request, "HTTP/1.1 201 Created", |classified| {
        let invalid = classified.situations.invalid.iter();
        let mut found: Vec<String> = invalid
            .map(|location| format!("{} {}", location.pointer, location.kind.words()))
            .collect();
        found.sort();
        found
    })
}

fn with<T>(
    contract: &ErrorContract,
    request: &str,
    response: &str,
    look: impl FnOnce(&Classified<'_>) -> T,
) -> T {
    // An exchange's text lives as long as the program; a few kilobytes in a test.
    let leak = |text: &str| -> &'static str { Box::leak(text.to_owned().into_boxed_str()) };
    let exchange = exchange(1, leak(request), leak(response));
    match classify(&exchange, contract, Credentials::Recorded) {
        Classification::Classified(classified) => look(&classified),
        Classification::Excluded(reason) => panic!("excluded: {reason}"),
    }
}

fn clauses(contract: &ErrorContract, request: &str, response: &str) -> Vec<&'static str> {
    with(contract, request, response, |classified| {
        check_exchange(classified).findings.iter().map(|finding| finding.clause).collect()
    })
}

#[test]
fn a_schema_gives_the_exact_places_and_how_each_is_broken() {
    let schema = json!({"type": "object", "required": ["vessel", "nights"], "additionalProperties": false,
        "properties": {
            "vessel": {"type": "string", "pattern": "^[A-Z]{2}[0-9]{4}$"},
            "nights": {"type": "integer", "minimum": 1, "maximum": 28},
            "arrives": {"type": "string", "format": "date"},
            "quay": {"enum": ["north", "mill"]},
            "note": {"type": "string", "minLength": 2, "maxLength": 5},
            "crew": {"type": "array", "minItems": 1, "maxItems": 2,
                     "items": {"type": "object", "required": ["na/me"], "properties": {"na/me": {"type": "string"}}}},
            "berth": {"oneOf": [{"type": "string"}, {"type": "object", "required": ["id"]}]},
            "tags": {"type": "array", "uniqueItems": true}}})
    .to_string();
    let contract = whole(faithful_clerk_check::parse_contract_with_files(
        POSTS,
        &folder(&[("schemas/booking.json", &schema)]),
    ));
    let good = json!({"vessel": "OB1234", "nights": 1e1});
    assert_eq!(invalid(&contract, &good), [""; 0]);
    for (member, value, found) in [
        ("vessel", json!("x"), "/vessel of the wrong format"),
        ("vessel", json!(7), "/vessel of the wrong JSON type"),
        ("nights", json!(0), "/nights out of range"),
        ("nights", json!(29), "/nights out of range"),
        ("nights", json!(1.5), "/nights of the wrong JSON type"),
        ("arrives", json!("2031-02-30"), "/arrives of the wrong format"),
        ("quay", json!("outer"), "/quay not one of the listed values"),
        ("note", json!("x"), "/note too short"),
        ("note", json!("123456"), "/note too long"),
        ("crew", json!([]), "/crew too few"),
        ("crew", json!([{"na/me": "a"}, {"na/me": "b"}, {"na/me": "c"}]), "/crew too many"),
        ("crew", json!([{"na/me": "a"}, {}]), "/crew/1/na~1me missing"),
        ("berth", json!(7), "/berth of none of the alternatives"),
        ("tags", json!([1, 1]), "/tags against a rule"),
        ("colour", json!("red"), "/colour not known"),
    ] {
        let mut body = good.clone();
        body[member] = value;
        assert_eq!(invalid(&contract, &body), [found], "{body}");
    }
    assert_eq!(invalid(&contract, &json!({})), ["/nights missing", "/vessel missing"]);
    assert_eq!(invalid(&contract, &json!([])), [" of the wrong JSON type"]);
}

#[test]
fn references_lead_across_files_and_fragments_and_ids() {
    let files = folder(&[
        (
            "schemas/booking.json",
            r##"{"$id": "https://harbour.example/s/booking", "type": "object", "properties": {
            "berth": {"$ref": "../common.yaml#/$defs/berth"}, "crew": {"$ref": "crew.json"},
            "self": {"$ref": "#"}, "named": {"$ref": "https://harbour.example/s/crew#/items"},
            "$ref": {"type": "string"}}}"##,
        ),
        (
            "schemas/crew.json",
            r#"{"$id": "https://harbour.example/s/crew", "type": "array", "items": {"type": "string"}}"#,
        ),
        (
            "common.yaml",
            "$defs:\n  berth: &b\n    type: string\n    pattern: ^[A-C]-\n  other: *b\n",
        ),
    ]);
    let contract = whole(faithful_clerk_check::parse_contract_with_files(POSTS, &files));
    let body = json!({"berth": "Z", "crew": [1], "named": 7, "self": {"berth": 3}, "$ref": 4});
    let found = invalid(&contract, &body);
    assert_eq!(
        found,
        [
            "/$ref of the wrong JSON type",
            "/berth of the wrong format",
            "/crew/0 of the wrong JSON type",
            "/named of the wrong JSON type",
            "/self/berth of the wrong JSON type"
        ]
    );
    // A fragment names a part of a file; an older draft is read as what it is; formats can be let be.
    let text = POSTS.replace("schemas/booking.json", "all.json#/definitions/booking");
    let all = r##"{"$schema": "http://json-schema.org/draft-04/schema#", "definitions": {"booking":
        {"properties": {"n": {"minimum": 1, "exclusiveMinimum": true}, "d": {"format": "date"}}}}}"##;
    let contract = whole(faithful_clerk_check::parse_contract_with_files(
        &text,
        &folder(&[("all.json", all)]),
    ));
    assert_eq!(invalid(&contract, &json!({"n": 1})), ["/n out of range"]);
    let text = text.replace("contract = 1\n", "contract = 1\nschema-formats = \"annotation\"\n");
    let contract = whole(faithful_clerk_check::parse_contract_with_files(
        &text,
        &folder(&[("all.json", all)]),
    ));
    assert_eq!(invalid(&contract, &json!({"n": 2, "d": "soon"})), [""; 0]);
}

/// What a schema can have wrong is a mistake of the contract, at the place that names it.
#[test]
fn a_schema_that_cannot_be_used_says_why() {
    let deep = format!("{}{}", "{\"not\":".repeat(400), "{}".to_owned() + &"}".repeat(400));
    for (schema, told) in [
        ("{\"type\": 7}", ""),
        ("{\"type\": \"text\"}", ""),
        ("{", "EOF"),
        ("[1, 2", ""),
        ("a: [1", "line 2"),
        ("{\"$ref\": \"#/nothing\"}", "resolves to nothing"),
        ("{\"$ref\": \"missing.json\"}", "no such file can be read"),
        ("{\"$ref\": \"https://harbour.example/x.json\"}", "nothing is fetched"),
        ("{\"$ref\": \"#\"}", "refers back to itself"),
        (
            "{\"allOf\": [{\"$ref\": \"#/$defs/a\"}], \"$defs\": {\"a\": {\"anyOf\": [{\"$ref\": \"#\"}]}}}",
            "refers back to itself",
        ),
        ("{\"pattern\": \"(?=a)b\"}", ""),
        ("{\"pattern\": \"((a{1,500}){1,500}){1,500}\"}", ""),
        ("{\"pattern\": \"(\"}", ""),
        (deep.as_str(), ""),
    ] {
        let parsed = faithful_clerk_check::parse_contract_with_files(
            POSTS,
            &folder(&[("schemas/booking.json", schema)]),
        );
        let mistakes: Vec<_> =
            parsed.diagnostics.iter().filter(|m| m.severity == DiagnosticSeverity::Error).collect();
        assert_eq!(mistakes.len(), 1, "{schema:.80}: {mistakes:?}");
        assert_eq!(mistakes[0].message, "this JSON Schema can't be used", "{schema:.80}");
        assert!(format!("{:?}", mistakes[0]).contains(told), "{schema:.80}: {mistakes:?}");
        assert_eq!(mistakes[0].line_and_column(POSTS), (8, 8), "{schema:.80}");
    }
    let parsed = faithful_clerk_check::parse_contract(POSTS);
    assert!(format!("{:?}", parsed.diagnostics).contains("without its folder"));
}

#[test]
fn a_pattern_that_would_explode_elsewhere_is_judged_in_time() {
    let schema = r#"{"properties": {"note": {"pattern": "^(a+)+$"}}}"#;
    let contract = whole(faithful_clerk_check::parse_contract_with_files(
        POSTS,
        &folder(&[("schemas/booking.json", schema)]),
    ));
    let note = format!("{}!", "a".repeat(50_000));
    assert_eq!(invalid(&contract, &json!({ "note": note })), ["/note of the wrong format"]);
}

const DESCRIPTION: &str = r##"
openapi: 3.0.3
info: {title: Harbour, version: "1"}
servers:
  - url: https://{port}.harbour.example/v1
    variables: {port: {default: oban}}
security: [{token: []}]
paths:
  /berths/{id}:
    parameters:
      - {name: id, in: path, required: true, schema: {type: string, pattern: "^[A-Z]-[0-9]+$"}}
    get:
      security: []
      parameters:
        - {name: depth, in: query, schema: {type: number, minimum: 0}}
        - {name: quays, in: query, schema: {type: array, items: {type: string, enum: [north, mill]}}}
        - {name: X-Unit, in: header, required: true, schema: {type: string, enum: [m, ft]}}
        - {name: look, in: query, style: deepObject, schema: {type: object}}
        - {name: session, in: cookie, schema: {type: string}}
      responses:
        "200": {description: ok, content: {application/json: {schema: {type: object}}}}
        "404": {$ref: "#/components/responses/Missing"}
        4XX: {description: other}
    delete:
      responses: {"204": {description: gone}, default: {description: any}}
  /bookings:
    post:
      requestBody: {$ref: "#/components/requestBodies/Booking"}
      responses: {"201": {description: made}, "422": {description: no, content: {application/json: {schema: {$ref: "#/components/schemas/Error"}}}}}
    get: {responses: {"200": {description: ok}}}
  /bookings?open=true: {get: {responses: {}}}
  /berths/{number}: {get: {responses: {}}}
  x-note: {get: {}}
components:
  securitySchemes:
    token: {type: http, scheme: bearer}
  responses:
    Missing: {description: none, content: {application/json: {schema: {$ref: "#/components/schemas/Error"}}}}
  requestBodies:
    Booking: {required: true, content: {application/json: {schema: {$ref: "#/components/schemas/Booking"}}}}
  schemas:
    Error: &error
      type: object
      required: [code]
      properties: {code: {type: string, nullable: true}, inner: {$ref: "#/components/schemas/Error"}}
    Other: {<<: *error, title: other}
    Booking:
      type: object
      required: [id, nights]
      properties:
        id: {type: string, readOnly: true}
        nights: {type: integer, minimum: 0, exclusiveMinimum: true}
        note: {type: string, nullable: true}
"##;

fn described(contract: &str) -> (ErrorContract, Vec<String>) {
    let parsed = faithful_clerk_check::parse_contract_with_files(
        contract,
        &folder(&[("api.yaml", DESCRIPTION)]),
    );
    let notices: Vec<String> = parsed
        .diagnostics
        .iter()
        .filter(|m| m.severity == DiagnosticSeverity::Warning)
        .map(|m| m.message.clone())
        .collect();
    (whole(parsed), notices)
}

const HOST: &str = "https://oban.harbour.example";

/// A request to the described service.
fn to(method: &str, path: &str, more: &str) -> String {
    format!("{method} /v1{path}\n{more}")
}

#[test]
fn endpoints_come_from_a_description() {
    let (contract, notices) = described("contract = 1\nopenapi = \"api.yaml\"\n");
    let names: Vec<String> = contract.endpoints.iter().map(|endpoint| endpoint.name()).collect();
    assert_eq!(
        names,
        [
            "GET /berths/{id}",
            "DELETE /berths/{id}",
            "GET /bookings",
            "POST /bookings",
            "GET /bookings?open=true",
        ]
    );
    let rules = |name: &str| &contract.endpoints.iter().find(|e| e.name() == name).unwrap().rules;
    let get = rules("GET /berths/{id}");
    assert_eq!((get.success(), get.auth), (&[200][..], Some(Authentication::None)));
    assert_eq!(get.produces.as_deref(), Some(&["application/json".to_owned()][..]));
    let parameters: Vec<_> =
        get.parameters().iter().map(|p| (p.location, p.name.as_str(), p.optional)).collect();
    assert_eq!(
        parameters,
        [
            (ParameterLocation::Query, "depth", true),
            (ParameterLocation::Query, "quays", true),
            (ParameterLocation::Header, "X-Unit", false),
            (ParameterLocation::Path, "id", false)
        ]
    );
    let post = rules("POST /bookings");
    assert_eq!(
        (post.auth, post.accepts.as_deref()),
        (Some(Authentication::Required), Some(&["application/json".to_owned()][..]))
    );
    assert!(contract.request_path("GET", &format!("{HOST}/v1/bookings")).is_some());
    assert!(contract.request_path("GET", "https://elsewhere.example/v1/bookings").is_none());
    for told in
        ["parameters of style deepObject", "parameters in cookie", "only in a parameter's name"]
    {
        assert!(notices.iter().any(|notice| notice.contains(told)), "{told}: {notices:#?}");
    }
}

#[test]
fn requests_and_answers_are_judged_by_a_description() {
    let text = "contract = 1\nservers = [\"https://harbour.example/v1\"]\nopenapi = \"api.yaml\"\n";
    let (contract, _) = described(text);
    let error = |status: u16, body: &str| {
        format!("HTTP/1.1 {status} X\nContent-Type: application/json\n\n{body}")
    };
    let unit = "X-Unit: m";
    let booking = |body: &str| {
        to(
            "POST",
            "/bookings",
            &format!("Authorization: Bearer x\nContent-Type: application/json\n\n{body}"),
        )
    };
    let told = r#"{"code":"x","nights":"wrong"}"#;
    for (request, response, broken) in [
        (to("GET", "/berths/A-3", unit), "HTTP/1.1 200 OK".to_owned(), &[][..]),
        (
            to("GET", "/berths/A-3?quays=north,mill&depth=2.5", unit),
            "HTTP/1.1 200 OK".to_owned(),
            &[],
        ),
        (to("GET", "/berths/A-3?quays=north&quays=mill", unit), "HTTP/1.1 200 OK".to_owned(), &[]),
        (
            to("GET", "/berths/A-3?quays=outer", unit),
            "HTTP/1.1 200 OK".to_owned(),
            &["situation.requires-error"],
        ),
        (
            to("GET", "/berths/A-3?depth=deep", unit),
            "HTTP/1.1 200 OK".to_owned(),
            &["situation.requires-error"],
        ),
        (
            to("GET", "/berths/a3", unit),
            "HTTP/1.1 200 OK".to_owned(),
            &["situation.requires-error"],
        ),
        (
            to("GET", "/berths/A-3", "X-Unit: cm"),
            "HTTP/1.1 200 OK".to_owned(),
            &["situation.requires-error"],
        ),
        (to("GET", "/berths/A-3", unit), error(404, r#"{"code":"none"}"#), &[]),
        (
            to("GET", "/berths/A-3", unit),
            error(404, r#"{"code":"none","inner":{"code":7}}"#),
            &["shape.declared"],
        ),
        (to("GET", "/berths/A-3", unit), error(404, r#"{"message":"none"}"#), &["shape.declared"]),
        (to("GET", "/berths/A-3", unit), error(409, r#"{"message":"other"}"#), &[]),
        (to("GET", "/berths/A-3", unit), error(503, r#"{"message":"no"}"#), &["status.declared"]),
        (
            to("DELETE", "/berths/A-3", "Authorization: Bearer x"),
            error(410, r#"{"message":"gone"}"#),
            &[],
        ),
        (
            to("DELETE", "/berths/A-3", "Authorization: Bearer x"),
            error(500, r#"{"message":"no"}"#),
            &["situation.valid-served"],
        ),
        (to("GET", "/bookings", "Authorization: Bearer x"), error(404, r#"{"message":"no"}"#), &[]),
        (booking(r#"{"nights":1,"note":null}"#), "HTTP/1.1 201 Created".to_owned(), &[]),
        (
            booking(r#"{"nights":0}"#),
            "HTTP/1.1 201 Created".to_owned(),
            &["situation.requires-error"],
        ),
        (booking(r#"{"nights":0}"#), error(422, told), &[]),
        (booking(r#"{"nights":0}"#), error(500, r#"{"message":"no"}"#), &["status.fits-situation"]),
        (
            to("POST", "/bookings", "Authorization: Bearer x"),
            "HTTP/1.1 201 Created".to_owned(),
            &["situation.requires-error"],
        ),
        (
            to("POST", "/bookings", "Content-Type: application/json\n\n{\"nights\":1}"),
            "HTTP/1.1 201 Created".to_owned(),
            &["situation.requires-error"],
        ),
    ] {
        assert_eq!(clauses(&contract, &request, &response), broken, "{request}\n{response}");
    }
}

#[test]
fn what_the_contract_says_wins_over_the_description() {
    let text = "contract = 1\nservers = [\"https://harbour.example/v1\"]\nopenapi = \"api.yaml\"\n\
        [fault.none]\nstatus = 404\nshape = \"none\"\n when = [\"resource-not-found\"]\n[shape.none]\nmessage = \"string\"\n\
        [endpoint.\"GET /berths/{number}\"]\nfaults = [\"none\"]\nsuccess = [200, 203]\n\
        parameters = { query = { depth = \"one of deep, flat\" } }\n\
        [endpoint.\"GET /tides\"]\nsuccess = [200]\n";
    let (contract, _) = described(text);
    let get = contract.endpoints.iter().find(|e| e.name() == "GET /berths/{number}").unwrap();
    assert_eq!(get.rules.success(), [200, 203]);
    assert_eq!(get.rules.auth, Some(Authentication::None));
    assert_eq!(contract.endpoints.len(), 6);
    let ask = |query: &str| to("GET", &format!("/berths/A-3{query}"), "X-Unit: m");
    assert_eq!(clauses(&contract, &ask("?depth=deep"), "HTTP/1.1 200 OK"), [""; 0]);
    assert_eq!(
        clauses(&contract, &ask("?depth=2"), "HTTP/1.1 200 OK"),
        ["situation.requires-error"]
    );
    let none = "HTTP/1.1 404 X\nContent-Type: application/json\n\n{\"message\":\"none\"}";
    assert_eq!(clauses(&contract, &ask(""), none), [""; 0]);
}

#[test]
fn a_description_in_json_of_the_newer_version_is_read_alike() {
    let description = json!({"openapi": "3.1.0", "paths": {"/bookings": {"post": {
        "requestBody": {"content": {"application/json": {"schema": {"$ref": "parts.json#/booking"}}}},
        "responses": {"201": {"description": "made"}}}}}})
    .to_string();
    let parts = json!({"booking": {"type": ["object", "null"], "properties": {"n": {"const": 1}}}})
        .to_string();
    let files = folder(&[("api.json", &description), ("parts.json", &parts)]);
    let text = "contract = 1\nservers = [\"https://harbour.example/v1\"]\nopenapi = \"api.json\"\n";
    let contract = whole(faithful_clerk_check::parse_contract_with_files(text, &files));
    assert_eq!(invalid(&contract, &json!({"n": 2})), ["/n not one of the listed values"]);
    assert_eq!(invalid(&contract, &Value::Null), [""; 0]);
}

#[test]
fn a_description_that_cannot_be_used_says_why_and_what_is_odd_in_it_is_passed_over() {
    for (description, told) in [
        ("swagger: '2.0'\n", "convert it to OpenAPI 3"),
        ("", "not an OpenAPI description"),
        ("openapi: 3.0.0\npaths: [", "line"),
        ("\u{0}\u{1}", "line"),
    ] {
        let text = "contract = 1\nopenapi = \"api.yaml\"\n";
        let parsed = faithful_clerk_check::parse_contract_with_files(
            text,
            &folder(&[("api.yaml", description)]),
        );
        assert!(parsed.contract.is_none(), "{description:?}");
        let said = format!("{:?}", parsed.diagnostics);
        assert!(said.contains(told), "{description:?}: {said}");
    }
    let odd = json!({"openapi": "3.9.0", "servers": [{"url": "/v1"}, 7], "paths": {
        "/a": {"get": {"responses": {"200": {"$ref": "#/nowhere"}, "4": {}, "x-y": {}}, "parameters": [
            {"$ref": "#/gone"}, {"name": "q", "in": "query"}, {"in": "query"}, 7, {"name": "p", "in": "query", "schema": {"pattern": "("}}]}},
        "b": {"get": {}}, "/c": {"$ref": "#/paths/~1c"}, "/d": 7,
        "/e": {"post": {"requestBody": {"content": {"application/json": {"schema": {"$ref": "#/components/ring"}}}}}}},
        "components": {"ring": {"$ref": "#/components/ring"}, "securitySchemes": {"c": {"type": "apiKey", "in": "query", "name": "k"}}}})
    .to_string();
    let parsed = faithful_clerk_check::parse_contract_with_files(
        "contract = 1\nopenapi = \"api.json\"\n",
        &folder(&[("api.json", &odd)]),
    );
    let contract = whole(parsed);
    let names: Vec<String> = contract.endpoints.iter().map(|e| e.name()).collect();
    assert_eq!(names, ["GET /a", "POST /e"]);
}

#[test]
fn a_description_of_five_megabytes_is_read_in_time() {
    let mut paths = serde_json::Map::new();
    for n in 0..1500 {
        let schema = json!({"type": "object", "required": ["a"], "description": "x".repeat(2500),
            "properties": {"a": {"$ref": format!("#/components/schemas/S{}", n % 50)}}});
        paths.insert(
            format!("/r{n}/{{id}}"),
            json!({"post": {"requestBody": {"content": {"application/json": {"schema": schema}}},
                "responses": {"201": {}, "4XX": {"content": {"application/json": {"schema": {"$ref": "#/components/schemas/S1"}}}}}}}),
        );
    }
    let schemas: serde_json::Map<String, Value> = (0..50)
        .map(|n| (format!("S{n}"), json!({"type": "object", "properties": {"next": {"$ref": format!("#/components/schemas/S{}", (n + 1) % 50)}}})))
        .collect();
    let description =
        json!({"openapi": "3.1.0", "paths": paths, "components": {"schemas": schemas}}).to_string();
    assert!(description.len() > 4_000_000, "{}", description.len());
    let files = folder(&[("api.json", &description)]);
    let contract = whole(faithful_clerk_check::parse_contract_with_files(
        "contract = 1\nopenapi = \"api.json\"\n",
        &files,
    ));
    assert_eq!(contract.endpoints.len(), 1500);
}
