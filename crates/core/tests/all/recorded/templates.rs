//! Path templates, measured: recordings of services whose templates are known, and how many of them were
//! found, missed, and made up.

use std::collections::BTreeSet;

use serde_json::{Value, json};

use super::make::{got, places, sent, survey};

/// A service: the request, with the name of what came (so that two things are told apart), and the
/// templates that are right. Written down before the program had seen any of them.
struct Service {
    about: &'static str,
    asked: &'static [(&'static str, u16, &'static str)],
    right: &'static [&'static str],
}

/// The body of a response, by a name for its form.
fn body(form: &str, path: &str) -> Value {
    let last = path.split('?').next().unwrap().rsplit('/').next().unwrap();
    match form {
        "berth" => json!({"id": last, "length_m": 12.5, "free": true}),
        "vessel" => json!({"id": last, "name": "Marram", "flag": "OB"}),
        "port" => json!({"slug": last, "title": "A port", "quays": 3}),
        "report" => json!({"rows": [1, 2], "from": "2027-01-01", "to": "2027-02-01"}),
        "list" => json!([{"id": 1}, {"id": 2}]),
        "page" => json!({"items": [], "total": 0}),
        "trip" => json!({"trip": 7, "legs": [], "miles": 12}),
        "token" => json!({"access": "x", "expires_in": 60}),
        "none" => Value::Null,
        "empty" => json!([]),
        "index" => {
            json!([{"name": "berths", "url": "/berths"}, {"name": "vessels", "url": "/vessels"}])
        }
        "ports" => {
            json!({"ports": [{"slug": "oban", "quays": 3}, {"slug": "mallaig", "quays": 2}]})
        }
        "linked" => {
            json!([{"title": "A", "href": "/piers/north"}, {"title": "B", "href": "/piers/west"}])
        }
        "boat" => {
            let owner = if last == "7" { "ida" } else { "noor" };
            json!({"id": last, "owner": {"login": owner}})
        }
        "legs" => json!({"legs": [1, 2], "miles": 7}),
        "kept berth" => json!({"data": {"id": last, "length_m": 12.5}, "meta": {"at": 7}}),
        "kept port" => json!({"data": {"attributes": {"slug": last, "quays": 3}, "type": "ports"}}),
        "kept list" => {
            let entry = match last {
                "berths" => json!({"id": 1, "length_m": 7.5, "quay": "north"}),
                "vessels" => json!({"id": 1, "flag": "OB", "draught_m": 2}),
                "pilots" => json!({"id": 1, "licence": "P", "since": 2019}),
                "tides" => json!({"at": "05:12", "height_m": 3.1, "kind": "high"}),
                "tariffs" => json!({"code": "T1", "amount": 4, "currency": "OBL"}),
                _ => json!({"notice": "Fog", "until": "noon", "zone": 3}),
            };
            json!({"data": [entry], "meta": {"total": 1}, "links": {"next": null}})
        }
        "log book" => {
            let owner = path.split('?').next().unwrap().rsplit('/').nth(1).unwrap();
            json!({"name": last, "full_name": format!("{owner}/{last}"), "pages": 7,
                   "owner": {"login": owner, "since": 2019}})
        }
        "person" => json!({"login": last, "since": 2019, "boats": 2}),
        _ => json!({"title": "An error", "status": 400}),
    }
}

