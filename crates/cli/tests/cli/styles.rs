//! Four services, four styles of errors: each with a contract as its engineer would write it, a small
//! recording, and what is wrong in each exchange, written down before the program had seen it.

use serde_json::{Value, json};

use crate::harness::{Project, findings, sent};

type Rows = Vec<(Value, &'static [(&'static str, &'static str, &'static str)])>;

/// Checks a recording of these exchanges, and that nothing but what stands beside each is found.
#[track_caller]
fn holds(contract: &str, rows: &Rows) {
    let entries: Vec<Value> = rows.iter().map(|(entry, _)| entry.clone()).collect();
    let project = Project::with(contract, &entries);
    let mut expected = Vec::new();
    for (number, (_, found)) in (1..).zip(rows) {
        let row = |(clause, severity, location): &(&str, &str, &str)| {
            (number, (*clause).to_owned(), (*severity).to_owned(), (*location).to_owned())
        };
        expected.extend(found.iter().map(row));
    }
    expected.sort();
    let run = project.run("check --format json a.har");
    let found = findings(&run.json());
    assert_eq!(found, expected, "{}", project.run("check a.har"));
    assert_eq!(run.stderr, "");
    crate::draft::drafted(&project, "a.har");
}

fn get(path: &str, status: u16, media: &str, body: &Value) -> Value {
    sent("GET", path, &[], None, status, media, &body.to_string())
}

fn post(path: &str, request: &Value, status: u16, media: &str, body: &Value) -> Value {
    let headers = [("Content-Type", "application/json")];
    sent("POST", path, &headers, Some(&request.to_string()), status, media, &body.to_string())
}

/// Problem details as RFC 9457 has them, with the list of its own example.
#[test]
fn a_service_with_problem_details() {
    const PROBLEM: &str = "application/problem+json";
    let contract = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/problem+json"
shape = "strict"
[shape.strict]
like = "problem"
type = "uri"
title = "string"
status = "status"
[shape.rejected]
like = "strict"
errors = "array of entry, at least 1"
[shape.entry]
detail = "string"
pointer = "json pointer"
[fault.rejected]
status = 422
type = "https://kiln.example/problems/rejected"
title = "Your order was rejected"
shape = "rejected"
when = ["invalid-body"]
[fault.no-glaze]
status = 404
type = "https://kiln.example/problems/no-glaze"
title = "No such glaze"
when = ["resource-not-found"]
[fault.kiln-busy]
status = 409
type = "https://kiln.example/problems/kiln-busy"
title = "The kiln is busy"
members = { free_from = "date-time" }
[endpoint."GET /glazes/{id}"]
success = [200]
faults = ["no-glaze"]
[endpoint."POST /firings"]
success = [201]
faults = ["rejected", "kiln-busy"]
[endpoint."POST /firings".body-members]
glaze = "string"
celsius = "integer from 600 to 1400"
pots = "array of pot, at least 1"
[shape.pot]
height_mm = "integer at least 1"
"#;
    let none = |more: &Value| {
        let mut body = json!({"type": "https://kiln.example/problems/no-glaze", "title": "No such glaze", "status": 404});
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        body
    };
    let rejected = |errors: &Value| json!({"type": "https://kiln.example/problems/rejected", "title": "Your order was rejected", "status": 422, "errors": errors});
    let wrong = json!({"glaze": 3, "celsius": 20, "pots": [{"height_mm": 90}, {"height_mm": 0}]});
    let three = json!([{"detail": "has to be text", "pointer": "#/glaze"}, {"detail": "at least 600", "pointer": "#/celsius"},
        {"detail": "at least 1", "pointer": "#/pots/1/height_mm"}]);
    holds(
        contract,
        &vec![
            (get("/glazes/tenmoku", 200, "application/json", &json!({"id": "tenmoku"})), &[]),
            (
                get(
                    "/glazes/x",
                    404,
                    PROBLEM,
                    &none(&json!({"detail": "Nothing is called x.", "instance": "/v1/glazes/x"})),
                ),
                &[],
            ),
            (
                get("/glazes/y", 404, PROBLEM, &none(&json!({"detail": "No such glaze"}))),
                &[("problem.detail-helps", "note", "body /detail")],
            ),
            (
                get("/glazes/y", 404, PROBLEM, &none(&json!({"detail": "No glaze {{name}} here"}))),
                &[("problem.no-placeholders", "warning", "body /detail")],
            ),
            (
                get("/glazes/y", 404, PROBLEM, &none(&json!({"type": "/problems/no-glaze"}))),
                &[
                    ("problem.type-absolute", "breach", "body /type"),
                    ("problem.type-declared", "breach", "body /type"),
                ],
            ),
            (
                get("/glazes/y", 404, PROBLEM, &none(&json!({"trace-id": "4bf92f35"}))),
                &[("problem.extension-name", "warning", "body /trace-id")],
            ),
            (post("/firings", &wrong, 422, PROBLEM, &rejected(&three)), &[]),
            (
                post("/firings", &wrong, 422, PROBLEM, &rejected(&json!([three[0], three[2]]))),
                &[("validation.complete", "breach", "body /errors")],
            ),
            (
                post(
                    "/firings",
                    &json!({"glaze": "x", "celsius": 900, "pots": [{"height_mm": 1}]}),
                    409,
                    PROBLEM,
                    &json!({"type": "https://kiln.example/problems/kiln-busy", "title": "The kiln is busy", "status": 409, "free_from": "2031-04-05T06:07:08"}),
                ),
                &[("shape.declared", "breach", "body /free_from")],
            ),
            (
                post(
                    "/firings",
                    &wrong,
                    400,
                    "application/json",
                    &json!({"message": "Bad Request"}),
                ),
                &[
                    ("status.fits-situation", "breach", "the status line"),
                    ("media.declared", "breach", "header Content-Type"),
                    ("problem.near-miss", "warning", "body /message"),
                ],
            ),
        ],
    );
}

