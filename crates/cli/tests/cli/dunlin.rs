//! A service whose contract uses every construct at once, a recording of a hundred exchanges, and what is
//! wrong in each, written down beside it before the program had seen it.

use serde_json::{Value, json};

use crate::harness::{Project, findings};

/// The faults as the service writes them: name, status, code, title in both languages.
const FAULTS: [(&str, u16, i64, &str, &str); 18] = [
    ("malformed", 400, 7000, "The body is not JSON", "Nid JSON yw'r corff"),
    ("invalid-input", 422, 7001, "Some of it is not valid", "Mae rhan ohono'n annilys"),
    ("not-signed-in", 401, 7002, "Sign in first", "Mewngofnodwch yn gyntaf"),
    ("not-allowed", 403, 7003, "You may not do this", "Ni chewch wneud hyn"),
    ("no-such-ferry", 404, 7004, "There is no such ferry", "Nid oes fferi o'r fath"),
    ("no-such-ticket", 404, 7005, "There is no such ticket", "Nid oes tocyn o'r fath"),
    ("-no-route", 404, 7006, "Not Found", "Heb ei ganfod"),
    ("-not-offered", 405, 7007, "Method Not Allowed", "Dull heb ei ganiatáu"),
    ("not-acceptable", 406, 7008, "It is not to be had like that", "Nid yw ar gael felly"),
    ("full", 409, 7009, "The sailing is full", "Mae'r hwylio'n llawn"),
    ("stale", 412, 7010, "The ticket has changed", "Mae'r tocyn wedi newid"),
    ("no-precondition", 428, 7011, "Say which version you mean", "Dywedwch pa fersiwn"),
    ("too-large", 413, 7012, "It is too much", "Mae'n ormod"),
    ("wrong-media", 415, 7013, "Send JSON", "Anfonwch JSON"),
    ("busy", 429, 7014, "Too much at once", "Gormod ar unwaith"),
    ("-failed", 500, 7015, "Internal Server Error", "Gwall mewnol"),
    ("-tides-away", 502, 7016, "Bad Gateway", "Porth gwael"),
    ("-unknown-method", 501, 7018, "Not Implemented", "Heb ei weithredu"),
];

/// What is found in one exchange: clause, severity, place.
type Found = &'static [(&'static str, &'static str, &'static str)];

/// A request; credentials are sent unless it says otherwise.
fn ask(line: &str) -> Value {
    let (method, path) = line.split_once(' ').unwrap();
    json!({"request": {"method": method, "url": format!("https://dunlin.example/api{path}"),
        "headers": [{"name": "Authorization", "value": "Bearer t0"}], "bodySize": 0}})
}

/// A request without credentials.
fn stranger(line: &str) -> Value {
    let mut entry = ask(line);
    entry["request"]["headers"] = json!([]);
    entry
}

trait Entry: Sized {
    fn header(self, name: &str, value: &str) -> Self;
    fn sends(self, body: Value) -> Self;
    fn text(self, media: &str, text: &str) -> Self;
    fn gets(self, status: u16, body: Value) -> Self;
    fn fails(self, fault: &str, more: Value) -> Self;
    fn fails_cy(self, fault: &str, more: Value) -> Self;
    fn with(self, name: &str, value: &str) -> Self;
    fn without(self, name: &str) -> Self;
    fn takes(self, milliseconds: f64) -> Self;
}

impl Entry for Value {
    fn header(mut self, name: &str, value: &str) -> Self {
        self["request"]["headers"]
            .as_array_mut()
            .unwrap()
            .push(json!({"name": name, "value": value}));
        self
    }

    fn sends(self, body: Value) -> Self {
        self.text("application/json", &body.to_string())
    }

    fn text(mut self, media: &str, text: &str) -> Self {
        self["request"]["postData"] = json!({"mimeType": media, "text": text});
        self.header("Content-Type", media)
    }