const SERVICES: [Service; 24] = [
    Service {
        about: "words that a list called things by",
        asked: &[
            ("GET /ports", 200, "ports"),
            ("GET /ports/oban/tides", 200, "legs"),
            ("GET /ports/mallaig/tides", 200, "legs"),
            ("GET /ports/search", 200, "page"),
        ],
        right: &["GET /ports", "GET /ports/search", "GET /ports/{name}/tides"],
    },
    Service {
        about: "words that the links of a list end with",
        asked: &[
            ("GET /piers", 200, "linked"),
            ("GET /piers/north", 200, "legs"),
            ("GET /piers/west", 200, "legs"),
            ("GET /piers/all", 200, "legs"),
        ],
        right: &["GET /piers", "GET /piers/all", "GET /piers/{name}"],
    },
    Service {
        about: "words that another response called things by",
        asked: &[
            ("GET /boats/7", 200, "boat"),
            ("GET /boats/8", 200, "boat"),
            ("DELETE /people/ida", 204, "none"),
            ("DELETE /people/noor", 204, "none"),
            ("DELETE /people/nobody", 404, "error"),
        ],
        right: &["DELETE /people/{name}", "GET /boats/{id}"],
    },
    Service {
        about: "an index names collections, which are names",
        asked: &[
            ("GET /", 200, "index"),
            ("GET /berths", 200, "empty"),
            ("GET /vessels", 200, "empty"),
        ],
        right: &["GET /", "GET /berths", "GET /vessels"],
    },
    Service {
        about: "whole numbers, negative ones and one that overflows",
        asked: &[
            ("GET /berths/1", 200, "berth"),
            ("GET /berths/2", 200, "berth"),
            ("GET /berths/-1", 404, "error"),
            ("GET /berths/99999999999999999999", 404, "error"),
            ("GET /berths", 200, "list"),
        ],
        right: &["GET /berths", "GET /berths/{id}"],
    },
    Service {
        about: "one value is enough if it is an id by its form",
        asked: &[
            ("GET /berths/3f2b8c1e-9a4d-4c7b-8f10-5d6e7a8b9c0d", 200, "berth"),
            ("GET /tides/2027-04-05", 200, "page"),
            ("GET /vessels/OB1234", 200, "vessel"),
        ],
        right: &["GET /berths/{id}", "GET /tides/{date}", "GET /vessels/{id}"],
    },
    Service {
        about: "one code alone may be a name, and stays",
        asked: &[("GET /files/s3", 200, "page"), ("GET /auth/oauth2", 200, "token")],
        right: &["GET /auth/oauth2", "GET /files/s3"],
    },
    Service {
        about: "codes that behave alike are values",
        asked: &[("GET /berths/A-3", 200, "berth"), ("GET /berths/B-1", 200, "berth")],
        right: &["GET /berths/{id}"],
    },
    Service {
        about: "codes that behave otherwise are names",
        asked: &[
            ("GET /oauth2", 200, "token"),
            ("GET /s3", 200, "list"),
            ("POST /oauth2/token", 200, "token"),
            ("GET /s3/files", 200, "list"),
        ],
        right: &["GET /oauth2", "GET /s3", "GET /s3/files", "POST /oauth2/token"],
    },
    Service {
        about: "a name that succeeds beside values stays apart",
        asked: &[
            ("GET /vessels/12", 200, "vessel"),
            ("GET /vessels/13", 200, "vessel"),
            ("GET /vessels/mine", 200, "list"),
            ("GET /vessels/latest", 200, "trip"),
        ],
        right: &["GET /vessels/latest", "GET /vessels/mine", "GET /vessels/{id}"],
    },
    Service {
        about: "a word that never succeeds beside values is a wrong one",
        asked: &[
            ("GET /vessels/12", 200, "vessel"),
            ("GET /vessels/unknown", 404, "error"),
            ("GET /vessels/abc", 400, "error"),
            ("GET /vessels/'%20OR%201=1", 400, "error"),
            ("GET /tides/2027-04-05", 200, "page"),
            ("GET /tides/tomorrow", 422, "error"),
        ],
        right: &["GET /tides/{date}", "GET /vessels/{id}"],
    },
    Service {
        about: "where no response, nobody knows",
        asked: &[("GET /vessels/12", 200, "vessel"), ("GET /vessels/slow", 0, "none")],
        right: &["GET /vessels/slow", "GET /vessels/{id}"],
    },
    Service {
        about: "words that come back as the id of what was asked for",
        asked: &[
            ("GET /ports/oban", 200, "port"),
            ("GET /ports/mallaig", 200, "port"),
            ("GET /ports/nowhere", 404, "error"),
            ("GET /ports", 200, "list"),
        ],
        right: &["GET /ports", "GET /ports/{name}"],
    },
    Service {
        about: "two words of one form are two names if nothing says that they are ids",
        asked: &[("GET /reports/daily", 200, "report"), ("GET /reports/weekly", 200, "report")],
        right: &["GET /reports/daily", "GET /reports/weekly"],
    },
    Service {
        about: "what follows a value is a name, and a value within a value gets a name of its own",
        asked: &[
            ("GET /vessels/12/trips", 200, "list"),
            ("GET /vessels/13/trips", 200, "list"),
            ("GET /vessels/12/trips/7", 200, "trip"),
            ("POST /vessels/12/trips/7/close", 204, "none"),
            ("POST /vessels/13/trips/8/close", 409, "error"),
        ],
        right: &[
            "GET /vessels/{id}/trips",
            "GET /vessels/{id}/trips/{trip_id}",
            "POST /vessels/{id}/trips/{trip_id}/close",
        ],
    },
    Service {
        about: "versions are names",
        asked: &[("GET /v1/berths/1", 200, "berth"), ("GET /v2/berths/1", 200, "berth")],
        right: &["GET /v1/berths/{id}", "GET /v2/berths/{id}"],
    },
    Service {
        about: "a template that nobody filled in is a value",
        asked: &[("GET /berths/7", 200, "berth"), ("GET /berths/%7Bid%7D", 404, "error")],
        right: &["GET /berths/{id}"],
    },
    Service {
        about: "an encoded slash is data, a trailing one is another path",
        asked: &[
            ("GET /berths/1", 200, "berth"),
            ("GET /berths/2%2F3", 404, "error"),
            ("GET /berths/", 404, "error"),
        ],
        right: &["GET /berths/", "GET /berths/{id}"],
    },
    Service {
        about: "a search beside ids is a name",
        asked: &[
            ("POST /vessels", 201, "vessel"),
            ("POST /vessels/search", 200, "page"),
            ("GET /vessels/a8Kd02LmQx91Zt3p", 200, "vessel"),
            ("DELETE /vessels/a8Kd02LmQx91Zt3p", 204, "none"),
        ],
        right: &[
            "DELETE /vessels/{id}",
            "GET /vessels/{id}",
            "POST /vessels",
            "POST /vessels/search",
        ],
    },
    Service {
        about: "collections behind one envelope are names",
        asked: &[
            ("GET /berths", 200, "kept list"),
            ("GET /vessels", 200, "kept list"),
            ("GET /pilots", 200, "kept list"),
            ("GET /tides", 200, "kept list"),
            ("GET /tariffs", 200, "kept list"),
            ("GET /notices", 200, "kept list"),
            ("GET /berths/7", 200, "kept berth"),
        ],
        right: &[
            "GET /berths",
            "GET /berths/{id}",
            "GET /notices",
            "GET /pilots",
            "GET /tariffs",
            "GET /tides",
            "GET /vessels",
        ],
    },
    Service {
        about: "words that come back as an id behind an envelope",
        asked: &[
            ("GET /berths/north", 200, "kept berth"),
            ("GET /berths/south", 200, "kept berth"),
            ("GET /ports/oban", 200, "kept port"),
            ("GET /ports/mallaig", 200, "kept port"),
            ("GET /ports/nowhere", 404, "error"),
        ],
        right: &["GET /berths/{name}", "GET /ports/{name}"],
    },
    Service {
        about: "two words that are one id",
        asked: &[
            ("GET /logs/ida/tern", 200, "log book"),
            ("GET /logs/noor/marram", 200, "log book"),
            ("GET /logs/noor/unknown", 404, "error"),
            ("GET /logs/ida/tern/entries", 200, "list"),
            ("GET /people/ida", 200, "person"),
            ("GET /people/noor", 200, "person"),
        ],
        right: &[
            "GET /logs/{name}/{log_name}",
            "GET /logs/{name}/{log_name}/entries",
            "GET /people/{name}",
        ],
    },
    Service {
        about: "words whose errors look alike are not merged",
        asked: &[
            ("POST /berths", 422, "error"),
            ("POST /vessels", 422, "error"),
            ("POST /pilots", 422, "error"),
            ("POST /tides", 422, "error"),
            ("POST /tariffs", 422, "error"),
            ("POST /notices", 422, "error"),
            ("POST /moorings", 422, "error"),
        ],
        right: &[
            "POST /berths",
            "POST /moorings",
            "POST /notices",
            "POST /pilots",
            "POST /tariffs",
            "POST /tides",
            "POST /vessels",
        ],
    },
    Service {
        about: "an encoded slash is one value, with nothing else beside it",
        asked: &[
            ("GET /logs/left%2Fright", 200, "page"),
            ("GET /people/ida%40harbour.example", 200, "page"),
        ],
        right: &["GET /logs/{id}", "GET /people/{id}"],
    },
];