/// JSON:API's error objects.
#[test]
fn a_service_with_json_api_errors() {
    const API: &str = "application/vnd.api+json";
    let contract = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/vnd.api+json"
shape = "jsonapi-errors"
[fault.invalid]
status = 422
when = ["invalid-body", "invalid-parameters"]
[fault.none]
status = 404
when = ["resource-not-found"]
[endpoint."GET /moths"]
success = [200]
faults = ["invalid"]
parameters = { query = { "page[size]" = "optional integer from 1 to 50" } }
[endpoint."GET /moths/{id}"]
success = [200]
faults = ["none"]
[endpoint."POST /moths"]
success = [201]
accepts = ["application/vnd.api+json"]
faults = ["invalid"]
[endpoint."POST /moths".body-members.data]
type = "exactly moths"
[endpoint."POST /moths".body-members.data.attributes]
name = "string, at least 1"
wingspan = "number at least 1"
seen = "optional date"
"#;
    let sends = |body: &Value, status: u16, response: &Value| {
        let mut entry = post("/moths", body, status, API, response);
        entry["request"]["headers"] = json!([{"name": "Content-Type", "value": API}]);
        entry
    };
    let wrong = json!({"data": {"type": "moths", "attributes": {"name": "", "wingspan": 0}}});
    let at = |pointer: &str| json!({"status": "422", "title": "Invalid attribute", "detail": "is not right", "source": {"pointer": pointer}});
    let errors = |list: &[Value]| json!({ "errors": list });
    let (name, span) = (at("/data/attributes/name"), at("/data/attributes/wingspan"));
    holds(
        contract,
        &vec![
            (sends(&wrong, 422, &errors(&[name.clone(), span.clone()])), &[]),
            (
                sends(&wrong, 422, &errors(std::slice::from_ref(&name))),
                &[("validation.complete", "breach", "body /errors")],
            ),
            (
                sends(
                    &wrong,
                    422,
                    &errors(&[name.clone(), span.clone(), at("/data/attributes/colour")]),
                ),
                &[("validation.pointer-resolves", "breach", "body /errors/2/source/pointer")],
            ),
            (
                sends(&wrong, 422, &errors(&[name.clone(), at("data.attributes.wingspan")])),
                &[("validation.pointer-syntax", "breach", "body /errors/1/source/pointer")],
            ),
            (
                get(
                    "/moths/9",
                    404,
                    API,
                    &errors(&[json!({"status": "404", "title": "No such moth"})]),
                ),
                &[],
            ),
            (
                get(
                    "/moths/9",
                    404,
                    API,
                    &errors(&[json!({"status": 404, "title": "No such moth"})]),
                ),
                &[("shape.declared", "breach", "body /errors/0/status")],
            ),
            (
                get(
                    "/moths/9",
                    404,
                    API,
                    &errors(&[json!({"status": "400", "title": "No such moth"})]),
                ),
                &[("status.body-agrees", "breach", "body /errors/0/status")],
            ),
            (
                get(
                    "/moths/9",
                    404,
                    API,
                    &json!({"data": null, "errors": [{"title": "No such moth"}]}),
                ),
                &[("shape.declared", "breach", "body /data")],
            ),
            (
                get("/moths/9", 404, API, &errors(&[json!({"reason": "none"})])),
                &[("shape.declared", "breach", "body /errors/0")],
            ),
            (
                get("/moths/9", 404, API, &errors(&[])),
                &[("shape.declared", "breach", "body /errors")],
            ),
            (
                get(
                    "/moths/9",
                    404,
                    "application/vnd.api+json; charset=utf-8",
                    &errors(&[json!({"title": "No such moth"})]),
                ),
                &[("media.parameters", "breach", "header Content-Type")],
            ),
            (
                get(
                    "/moths?page[size]=99",
                    422,
                    API,
                    &errors(&[json!({"title": "Invalid", "source": {"parameter": "page[size]"}})]),
                ),
                &[],
            ),
            (
                get(
                    "/moths?page[size]=99",
                    422,
                    API,
                    &errors(&[json!({"title": "Invalid", "source": {"parameter": "sort"}})]),
                ),
                &[("validation.complete", "breach", "body /errors")],
            ),
        ],
    );
}