    fn gets(mut self, status: u16, body: Value) -> Self {
        let media = if status < 400 { "application/json" } else { "application/problem+json" };
        let text = if body.is_null() { String::new() } else { body.to_string() };
        let mut headers = vec![
            json!({"name": "X-Trace", "value": "4bf92f3577b34da6"}),
            json!({"name": "Vary", "value": "Accept-Language"}),
        ];
        if !text.is_empty() {
            headers.push(json!({"name": "Content-Type", "value": media}));
        }
        self["response"] = json!({"status": status, "headers": headers,
            "content": {"size": text.len(), "text": text}});
        self
    }

    fn fails(self, fault: &str, more: Value) -> Self {
        let (name, status, code, title, _) =
            *FAULTS.iter().find(|row| row.0.trim_start_matches('-') == fault).unwrap();
        let mut body = json!({"title": title, "status": status, "code": code});
        if !name.starts_with('-') {
            body["type"] = json!(format!("https://dunlin.example/faults/{name}"));
        }
        for (name, value) in more.as_object().into_iter().flatten() {
            body[name] = value.clone();
        }
        self.gets(status, body)
    }

    fn fails_cy(self, fault: &str, mut more: Value) -> Self {
        let row = FAULTS.iter().find(|row| row.0.trim_start_matches('-') == fault).unwrap();
        more["title"] = json!(row.4);
        self.fails(fault, more)
    }

    fn with(mut self, name: &str, value: &str) -> Self {
        let mut entry = std::mem::take(&mut self).without(name);
        entry["response"]["headers"]
            .as_array_mut()
            .unwrap()
            .push(json!({"name": name, "value": value}));
        entry
    }

    fn without(mut self, name: &str) -> Self {
        self["response"]["headers"].as_array_mut().unwrap().retain(|header| header["name"] != name);
        self
    }

    fn takes(mut self, milliseconds: f64) -> Self {
        self["time"] = json!(milliseconds + 4000.0);
        self["timings"] = json!({"blocked": 4000, "send": 0, "wait": milliseconds, "receive": -1});
        self
    }
}

fn data() -> Value {
    json!({"data": {"id": "x"}})
}

/// A ticket in order, and one with some of it changed.
fn ticket(change: Value) -> Value {
    let mut ticket = json!({"ferry": "KIT", "sails": "2031-05-01T08:00:00Z",
        "passengers": [{"name": "Ada", "age": 36}], "car": {"length_m": 4.1}});
    for (name, value) in change.as_object().into_iter().flatten() {
        if value.is_null() && name != "car" {
            ticket.as_object_mut().unwrap().remove(name);
        } else {
            ticket[name] = value.clone();
        }
    }
    ticket
}

fn book(change: Value) -> Value {
    ask("POST /tickets").header("Idempotency-Key", "k-1").sends(ticket(change))
}

fn errors(list: Value) -> Value {
    json!({ "errors": list })
}

fn boarding(response: Value) -> Value {
    ask("POST /boardings")
        .sends(json!({"tickets": [{"ticket": "t-1"}, {"ticket": "t-2"}]}))
        .gets(200, json!({ "data": response }))
}