fn found(service: &Service) -> BTreeSet<String> {
    let entries: Vec<Value> = service
        .asked
        .iter()
        .map(|(line, status, form)| got(line, *status, body(form, line)))
        .collect();
    places(&survey(&entries)).into_iter().collect()
}

/// What was created is known by where it is said to be, though it is a word and stands alone.
#[test]
fn what_a_creation_gave_is_a_value() {
    let mut created = sent("POST /crews", &json!({"port": "oban"}), 201, json!({"ok": true}));
    let location = json!({"name": "Location", "value": "https://harbour.example/crews/terns"});
    created["response"]["headers"].as_array_mut().unwrap().push(location);
    let rest = [
        got("GET /crews/terns", 200, json!({"rowers": 4})),
        got("GET /crews/mine", 200, json!({"rowers": 4})),
    ];
    let all = [vec![created.clone()], rest.to_vec()].concat();
    assert_eq!(places(&survey(&all)), ["POST /crews", "GET /crews/mine", "GET /crews/{name}"]);
    assert_eq!(places(&survey(&rest)), ["GET /crews/mine", "GET /crews/terns"]);
}

/// All of the templates are found, none is missed, none is made up; so it is said of each service which one.
#[test]
fn every_template_is_found_and_none_is_made_up() {
    let (mut right, mut wrong) = (0, Vec::new());
    for service in &SERVICES {
        let known: BTreeSet<String> = service.right.iter().map(|name| (*name).to_owned()).collect();
        let found = found(service);
        right += found.intersection(&known).count();
        for missed in known.difference(&found) {
            wrong.push(format!("missed {missed}: {}", service.about));
        }
        for made_up in found.difference(&known) {
            wrong.push(format!("made up {made_up}: {}", service.about));
        }
    }
    assert!(wrong.is_empty(), "{right} found\n{}", wrong.join("\n"));
    let all: usize = SERVICES.iter().map(|service| service.right.len()).sum();
    assert_eq!(right, all);
}