/// An envelope of the service's own, with flags and codes.
#[test]
fn a_service_with_an_envelope_and_codes() {
    const JSON: &str = "application/json";
    let contract = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
media = "application/json"
shape = "envelope"
[shape.envelope]
ok = "boolean"
meta = "meta"
[shape.meta]
status = "integer"
code = "integer"
text = "string"
problems = "optional array of problem-entry"
[shape.problem-entry]
field = "string"
text = "string"
[envelope]
status = "/meta/status"
code = "/meta/code"
success = "/ok"
message = "/meta/text"
fields = { each = "/meta/problems/*", location = "/field", message = "/text" }
[fault.invalid]
status = 400
when = ["invalid-body", "malformed-body"]
[fault.none]
status = 404
when = ["resource-not-found"]
[fault.lent]
status = 409
when = ["conflict"]
[codes]
range = "4000 to 4999"
4001 = { fault = "invalid" }
4004 = { fault = "none" }
4017 = { fault = "lent" }
[everywhere]
success-shape = "good"
[shape.good]
ok = "exactly true"
data = "anything"
[endpoint."GET /books/{id}"]
success = [200]
faults = ["none"]
[endpoint."POST /loans"]
success = [201]
faults = ["invalid", "lent"]
[endpoint."POST /loans".body-members]
book = "string matching ^b-"
days = "integer from 1 to 30"
reader = "string"
"#;
    let no = |status: u16, code: i64, more: &Value| {
        let mut meta = json!({"status": status, "code": code, "text": "no"});
        meta.as_object_mut()
            .unwrap()
            .extend(more.as_object().into_iter().flatten().map(|(k, v)| (k.clone(), v.clone())));
        json!({"ok": false, "meta": meta})
    };
    let problems = |list: &[&str]| json!({"problems": list.iter().map(|field| json!({"field": field, "text": "is wrong"})).collect::<Vec<_>>()});
    let wrong = json!({"book": "7", "days": 99});
    holds(
        contract,
        &vec![
            (get("/books/b-1", 200, JSON, &json!({"ok": true, "data": {}})), &[]),
            (
                get(
                    "/books/b-1",
                    200,
                    JSON,
                    &json!({"ok": false, "meta": {"text": "no such book"}}),
                ),
                &[("success.no-error-inside", "breach", "body /ok")],
            ),
            (get("/books/b-9", 404, JSON, &no(404, 4004, &Value::Null)), &[]),
            (
                get("/books/b-9", 404, JSON, &no(400, 4004, &Value::Null)),
                &[("status.body-agrees", "breach", "body /meta/status")],
            ),
            (
                get("/books/b-9", 404, JSON, &no(404, 4999, &Value::Null)),
                &[("code.declared", "breach", "body /meta/code")],
            ),
            (
                get("/books/b-9", 404, JSON, &no(404, 301, &Value::Null)),
                &[("code.declared", "breach", "body /meta/code")],
            ),
            (
                post(
                    "/loans",
                    &wrong,
                    400,
                    JSON,
                    &no(400, 4001, &problems(&["book", "days", "reader"])),
                ),
                &[],
            ),
            (
                post("/loans", &wrong, 400, JSON, &no(400, 4001, &problems(&["reader"]))),
                &[("validation.complete", "breach", "body /meta")],
            ),
            (
                post(
                    "/loans",
                    &wrong,
                    400,
                    JSON,
                    &no(400, 4001, &problems(&["book", "days", "reader", "reader"])),
                ),
                &[("validation.no-duplicates", "warning", "body /meta/problems/3")],
            ),
            // The code says what it is, and the status disagrees with it.
            (
                post(
                    "/loans",
                    &json!({"book": "b-1", "days": 3, "reader": "r"}),
                    400,
                    JSON,
                    &no(400, 4017, &Value::Null),
                ),
                &[("status.declared", "breach", "the status line")],
            ),
            (
                post(
                    "/loans",
                    &json!({"book": "b-1", "days": 3, "reader": "r"}),
                    409,
                    JSON,
                    &no(409, 4017, &Value::Null),
                ),
                &[],
            ),
            (
                post(
                    "/loans",
                    &json!({"book": "b-1", "days": 3, "reader": "r"}),
                    409,
                    JSON,
                    &json!({"ok": false, "error": "lent"}),
                ),
                &[("shape.declared", "breach", "body /meta")],
            ),
        ],
    );
}

