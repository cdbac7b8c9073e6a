//! A larger service: sixty endpoints, two versions in the path, envelopes, words and pairs of words as ids, objects with ninety
//! members. Its endpoints are written down by hand; its recording is made from them.

use std::collections::BTreeSet;

use serde_json::{Map, Value, json};

use super::make::{compared, got, places, sent, survey};

/// Every endpoint, with the names of its parameters as a survey gives them.
const ENDPOINTS: [&str; 60] = [
    "GET /v1/berths",
    "POST /v1/berths",
    "GET /v1/berths/{id}",
    "PUT /v1/berths/{id}",
    "DELETE /v1/berths/{id}",
    "GET /v1/berths/{id}/moorings",
    "POST /v1/berths/{id}/moorings",
    "GET /v1/berths/{id}/moorings/{mooring_id}",
    "DELETE /v1/berths/{id}/moorings/{mooring_id}",
    "GET /v1/berths/search",
    "GET /v1/vessels",
    "POST /v1/vessels",
    "GET /v1/vessels/{id}",
    "PATCH /v1/vessels/{id}",
    "DELETE /v1/vessels/{id}",
    "GET /v1/vessels/{id}/crew",
    "PUT /v1/vessels/{id}/crew/{crew_id}",
    "GET /v1/vessels/mine",
    "GET /v1/pilots",
    "GET /v1/pilots/{id}",
    "POST /v1/pilots/{id}/orders",
    "GET /v1/tides/{date}",
    "GET /v1/tides/{date}/levels",
    "GET /v1/ports",
    "GET /v1/ports/{name}",
    "PATCH /v1/ports/{name}",
    "GET /v1/ports/{name}/notices",
    "POST /v1/ports/{name}/notices",
    "GET /v1/ports/{name}/notices/{id}",
    "GET /v1/logs/{name}/{log_name}",
    "PATCH /v1/logs/{name}/{log_name}",
    "GET /v1/logs/{name}/{log_name}/pages",
    "GET /v1/logs/{name}/{log_name}/pages/{id}",
    "GET /v1/people/{name}",
    "GET /v1/people/{name}/logs",
    "GET /v1/tariffs",
    "GET /v1/tariffs/{id}",
    "PUT /v1/tariffs/{id}",
    "GET /v1/reports/daily",
    "GET /v1/reports/weekly",
    "POST /v1/reports/daily",
    "GET /v1/status",
    "POST /v1/session",
    "DELETE /v1/session",
    "GET /v2/berths",
    "POST /v2/berths",
    "GET /v2/berths/{id}",
    "PATCH /v2/berths/{id}",
    "GET /v2/berths/{id}/moorings",
    "GET /v2/vessels",
    "GET /v2/vessels/{id}",
    "GET /v2/vessels/{id}/certificates",
    "POST /v2/vessels/{id}/certificates",
    "GET /v2/ports",
    "GET /v2/ports/{name}",
    "GET /v2/ports/{name}/quays",
    "POST /v2/imports",
    "GET /v2/imports/{id}",
    "POST /v2/imports/{id}/cancel",
    "GET /v2/imports/{id}/errors",
];

/// The values that were sent for a parameter, by the name before it.
fn values(above: &str) -> [&'static str; 2] {
    match above {
        "tides" => ["2027-04-05", "2027-04-06"],
        "ports" => ["oban", "mallaig"],
        "people" => ["ida", "noor"],
        "logs" => ["ida", "noor"],
        "ida" | "noor" => ["tern", "marram"],
        "tariffs" => ["T-1", "T-2"],
        "imports" => {
            ["3f2b8c1e-9a4d-4c7b-8f10-5d6e7a8b9c0d", "0b2b8c1e-9a4d-4c7b-8f10-5d6e7a8b9c0d"]
        }
        "crew" => ["c-0001", "c-0002"],
        _ => ["12", "13"],
    }
}

/// The path with the first or the second value of each parameter.
fn path(template: &str, which: usize) -> String {
    let mut path: Vec<String> = Vec::new();
    for segment in template.split('/') {
        let above = path.last().map_or("", String::as_str);
        let value = if segment.starts_with('{') { values(above)[which] } else { segment };
        path.push(value.to_owned());
    }
    path.join("/")
}

/// What the resource at a path looks like: its id, and members that only resources of its kind have.
fn resource(template: &str, path: &str) -> Value {
    let kind = template.split('/').rfind(|segment| !segment.starts_with('{')).unwrap_or_default();
    let mut members = Map::new();
    let segments: Vec<&str> = path.rsplit('/').collect();
    if template.ends_with("{log_name}") {
        members.insert("name".to_owned(), json!(segments[0]));
        members.insert("owner".to_owned(), json!({"login": segments[1]}));
    } else if template.ends_with('}') {
        let id = match kind {
            "ports" => "slug",
            "people" => "login",
            "tides" => "day",
            _ => "id",
        };
        members.insert(id.to_owned(), json!(segments[0]));
    }
    // A vessel has ninety members.
    let count = if kind == "vessels" { 90 } else { 3 };
    for number in 1..=count {
        members.insert(format!("{kind}_{number}"), json!(number));
    }
    Value::Object(members)
}