/// What each place is.
fn standing(entries: &[Value]) -> Vec<String> {
    let places = survey(entries).endpoints.into_iter();
    places.map(|place| format!("{:?} {}", place.status, place.name())).collect()
}

/// Only 404 came: the path leads nowhere. Only 405 came: the method is not offered. Both are known again if
/// their error says what endpoints say of a missing record.
#[test]
fn paths_that_lead_nowhere_are_no_endpoints() {
    let missing = json!({"type": "https://harbour.example/faults/no-such-vessel", "title": "None"});
    let nothing = json!({"title": "Not Found", "status": 404});
    let entries = [
        got("GET /vessels/12", 200, body("vessel", "/vessels/12")),
        got("GET /vessels/13", 404, missing.clone()),
        got("GET /vessels/12/log", 404, missing),
        got("GET /vessel/12", 404, nothing.clone()),
        got("PUT /vessels", 405, nothing.clone()),
        got("GET /vessels", 200, json!([])),
        got("PATCH /vessels/12", 405, nothing),
    ];
    assert_eq!(
        standing(&entries),
        [
            "Endpoint GET /vessels",
            "Endpoint GET /vessels/{id}",
            "Endpoint GET /vessels/{id}/log",
            "NotOffered PUT /vessels",
            "NotOffered PATCH /vessels/{id}",
            "Nowhere GET /vessel/{id}",
        ]
    );
}