/// The hundred exchanges, each with what is found in it.
fn exchanges() -> Vec<(Value, Found)> {
    let fine: Found = &[];
    let good_name = json!([{"pointer": "#/ferry", "rule": "form"}]);
    vec![
        // 1 to 30: in order, and what is not the service's.
        (ask("GET /ferries").gets(200, data()), fine),
        (ask("GET /ferries/").gets(200, data()), fine),
        (ask("GET /ferries?x=1").gets(200, data()), fine),
        (ask("GET /ferries/KIT").gets(200, data()), fine),
        (ask("GET /ferries/OWL").gets(200, data()), fine),
        (ask("GET /ferries/KIT/sailings?on=2031-05-01").gets(200, data()), fine),
        (ask("GET /ferries/KIT/sailings?on=2031-05-01&limit=5").gets(200, data()), fine),
        (ask("GET /ferries/KIT/sailings?on=2031-05-01").header("X-Deck", "upper").gets(200, data()), fine),
        (book(json!({})).gets(201, data()).with("Location", "/api/tickets/t-1"), fine),
        (ask("GET /tickets/t-1").gets(200, data()), fine),
        (ask("PATCH /tickets/t-1").header("If-Match", "\"1\"").sends(json!({"deck": "upper"})).gets(200, data()), fine),
        (ask("PATCH /tickets/t-1").header("If-Match", "\"2\"").sends(json!({"deck": "lower", "seat": {"number": 12}})).gets(200, data()), fine),
        (ask("DELETE /tickets/t-1").gets(204, Value::Null), fine),
        (ask("POST /tickets/t-2/seat").sends(json!({"number": 3})).gets(200, data()), fine),
        (boarding(json!({"boarded": [{"ticket": "t-1"}], "left": [{"ticket": "t-2", "code": 7017, "until": null}]})), fine),
        (ask("GET /fares").gets(200, json!({"items": [{"class": "a"}]})), fine),
        (ask("GET /fares/a").gets(200, json!({"items": []})).takes(120.0), fine),
        (stranger("POST /sessions").sends(json!({"user": "ada", "password": "tide-and-time"})).gets(200, json!({"access_token": "x"})), fine),
        (ask("GET /timetable/2031-05-01.pdf").header("Accept", "application/pdf").gets(200, json!("%PDF")).with("Content-Type", "application/pdf"), fine),
        (ask("GET /agents/17").gets(200, data()), fine),
        (stranger("PUT /agents/17").header("X-Agent-Key", "k").sends(json!({"name": "Bea", "since": null})).gets(200, data()), fine),
        (ask("GET /ports").gets(200, data()), fine),
        (ask("GET /ports?near=abc").gets(200, data()), fine),
        (ask("GET /ports/OBN").gets(200, data()), fine),
        (ask("HEAD /ferries").gets(200, Value::Null), fine),
        (ask("GET /ferries/KIT").header("If-None-Match", "\"1\"").gets(304, Value::Null), fine),
        (ask("OPTIONS /ferries").gets(204, Value::Null), fine),
        ({
            let mut entry = ask("GET /logo.svg").gets(200, Value::Null);
            entry["request"]["url"] = json!("https://cdn.dunlin.example/logo.svg");
            entry
        }, fine),
        (ask("GET /health").gets(200, json!({"up": true})), fine),
        (ask("GET /docs/intro").gets(200, json!("x")), fine),
        // 31 to 60: errors as declared.
        (ask("GET /boats").fails("no-route", json!({})), fine),
        (ask("DELETE /ferries").fails("not-offered", json!({})).with("Allow", "GET, HEAD"), fine),
        (ask("BREW /ferries").fails("unknown-method", json!({})), fine),
        (stranger("GET /tickets/t-1").fails("not-signed-in", json!({})).with("WWW-Authenticate", "Bearer"), fine),
        (stranger("GET /tickets/t-1").header("Authorization", "Bearer expired-1").fails("not-signed-in", json!({}))
            .with("WWW-Authenticate", "Bearer error=\"invalid_token\""), fine),
        (ask("GET /ferries/ZZZ").fails("no-such-ferry", json!({})), fine),
        (ask("GET /ferries/kit").fails("no-such-ferry", json!({})), fine),
        (ask("GET /ferries/KIT/sailings").fails("invalid-input", errors(json!([{"parameter": "on", "rule": "missing"}]))), fine),
        (ask("GET /ferries/KIT/sailings?on=soon&limit=99").fails("invalid-input", errors(json!([
            {"parameter": "on", "rule": "form"}, {"parameter": "limit", "rule": "range"}]))), fine),
        (book(json!({"ferry": "kit", "sails": "soon", "passengers": null, "car": {"length_m": 20}})).fails("invalid-input", errors(json!([
            {"pointer": "#/ferry", "rule": "form"}, {"pointer": "#", "rule": "missing", "hint": "passengers"},
            {"pointer": "#/sails", "rule": "form"}, {"pointer": "#/car/length_m", "rule": "range"}]))), fine),
        (ask("POST /tickets").sends(ticket(json!({"ferry": "kit"}))).fails("invalid-input", errors(good_name.clone())), fine),
        (ask("POST /tickets").header("Idempotency-Key", "k").text("application/json", "{\"ferry\":").fails("malformed", json!({})), fine),
        (ask("POST /tickets").header("Idempotency-Key", "k").fails("malformed", json!({})), fine),
        (ask("POST /tickets").header("Idempotency-Key", "k").text("text/csv", "KIT,1").fails("wrong-media", json!({})).with("Accept", "application/json"), fine),
        (book(json!({"note": "x".repeat(3000)})).fails("too-large", json!({})), fine),
        (book(json!({"ferry": "OWL"})).fails("full", json!({"sailing": "OWL-8", "seats_left": 0, "next": null})), fine),
        (ask("PATCH /tickets/t-1").sends(json!({"deck": "upper"})).fails("no-precondition", json!({})), fine),
        (ask("PATCH /tickets/t-1").header("If-Match", "\"0\"").sends(json!({"deck": "upper"})).fails("stale", json!({})), fine),
        (ask("GET /tickets/t-404").fails("no-such-ticket", json!({})), fine),
        (ask("GET /tickets/t-1").header("Accept", "text/html").fails("not-acceptable", json!({"available": ["application/json"]})), fine),
        (ask("GET /ferries").fails("busy", json!({})).with("Retry-After", "30"), fine),
        (ask("GET /agents/99").fails("not-allowed", json!({})), fine),
        (ask("GET /agents/99?force=no").fails("not-allowed", json!({})), fine),
        (stranger("POST /sessions").sends(json!({"user": "ada", "password": "short"}))
            .gets(400, json!({"error": "invalid_grant", "error_description": "the password is too short"}))
            .with("Content-Type", "application/json"), fine),
        (ask("GET /ferries/KIT/sailings?on=2031-05-02").fails("tides-away", json!({})), &[("situation.valid-served", "warning", "the status line")]),
        (ask("GET /ports?near=x").gets(422, json!({"title": "near is too short", "code": 7099})), fine),
        (ask("GET /ports/XXX").gets(404, json!({"title": "There is no such port", "code": 7099})), fine),
        (stranger("GET /tickets/t-1").header("Accept-Language", "cy, en;q=0.5").fails_cy("not-signed-in", json!({})).with("WWW-Authenticate", "Bearer"), fine),
        (ask("GET /ferries/ZZZ").header("Accept-Language", "fr").fails("no-such-ferry", json!({})), fine),
        (ask("DELETE /tickets/t-1").fails("no-such-ticket", json!({})), fine),
        // 61 to 100: each broken in its own way.
        (ask("GET /boats").gets(200, data()), &[("situation.requires-error", "breach", "the status line")]),
        (ask("DELETE /ferries").fails("not-offered", json!({})), &[("header.allow", "breach", "header Allow")]),
        (stranger("GET /tickets/t-1").fails("not-signed-in", json!({})), &[("header.challenge", "breach", "header WWW-Authenticate")]),
        (stranger("GET /tickets/t-2").header("Authorization", "Bearer expired-2").fails("not-allowed", json!({})), &[("status.fits-situation", "breach", "the status line")]),
        (ask("GET /ferries/KIT").fails("no-such-ferry", json!({})), &[("status.fits-situation", "breach", "the status line")]),
        (ask("GET /ferries/kit").fails("invalid-input", errors(json!([{"parameter": "ferry", "rule": "form"}]))), &[("status.fits-situation", "breach", "the status line")]),
        (ask("GET /ferries/KIT/sailings?on=soon&limit=99").fails("invalid-input", errors(json!([{"parameter": "on", "rule": "form"}]))),
            &[("validation.complete", "breach", "body /errors")]),
        (book(json!({"passengers": null})).fails("invalid-input", errors(json!([{"pointer": "#/passengers", "rule": "missing"}]))),
            &[("validation.location-style", "breach", "body /errors/0/pointer")]),
        (book(json!({"ferry": "kit"})).fails("invalid-input", errors(json!([{"pointer": "/ferry", "rule": "form"}]))),
            &[("validation.location-style", "breach", "body /errors/0/pointer")]),
        (book(json!({"ferry": "kit"})).fails("invalid-input", errors(json!([{"pointer": "#/ferry", "rule": "form"}, {"pointer": "#/sails", "rule": "form"}]))),
            &[("validation.only-invalid", "breach", "body /errors/1/pointer")]),
        (book(json!({"ferry": "kit"})).fails("invalid-input", errors(json!([{"pointer": "#/ferry", "rule": "form"}, {"pointer": "#/ferry", "rule": "form"}]))),
            &[("validation.no-duplicates", "warning", "body /errors/1")]),
        (book(json!({"passengers": null})).fails("invalid-input", errors(json!([{"pointer": "#", "rule": "required", "hint": "passengers"}]))),
            &[("validation.code-declared", "breach", "body /errors/0")]),
        (book(json!({"ferry": "kit"})).fails("invalid-input", errors(json!([{"pointer": "ferry", "rule": "form"}]))),
            &[("validation.pointer-syntax", "breach", "body /errors/0/pointer")]),
        (book(json!({"ferry": "kit"})).fails("invalid-input", errors(json!([{"pointer": "#/ferries", "rule": "form", "hint": "ferry has three letters"}]))),
            &[("validation.pointer-resolves", "breach", "body /errors/0/pointer")]),
        (ask("POST /tickets").header("Idempotency-Key", "k").text("application/json", "{").fails("failed", json!({})), &[("status.fits-situation", "breach", "the status line")]),
        (stranger("POST /tickets").header("Idempotency-Key", "k").sends(ticket(json!({"ferry": "OWL"}))).fails("full", json!({"sailing": "OWL-8", "seats_left": 0, "next": null})),
            &[("status.fits-situation", "breach", "the status line")]),
        (ask("PATCH /tickets/t-1").sends(json!({"deck": "upper"})).fails("stale", json!({})), &[("status.fits-situation", "breach", "the status line")]),
        (ask("PATCH /tickets/t-1").sends(json!({"deck": "upper"})).gets(200, data()), &[("situation.requires-error", "breach", "the status line")]),
        (ask("GET /tickets/t-1").header("Accept", "text/html, application/json;q=0").gets(200, data()), &[("situation.requires-error", "breach", "the status line")]),
        (book(json!({"note": "x".repeat(3000)})).gets(201, data()).with("Location", "/api/tickets/t-9"), &[("situation.requires-error", "breach", "the status line")]),
        (book(json!({})).gets(201, data()), &[("header.declared", "breach", "header Location")]),
        (ask("GET /tickets/t-9").fails("no-such-ticket", json!({})).without("X-Trace"), &[("header.declared", "breach", "header X-Trace")]),
        (ask("GET /tickets/t-9").fails("no-such-ticket", json!({})).with("Vary", "Accept"), &[("header.declared", "breach", "header Vary")]),
        (ask("GET /ferries").fails("busy", json!({})).with("Retry-After", "soon"), &[("header.retry-after", "breach", "header Retry-After")]),
        (ask("GET /tickets/t-85").header("Accept-Language", "cy").fails("no-such-ticket", json!({})), &[("language.negotiated", "breach", "body /title")]),
        (ask("GET /tickets/t-86").fails("no-such-ticket", json!({})).with("Content-Language", "cy"), &[("language.labelled", "warning", "header Content-Language")]),
        (ask("GET /tickets/t-87").fails("no-such-ticket", json!({"code": 7004})), &[("code.fits-fault", "breach", "body /code")]),
        (ask("GET /nowhere").fails("no-route", json!({"code": 17})), &[("code.declared", "breach", "body /code")]),
        (ask("GET /tickets/t-89").fails("no-such-ticket", json!({"status": 400})), &[("problem.status-agrees", "breach", "body /status")]),
        (book(json!({"ferry": "OWL"})).fails("full", json!({"sailing": "OWL-8", "next": "soon"})),
            &[("shape.declared", "breach", "body /next"), ("shape.declared", "breach", "body /seats_left")]),
        (stranger("POST /sessions").sends(json!({"user": "ada", "password": "short"})).gets(400, json!({"message": "the password is too short"}))
            .with("Content-Type", "application/json"), &[("shape.declared", "breach", "body /error")]),
        (ask("GET /fares").gets(200, data()), &[("success.shape-declared", "breach", "body /items")]),
        (ask("GET /ferries").gets(200, json!({"items": []})), &[("success.shape-declared", "breach", "body /data")]),
        (ask("GET /fares/a").gets(200, json!({"items": []})).takes(900.0), &[("exchange.in-time", "breach", "the exchange")]),
        // What the database says here is waived.
        (ask("GET /fares/b").fails("failed", json!({"detail": "duplicate key value violates unique constraint \"fares_pk\""})), &[("situation.valid-served", "warning", "the status line")]),
        (boarding(json!({"boarded": [{"ticket": "t-1"}], "left": []})), &[("partial.each-once", "breach", "the whole body")]),
        (boarding(json!({"boarded": [{"ticket": "t-1"}], "left": [{"ticket": "t-2", "code": 7000}]})), &[("partial.faults-declared", "breach", "body /data/left/0")]),
        (boarding(json!({"boarded": [{"ticket": "t-1"}], "left": [{"ticket": "t-2", "code": 7017, "why": "late"}]})), &[("partial.shape-declared", "breach", "body /data/left/0/why")]),
        ({
            let mut entry = ask("GET /ferries");
            entry["response"] = json!({"status": 0, "_error": "net::ERR_EMPTY_RESPONSE"});
            entry
        }, &[("exchange.has-response", "breach", "the exchange")]),
        (ask("GET /tickets/t-404").header("Accept-Language", "cy").fails_cy("no-such-ticket", json!({"manylion": "t-404"})),
            &[("language.same-codes", "breach", "the whole body"), ("problem.extension-declared", "note", "body /manylion")]),
    ]
}