fn is_collection(template: &str) -> bool {
    [
        "berths",
        "vessels",
        "pilots",
        "ports",
        "tariffs",
        "moorings",
        "crew",
        "logs",
        "notices",
        "pages",
        "errors",
        "quays",
        "certificates",
    ]
    .iter()
    .any(|name| template.ends_with(&format!("/{name}")))
}

/// A day of the service: each endpoint twice, what is unknown, what is invalid, what is not offered.
fn day() -> Vec<Value> {
    let mut entries = Vec::new();
    let problem = |status: u16, title: &str| json!({"title": title, "status": status});
    for endpoint in ENDPOINTS {
        let (method, template) = endpoint.split_once(' ').unwrap();
        for which in 0..2 {
            let path = path(template, which);
            let one = resource(template, &path);
            let list = || json!({"data": [resource(&format!("{template}/{{id}}"), &format!("{path}/1"))], "meta": {"total": 1}});
            let line = format!("{method} {path}");
            let body = if is_collection(template) {
                list()
            } else {
                json!({"data": one, "meta": {"took_ms": 3}})
            };
            entries.push(match method {
                "GET" => got(&line, 200, body),
                "DELETE" => got(&line, 204, Value::Null),
                "POST" => sent(
                    &line,
                    &json!({"at": which, "kind": "a"}),
                    201,
                    json!({"data": {"id": 100 + which, "kind": "a"}}),
                ),
                _ => sent(&line, &json!({"at": which, "kind": "a"}), 200, json!({"data": one})),
            });
        }
        if method == "POST" {
            let line = format!("POST {}", path(template, 0));
            entries.push(sent(&line, &json!({"at": "x"}), 422, problem(422, "Not valid")));
        }
        if template.ends_with("{id}") && method == "GET" {
            for wrong in ["999999", "-1", "abc"] {
                let path = path(template, 0);
                let (above, _) = path.rsplit_once('/').unwrap();
                entries.push(got(&format!("GET {above}/{wrong}"), 404, problem(404, "Not Found")));
            }
        }
    }
    entries.push(got("GET /v1/nowhere", 404, problem(404, "No such route")));
    entries.push(got("PUT /v1/status", 405, problem(405, "Method Not Allowed")));
    entries
}

#[test]
fn the_endpoints_of_a_larger_service_are_found() {
    let found: BTreeSet<String> = places(&survey(&day())).into_iter().collect();
    let mut due: BTreeSet<String> = ENDPOINTS.map(str::to_owned).into();
    due.extend(["GET /v1/nowhere", "PUT /v1/status"].map(str::to_owned));
    let missed: Vec<&String> = due.difference(&found).collect();
    let made_up: Vec<&String> = found.difference(&due).collect();
    assert!(missed.is_empty() && made_up.is_empty(), "missed {missed:#?}, made up {made_up:#?}");
}

/// Five things are changed in the day after, and in between everything has moved; each is told, and nothing else.
#[test]
fn what_changed_in_a_larger_service_is_told_and_nothing_else() {
    let before = day();
    let mut after = day();
    let mut change = |line: &str, change: &dyn Fn(&mut Value)| {
        let (method, path) = line.split_once(' ').unwrap();
        let is = |entry: &&mut Value| {
            entry["request"]["method"] == method
                && entry["request"]["url"] == format!("https://harbour.example{path}")
        };
        let entry = after.iter_mut().find(is).unwrap();
        change(entry);
    };
    let text = |entry: &mut Value, edit: &dyn Fn(&mut Value)| {
        let mut body: Value =
            serde_json::from_str(entry["response"]["content"]["text"].as_str().unwrap()).unwrap();
        edit(&mut body);
        entry["response"]["content"]["text"] = json!(body.to_string());
    };
    change("GET /v1/vessels/12", &|entry| {
        text(entry, &|body| {
            body["data"].as_object_mut().unwrap().remove("vessels_77");
        });
    });
    change("GET /v1/logs/ida/tern", &|entry| {
        text(entry, &|body| body["data"]["logs_1"] = json!("1"));
    });
    change("GET /v2/ports/oban", &|entry| {
        text(entry, &|body| body["data"]["fee"] = json!(4));
    });
    change("GET /v1/berths/abc", &|entry| {
        entry["response"]["status"] = json!(400);
        text(entry, &|body| body["status"] = json!(400));
    });
    change("POST /v2/imports", &|entry| entry["response"]["status"] = json!(500));
    after.reverse();
    let found = compared(&before, &after, None);
    let told: Vec<String> = found
        .changes
        .keys()
        .map(|(_, endpoint, change)| {
            let place = change.location.as_deref().unwrap_or_default();
            format!("{} {endpoint} {} {place}", change.grade.name(), change.what)
        })
        .collect();
    assert_eq!(
        told,
        [
            "regressed GET /v1/logs/{name}/{log_name} has another JSON type at /data/logs_1",
            "regressed GET /v1/vessels/{id} no longer has /data/vessels_77",
            "regressed POST /v2/imports responds 500 instead of 201 ",
            "changed GET /v1/berths/{id} responds 400 instead of 404 ",
            "changed GET /v2/ports/{name} also has /data/fee",
        ]
    );
    let counts = found.counts;
    assert_eq!((counts.only_before, counts.only_after, counts.more_often), (0, 0, 0));
    assert_eq!(counts.pairs(), before.len() as u64);
}