/// A framework's default list, and no agreement but statuses and fields: what can be checked is whether it
/// says enough, and always in the same way.
#[test]
fn a_service_with_a_frameworks_default_list() {
    const JSON: &str = "application/json";
    let contract = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.invalid]
status = 422
when = ["invalid-body", "invalid-parameters"]
[fault.none]
status = 404
when = ["resource-not-found", "unknown-route"]
[fault.failed]
status = 500
[everywhere]
faults = ["none", "failed"]
[endpoint."GET /hives/{id}"]
success = [200]
[endpoint."DELETE /hives/{id}"]
success = [204]
[endpoint."POST /hives"]
success = [201]
faults = ["invalid"]
[endpoint."POST /hives".body-members]
name = "string, at least 1"
frames = "array of frame"
[shape.frame]
kilos = "number at least 0"
"#;
    let wrong = json!({"name": "", "frames": [{"kilos": 3}, {"kilos": -1}]});
    let entry = |loc: &Value, msg: &str| json!({"loc": loc, "msg": msg, "type": "value_error"});
    let detail = |list: &[Value]| json!({ "detail": list });
    let (name, kilos) = (
        entry(&json!(["body", "name"]), "too short"),
        entry(&json!(["body", "frames", 1, "kilos"]), "too small"),
    );
    let none = json!({"detail": "Not Found"});
    holds(
        contract,
        &vec![
            (post("/hives", &wrong, 422, JSON, &detail(&[name.clone(), kilos.clone()])), &[]),
            (
                post(
                    "/hives",
                    &json!({"frames": []}),
                    422,
                    JSON,
                    &detail(std::slice::from_ref(&name)),
                ),
                &[],
            ),
            (
                post("/hives", &wrong, 422, JSON, &detail(std::slice::from_ref(&name))),
                &[("validation.complete", "warning", "body /detail")],
            ),
            (
                post(
                    "/hives",
                    &json!({"name": ""}),
                    422,
                    JSON,
                    &detail(&[
                        json!({"loc": ["body", "name"]}),
                        json!({"loc": ["body", "frames"], "msg": "missing"}),
                    ]),
                ),
                &[
                    ("validation.reason-given", "warning", "body /detail/0"),
                    ("validation.one-shape", "warning", "the whole body"),
                ],
            ),
            (
                post(
                    "/hives",
                    &wrong,
                    422,
                    JSON,
                    &json!({"errors": {"name": ["too short"], "frames": [{}, {"kilos": ["too small"]}]}}),
                ),
                &[
                    ("validation.one-shape", "warning", "the whole body"),
                    ("validation.one-location-style", "warning", "body /errors/name"),
                ],
            ),
            (
                get("/hives/1", 404, JSON, &none),
                &[("shape.one-json-type", "warning", "body /detail")],
            ),
            (
                get("/hives/2", 404, JSON, &none),
                &[("shape.one-json-type", "warning", "body /detail")],
            ),
            (
                get("/nowhere", 404, JSON, &none),
                &[("shape.one-json-type", "warning", "body /detail")],
            ),
            (
                sent(
                    "DELETE",
                    "/hives/1",
                    &[],
                    None,
                    404,
                    JSON,
                    r#"{"detail":"Not Found","hiveId":1}"#,
                ),
                &[
                    ("shape.one-json-type", "warning", "body /detail"),
                    ("shape.same-for-fault", "warning", "the whole body"),
                ],
            ),
            (
                get("/hives/1", 500, "text/html", &json!("<h1>ValueError</h1>")),
                &[("situation.valid-served", "note", "the status line")],
            ),
            (
                get("/hives/2", 500, JSON, &json!({"detail": ["hive 2", "KeyError: 'queen'"]})),
                &[
                    ("situation.valid-served", "note", "the status line"),
                    ("disclosure.code-name", "warning", "body /detail/1"),
                ],
            ),
        ],
    );
}