pub(crate) fn project() -> Project {
    let project = Project::new();
    for (name, text) in [
        ("error-contract.toml", include_str!("../data/dunlin/error-contract.toml")),
        ("ports.yaml", include_str!("../data/dunlin/ports.yaml")),
        ("schemas/ticket.json", include_str!("../data/dunlin/schemas/ticket.json")),
        ("schemas/parts.json", include_str!("../data/dunlin/schemas/parts.json")),
    ] {
        project.write(name, text);
    }
    let entries: Vec<Value> = exchanges().into_iter().map(|(entry, _)| entry).collect();
    project.write("dunlin.har", crate::harness::har(&entries));
    project
}

#[test]
fn a_hundred_exchanges_have_exactly_what_was_written_down() {
    let mut expected = Vec::new();
    for (number, (_, found)) in (1..).zip(exchanges()) {
        let row = |(clause, severity, location): &(&str, &str, &str)| {
            (number, (*clause).to_owned(), (*severity).to_owned(), (*location).to_owned())
        };
        expected.extend(found.iter().map(row));
    }
    assert_eq!(exchanges().len(), 100);
    let run = project().run("check --format json dunlin.har").exits(1);
    assert_eq!(run.stderr, "");
    let check = run.json();
    let found: Vec<(u64, String, String, String)> = findings(&check);
    expected.sort();
    let missed: Vec<_> = expected.iter().filter(|row| !found.contains(row)).collect();
    let more: Vec<_> = found.iter().filter(|row| !expected.contains(row)).collect();
    assert!(missed.is_empty() && more.is_empty(), "missed {missed:#?}\nfound besides {more:#?}");
    assert_eq!(found.len(), expected.len());
    assert_eq!(
        (check["totals"]["checked"].as_u64(), check["totals"]["excluded"].as_u64()),
        (Some(96), Some(4))
    );
}

#[test]
fn a_contract_drafted_from_it_can_be_used() {
    crate::draft::drafted(&project(), "dunlin.har");
}

#[test]
fn its_waivers_are_told_and_counted() {
    let run = project().run("check --format json dunlin.har").exits(1);
    let check = run.json();
    let states: Vec<_> = check["waivers"]
        .as_array()
        .unwrap()
        .iter()
        .map(|waiver| {
            (
                waiver["clause"].as_str().unwrap(),
                waiver["validity"].as_str().unwrap(),
                waiver["waived"].as_u64().unwrap(),
            )
        })
        .collect();
    assert_eq!(
        states,
        [
            ("disclosure.database", "in force", 1),
            ("media.matches-body", "unused", 0),
            ("header.allow", "expired", 0)
        ]
    );
    assert_eq!(check["totals"]["waived"], 1);
    let text = project().run("check dunlin.har").exits(1);
    text.says("the old fare tables;").says("expired on 2020-01-31").says("1 waived");
}