/// A method that only ever responded 404: not offered where others found something at the same path, unless that was
/// deleted, or the body may have named what is missing.
#[test]
fn a_method_that_finds_nothing_where_others_do_is_not_offered() {
    let nothing = json!({"title": "Not Found", "status": 404});
    let no_pilot = json!({"title": "No pilot", "status": 404, "code": "no-pilot"});
    let entries = [
        got("GET /vessels", 200, json!([])),
        got("DELETE /vessels", 404, nothing.clone()),
        sent("PUT /vessels", &json!({}), 404, nothing.clone()),
        sent("POST /vessels", &json!({"pilot": 9}), 404, no_pilot.clone()),
        got("GET /vessels/12", 200, body("vessel", "/vessels/12")),
        got("GET /vessels/13", 404, nothing.clone()),
        sent("PATCH /vessels/12", &json!({}), 404, nothing.clone()),
        got("GET /pilots/1", 200, json!({"id": 1})),
        got("DELETE /pilots/1", 204, Value::Null),
        sent("PUT /pilots/1", &json!({}), 404, nothing.clone()),
        got("GET /berths/1", 200, json!({"id": 1})),
        sent("PUT /berths/2", &json!({}), 404, nothing.clone()),
        got("GET /unknown", 404, nothing),
    ];
    assert_eq!(
        standing(&entries),
        [
            "Endpoint GET /berths/{id}",
            "Endpoint PUT /berths/{id}",
            "Endpoint GET /pilots/{id}",
            "Endpoint PUT /pilots/{id}",
            "Endpoint DELETE /pilots/{id}",
            "Endpoint GET /vessels",
            "Endpoint POST /vessels",
            "Endpoint GET /vessels/{id}",
            "NotOffered PUT /vessels",
            "NotOffered DELETE /vessels",
            "NotOffered PATCH /vessels/{id}",
            "Nowhere GET /unknown",
        ]
    );
}

/// 20,000 paths of slugs, and names without end: the tree stays small, and every exchange is counted.
#[test]
fn a_great_many_paths_are_taken_for_data() {
    let mut entries = Vec::new();
    for at in 0..2_000_u32 {
        let word: String = (0..6)
            .map(|n| char::from(b'a' + u8::try_from((at >> (n * 2)) & 15).unwrap()))
            .collect();
        entries.push(got(&format!("GET /things/{word}"), 200, json!({"name": "x", "size": 1})));
        entries.push(got(&format!("GET /things/{word}/parts"), 200, json!([])));
    }
    let survey = survey(&entries);
    assert_eq!(places(&survey), ["GET /things/{name}", "GET /things/{name}/parts"]);
    let counted: u64 = survey.endpoints.iter().map(|location| location.facts.count).sum();
    assert_eq!(counted, 4_000);
}

/// Another host is another service; what a browser loads besides is excluded.
#[test]
fn services_are_told_apart_and_pages_are_set_aside() {
    let mut page = got("GET https://harbour.example/index", 200, json!({}));
    page["response"]["headers"] = json!([{"name": "Content-Type", "value": "text/html"}]);
    let mut icon = got("GET https://harbour.example/favicon.ico", 404, Value::Null);
    icon["response"]["headers"] = json!([{"name": "Content-Type", "value": "text/html"}]);
    let entries = [
        got("GET https://harbour.example/berths/1", 200, json!({"id": 1})),
        got("GET https://tides.example:8443/today", 200, json!({"high": "03:12"})),
        got("GET /berths/2", 200, json!({"id": 2})),
        page,
        icon,
        got("OPTIONS /berths/1", 204, Value::Null),
        got("GET data:text/plain,x", 200, Value::Null),
    ];
    let survey = survey(&entries);
    let told: Vec<String> = survey
        .endpoints
        .iter()
        .map(|location| format!("{} {}", location.origin, location.name()))
        .collect();
    assert_eq!(
        told,
        ["https://harbour.example GET /berths/{id}", "https://tides.example:8443 GET /today",]
    );
    assert_eq!(survey.exchanges, 3);
    assert_eq!(survey.excluded.values().sum::<u64>(), 4, "{:?}", survey.excluded);
}

/// More hosts than are told apart: which ones are does not depend on the order of the recording.
#[test]
fn of_too_many_hosts_the_same_ones_are_told_apart_in_any_order() {
    let mut entries: Vec<Value> = (0..90)
        .map(|at| {
            let host = format!("GET https://harbour-{:02}.example/berths/7", (at * 37) % 90);
            got(&host, 200, json!({"id": 7}))
        })
        .collect();
    let told = |entries: &[Value]| -> Vec<(String, u64)> {
        let places = survey(entries).endpoints.into_iter();
        places.map(|one| (format!("{} {}", one.origin, one.name()), one.facts.count)).collect()
    };
    let first = told(&entries);
    entries.reverse();
    assert_eq!(first, told(&entries));
    entries.sort_by_key(|entry| entry["request"]["url"].as_str().map(str::to_owned));
    assert_eq!(first, told(&entries));
    assert_eq!(first.iter().map(|(_, count)| count).sum::<u64>(), 90);
}
