//! `draft`: a contract from recordings.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::json;

use crate::harness::{Project, findings, got, har, sent};

const PROBLEM: &str = "application/problem+json";

/// Drafts a contract from `a.har`, checks the same recording with it, and gives what is found.
pub(crate) fn drafted(project: &Project, recording: &str) -> Vec<(u64, String, String, String)> {
    project.run(&format!("draft {recording} --output drafted.toml")).exits(0).complains("wrote");
    let run = project.run(&format!("check --contract drafted.toml --format json {recording}"));
    assert!(matches!(run.code, Some(0 | 1)), "{run}");
    // That the service has members with odd names is worth telling, and no mistake of the draft's.
    let is_odd_name = run.stderr.contains("not every format can hold a member called");
    assert!(run.stderr.is_empty() || is_odd_name, "a drafted contract has no mistake: {run}");
    std::fs::remove_file(project.path().join("drafted.toml")).unwrap();
    findings(&run.json())
}

fn demo() -> Project {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    project
}

/// The fixed service keeps what it shows. What a person would add, the contract of the demo has: which
/// fields are wrong can't be known without rules for bodies, and those the draft only suggests.
#[test]
fn what_was_drafted_of_after_is_kept_by_after() {
    assert_eq!(drafted(&demo(), "after.har"), []);
}

/// What a person would agree with: the better side of each contradiction was taken, and the other is a finding.
#[test]
fn what_was_drafted_of_before_finds_where_before_contradicts_itself() {
    let found = drafted(&demo(), "before.har");
    let breaches: Vec<(u64, &str)> = found
        .iter()
        .filter(|(_, _, severity, _)| severity == "breach")
        .map(|(number, clause, ..)| (*number, clause.as_str()))
        .collect();
    assert_eq!(
        breaches,
        [
            (5, "disclosure.stack-trace"),
            (7, "header.allow"),
            (8, "media.declared"),
            (9, "media.declared"),
            (16, "media.declared"),
            (16, "problem.near-miss"),
            (16, "problem.near-miss"),
            (21, "body.present"),
            (21, "header.challenge"),
            (22, "status.fits-situation"),
            (24, "media.matches-body"),
            (27, "shape.declared"),
            (33, "problem.status-agrees"),
            (34, "problem.type-declared"),
            (39, "problem.title-declared"),
            (44, "problem.required-members"),
            (48, "situation.requires-error"),
            (49, "body.absent"),
            (52, "problem.is-object"),
            (54, "media.matches-body"),
            (56, "header.allow"),
            (60, "shape.declared"),
            (62, "exchange.has-response"),
            (67, "disclosure.stack-trace"),
            (67, "media.declared"),
            (72, "problem.member-type"),
            (72, "shape.declared"),
            (73, "status.registered"),
        ]
    );
}

/// The questions are there where the recording contradicts itself, each with its evidence.
#[test]
fn contradictions_are_asked_about() {
    let draft = demo().run("draft before.har --format json").exits(0).json();
    let text = draft["contract"].as_str().unwrap();
    let questions: Vec<&str> =
        draft["decide"].as_array().unwrap().iter().map(|one| one.as_str().unwrap()).collect();
    for words in [
        "40 of 45 errors; the others: application/json (before.har#16), text/html",
        "5 of 8 validation errors have this shape; is it the one for all?",
        "also recorded: https://harbour.example/faults/berth_taken (before.har#34)",
        "one title for a fault; also recorded: \"No reservation r-000000\" (before.har#39)",
        "520 is not a registered status code and was left out (before.har#73)",
        "some were served without",
        "these only ever responded 404",
    ] {
        assert!(questions.iter().any(|one| one.contains(words)), "{words}\n{questions:#?}");
    }
    assert_eq!(text.matches("# decide: ").count(), questions.len());
    assert!(text.contains("servers  = [\"https://harbour.example/v1\"]"), "{text}");
    assert!(text.contains("headers = { X-Request-Id = \"string matching"), "{text}");
    assert!(text.contains("\n[endpoint.\"POST /reservations\".body-members]"), "{text}");
}

#[test]
fn a_service_with_an_envelope_and_codes_gets_its_own_shape() {
    let envelope = |code: i64, text: &str| {
        json!({"meta": {"code": code, "text": text}, "data": null}).to_string()
    };
    let project = Project::with(
        HARBOUR,
        &[
            got("GET", "/berths/1", 200, "application/json", r#"{"data":{"id":1}}"#),
            got("GET", "/berths/2", 404, "application/json", &envelope(4004, "No berth")),
            got("GET", "/berths/3", 404, "application/json", &envelope(4004, "No berth")),
            sent(
                "POST",
                "/berths",
                &[],
                Some("{\"a\":1}"),
                409,
                "application/json",
                &envelope(4009, "There is one"),
            ),
            sent("POST", "/berths", &[], Some("{\"a\":2}"), 201, "application/json", "{}"),
        ],
    );
    let draft = project.run("draft a.har").exits(0);
    let draft =
        draft.says("media = \"application/json\"").says("[fault.code-4004]").says("code    = 4004");
    let draft = draft.says("[envelope]\ncode = \"/meta/code\"").says("[shape.service-error-meta]");
    assert!(!draft.stdout.contains("like "), "{draft}");
    assert_eq!(drafted(&project, "a.har"), []);
}

#[test]
fn a_description_gives_the_endpoints_and_is_named_in_the_contract() {
    let project = Project::with(
        HARBOUR,
        &[got("GET", "/berths/1", 404, PROBLEM, r#"{"title":"Not Found","status":404}"#)],
    );
    project.write("api/harbour.yaml", "openapi: 3.1.0\nservers: [{url: 'https://harbour.example/v1'}]\npaths: {'/berths/{berth}': {get: {responses: {'200': {description: one}}}}}");
    let run = project.run("draft --openapi api/harbour.yaml a.har").exits(0);
    run.says("openapi  = \"api/harbour.yaml\"").says("[endpoint.\"GET /berths/{berth}\"]");
    // Beside the description, the contract names it as from there.
    project.run("draft --openapi api/harbour.yaml --output api/contract.toml a.har").exits(0);
    let text = std::fs::read_to_string(project.path().join("api/contract.toml")).unwrap();
    assert!(text.contains("openapi  = \"harbour.yaml\""), "{text}");
    project.run("check --contract api/contract.toml a.har").exits(0);
    project.write("team/note.txt", "");
    project.run("draft --openapi api/harbour.yaml --output team/contract.toml a.har").exits(0);
    let text = std::fs::read_to_string(project.path().join("team/contract.toml")).unwrap();
    assert!(text.contains("openapi  = \"../api/harbour.yaml\""), "{text}");
    project.run("check --contract team/contract.toml a.har").exits(0);
    project.run("draft --openapi none.yaml a.har").exits(2);
}

/// The servers are those of the description, and what is in none of its paths stands below them, too; where the recording was
/// made elsewhere, their paths are on any host.
#[test]
fn a_draft_has_the_servers_of_the_description() {
    let body = r#"{"title":"Not Found","status":404}"#;
    let recorded = |base: &str| {
        let mut entries = [
            got("GET", "/berths/1", 404, PROBLEM, body),
            got("GET", "/vessels/7", 200, "application/json", "{\"id\":7}"),
        ];
        for (entry, path) in entries.iter_mut().zip(["/berths/1", "/vessels/7"]) {
            entry["request"]["url"] = json!(format!("{base}{path}"));
        }
        Project::with(HARBOUR, &entries)
    };
    let operation = "{get: {responses: {'200': {description: one}}}}";
    for (base, servers, written) in [
        ("https://harbour.example/api/v2", "'https://harbour.example/api/v2'", None),
        ("http://127.0.0.1:7878/api/v2", "'/api/v2'", None),
        ("http://127.0.0.1:7878/api/v2", "'https://harbour.example/api/v2'", Some("/api/v2")),
    ] {
        let project = recorded(base);
        let text = format!(
            "openapi: 3.1.0\nservers: [{{url: {servers}}}]\npaths: {{'/berths/{{berth}}': {operation}}}"
        );
        project.write("harbour.yaml", text);
        let run = project.run("draft --openapi harbour.yaml a.har").exits(0);
        let run = run.says("[endpoint.\"GET /berths/{berth}\"]");
        let run = run.says("[endpoint.\"GET /vessels/{id}\"]");
        match written {
            None => assert!(!run.stdout.contains("servers "), "{run}"),
            Some(path) => {
                let run = run.says(&format!("servers  = [\"{path}\"]"));
                run.says("decide: the recording was made on none of the servers");
            }
        }
        project.run("draft --openapi harbour.yaml --output c.toml a.har").exits(0);
        project.run("check --contract c.toml a.har").exits(0);
        let survey = project.run("survey --openapi harbour.yaml --format json a.har").exits(0);
        assert_eq!(survey.json()["exchanges"], 2);
    }
}

/// Titles in several languages are one title a language; what tells two faults apart is a word; codes that differ are asked
/// about; a path that only responded 404 while things below it were served is no unknown route.
#[test]
fn a_draft_knows_languages_and_tells_faults_apart_by_words() {
    let problem = |title: &str, status: u16, of: &str, code: &str| {
        json!({"type": format!("https://harbour.example/{of}"), "title": title, "status": status, "code": code})
            .to_string()
    };
    let spoken = |language: &str, path: &str, status: u16, body: &str| {
        let mut entry = got("GET", path, status, PROBLEM, body);
        let header = json!({"name": "Content-Language", "value": language});
        entry["response"]["headers"].as_array_mut().unwrap().push(header);
        entry
    };
    let missing = "faults/no-berth";
    let project = Project::with(
        HARBOUR,
        &[
            got("GET", "/berths/1", 200, "application/json", r#"{"id":1}"#),
            spoken("en", "/berths/9", 404, &problem("No such berth", 404, missing, "B-1")),
            spoken("en", "/berths/8", 404, &problem("No such berth", 404, missing, "B-1")),
            spoken("de-CH", "/berths/9", 404, &problem("Kein Liegeplatz", 404, missing, "B-2")),
            spoken("en", "/stays/1", 409, &problem("Taken", 409, "berths/taken", "T-1")),
            spoken("en", "/calls/1", 409, &problem("Taken", 409, "vessels/taken", "T-1")),
            got("GET", "/quays", 404, PROBLEM, r#"{"title":"Not Found","status":404}"#),
            got("GET", "/quays/7", 200, "application/json", r#"{"id":7}"#),
        ],
    );
    let run = project.run("draft a.har").exits(0).says("languages = [\"en\", \"de\"]");
    let run = run.says("title   = { en = \"No such berth\", de = \"Kein Liegeplatz\" }");
    let run = run.says("[fault.taken]").says("[fault.taken-vessels]");
    let run = run.says("decide: one code for a fault; recorded: `B-1`");
    run.says("decide: these only ever responded 404, and what is below them was served");
    project.run("draft a.har --output c.toml").exits(0);
    project.run("check --contract c.toml --contract-only").exits(0);
}

/// Rules for a body are switched on where a refusal says that a member was missing or of another type, and how locations
/// are spelled where all are spelled so.
#[test]
fn rules_that_a_refusal_explains_are_switched_on() {
    let refusal = |fields: &[&str]| {
        let entry = |field: &&str| json!({"field": field, "message": "is wrong", "code": "bad"});
        let errors: Vec<_> = fields.iter().map(entry).collect();
        json!({"message": "Not valid", "errors": errors}).to_string()
    };
    let json = "application/json";
    let post = |path: &str, body: &str, status: u16, came: &str| {
        sent("POST", path, &[], Some(body), status, json, came)
    };
    let project = Project::with(
        HARBOUR,
        &[
            post(
                "/stays",
                r#"{"nights":3,"crew":[{"name":"Ida","age":4}],"note":null}"#,
                201,
                "{}",
            ),
            post(
                "/stays",
                r#"{"crew":[{"age":"x"}]}"#,
                422,
                &refusal(&["nights", "crew[0].name", "crew[0].age"]),
            ),
            post(
                "/stays",
                r#"{"nights":"x","crew":[{"name":""}],"note":7}"#,
                422,
                &refusal(&["nights", "crew[0].name"]),
            ),
            post("/stays", r#"{"nights":99}"#, 422, &refusal(&["nights"])),
            post("/calls", r#"{"berth":"A-3"}"#, 201, "{}"),
            post("/calls", r#"{"berth":"Z-9"}"#, 422, &refusal(&["berth"])),
        ],
    );
    let run = project.run("draft a.har").exits(0);
    let run = run.says("\n[endpoint.\"POST /stays\".body-members]\npartial = true\n");
    // Required is what was refused when it was missing; a number was let pass where null had been accepted.
    let run = run.says("nights = \"integer\"").says("note   = \"optional integer or null\"");
    let run = run.says("[shape.stays-crew]\nage  = \"optional integer\"\nname = \"string\"\n");
    let words = run.stdout.replace("\n# ", " ");
    let reasons = "`crew.*.age` was a string, `crew.*.name` was missing, `nights` was a string, `nights` was missing";
    assert!(words.contains(&format!("1 accepted; refused where {reasons}\n")), "{run}");
    let run = run.says("# [endpoint.\"POST /calls\".body-members]");
    let run = run.says("locations = \"bracketed\"").says("says which: \"bad\"");
    assert!(!run.stdout.contains("contradicts"), "{run}");
    assert_eq!(drafted(&project, "a.har"), []);
}

#[test]
fn a_contract_is_never_written_over_nor_in_part() {
    let project = demo();
    project
        .run("draft after.har --output error-contract.toml")
        .exits(2)
        .complains("already exists");
    project.run("draft after.har --output none/x.toml").exits(2).complains("can't write");
    project.run("draft none.har --output x.toml").exits(2);
    assert!(!project.path().join("x.toml").exists());
    let left: Vec<_> =
        std::fs::read_dir(project.path()).unwrap().flatten().map(|e| e.file_name()).collect();
    assert_eq!(left.len(), 3, "{left:?}");
}

#[test]
fn without_errors_it_drafts_what_is_usual_and_asks() {
    let project = Project::with(HARBOUR, &[got("GET", "/berths/1", 200, "application/json", "{}")]);
    let run = project.run("draft a.har").exits(0).says("[endpoint.\"GET /berths/{id}\"]");
    run.says("decide: no error with a body was recorded")
        .says("decide: no recorded error says what it is");
    assert_eq!(drafted(&project, "a.har"), []);
    project.write("b.har", har(&[]));
    project.run("draft b.har").exits(0).says("decide: no endpoint was found");
}

/// A recorder that leaves credentials out makes every request look like a stranger's: nothing is said then.
#[test]
fn who_needs_credentials_is_only_said_where_some_were_recorded() {
    let bare = [
        got("GET", "/berths/1", 200, "application/json", "{}"),
        sent(
            "POST",
            "/berths",
            &[],
            Some("{\"a\":1}"),
            401,
            PROBLEM,
            r#"{"title":"Unauthorized","status":401}"#,
        ),
    ];
    let project = Project::with(HARBOUR, &bare);
    let run = project.run("draft a.har").exits(0).says("which of them require credentials?");
    assert!(!run.stdout.contains("needs "), "{run}");
    let mut all = bare.to_vec();
    all.push(sent(
        "POST",
        "/berths",
        &[("Authorization", "Bearer t0")],
        Some("{\"a\":1}"),
        201,
        "application/json",
        "{}",
    ));
    project.write("a.har", har(&all));
    let run = project
        .run("draft a.har")
        .exits(0)
        .says("auth    = \"required\"")
        .says("auth    = \"none\"");
    assert!(!run.stdout.contains("which of them require"), "{run}");
    // And where some were refused and others served, it asks.
    all.push(sent("POST", "/berths", &[], Some("{\"a\":2}"), 201, "application/json", "{}"));
    project.write("a.har", har(&all));
    project
        .run("draft a.har")
        .exits(0)
        .says("without credentials it was refused (a.har#2) and served");
}

/// What was accepted and should not have been is no part of the agreement.
#[test]
fn what_should_have_been_refused_is_asked_about() {
    let post = |media: &str, body: &str, status: u16, response: &str| {
        let mut entry = sent(
            "POST",
            "/berths",
            &[("Content-Type", media)],
            Some(body),
            status,
            "application/json",
            response,
        );
        entry["request"]["postData"]["mimeType"] = json!(media);
        entry
    };
    let project = Project::with(
        HARBOUR,
        &[
            post("application/json", "{\"a\":1}", 201, "{}"),
            post("application/json", "{\"a\":", 200, "{}"),
            post("text/plain", "a=1", 201, "{}"),
            got(
                "GET",
                "/berths/1",
                404,
                PROBLEM,
                r#"{"type":"https://x.example/no_berth","title":"No berth","status":404}"#,
            ),
            got(
                "GET",
                "/berths/2",
                404,
                PROBLEM,
                r#"{"type":"https://x.example/no-berth","title":"No berth","status":404}"#,
            ),
            got(
                "GET",
                "/berths/4",
                410,
                PROBLEM,
                r#"{"type":"https://x.example/no-berth","title":"No berth","status":410}"#,
            ),
            got("GET", "/berths/3", 200, "application/json", "{}"),
            got("GET", "/boom", 500, PROBLEM, r#"{"title":"Oops","status":500,"trace":["at x"]}"#),
        ],
    );
    let run = project.run("draft a.har").exits(0);
    let run = run.says("success = [201]").says("a malformed body was accepted (a.har#2)");
    let run = run.says("accepts = [\"application/json\"]").says("text/plain was accepted too");
    let run = run.says("one type for a fault; also recorded: https://x.example/no_berth (a.har#4)");
    let run = run.says("one status for a fault; it also had 410 (a.har#6)");
    let run = run
        .says("without a type, the title is the status code's phrase")
        .says("\"Oops\" (a.har#8)");
    assert!(!run.stdout.contains("trace ="), "{run}");
}

/// Names, titles and types that try to get out of their string or comment.
#[test]
fn what_was_recorded_stays_in_its_place() {
    let evil = "x\"\n[fault.made-up]\nstatus = 999\n#\u{202e}\u{1b}[2J";
    let body = json!({"type": "https://x.example/a\"b", "title": evil, "status": 409, evil: {evil: [evil]}}).to_string();
    let problem = json!({"title": evil, "status": 404}).to_string();
    let mut entries = vec![
        got("GET", "/berths/1", 409, PROBLEM, &body),
        got("GET", "/berths/2", 404, PROBLEM, &problem),
        sent(
            "POST",
            "/berths",
            &[],
            Some(&json!({evil: evil, "token": "s3cr3t-t0k3n"}).to_string()),
            201,
            "application/json",
            "{}",
        ),
        got("GET", "/berths/1", 200, "application/json", "{}"),
    ];
    entries[0]["response"]["headers"]
        .as_array_mut()
        .unwrap()
        .push(json!({"name": evil, "value": evil}));
    entries[3]["request"]["url"] = json!("https://harbour.example/v1/a%22%0A%5Bx%5D/%7Bid%7D/1");
    let project = Project::new();
    project.write("a.har", har(&entries));
    let run = project.run("draft a.har").exits(0);
    assert!(!run.stdout.contains(['\u{202e}', '\u{1b}']), "{run}");
    assert!(!run.stdout.contains("s3cr3t"), "{run}");
    assert!(!run.stdout.lines().any(|line| line.starts_with("[fault.made-up]")), "{run}");
    drafted(&project, "a.har");
}

#[test]
fn markdown_has_the_questions_and_the_contract() {
    let run = demo().run("draft before.har --format markdown").exits(0);
    run.says("## To decide")
        .says("## The contract")
        .says("```toml\n#:schema contract.schema.json\n");
}

/// A fault has one status in a contract; a second one is asked about from the first response that has it.
#[test]
fn a_fault_with_two_statuses_is_asked_about() {
    let of = |status| {
        let uri = "https://harbour.example/faults/no-such-berth";
        got(
            "GET",
            "/berths/Z-99",
            status,
            "application/problem+json",
            &json!({"type": uri, "title": "No berth"}).to_string(),
        )
    };
    let project = Project::with(HARBOUR, &[of(404), of(404), of(410)]);
    let draft = project.run("draft a.har --format json").exits(0).json();
    let questions = draft["decide"].as_array().unwrap();
    let words = "one status for a fault; it also had 410 (a.har#3)";
    assert!(questions.iter().any(|one| one.as_str().unwrap().contains(words)), "{questions:#?}");
}

/// A draft is checked against its own recording, from standard input too: what the check finds is asked about.
#[test]
fn what_the_recording_contradicts_is_asked_about() {
    let project = demo();
    let recording = std::fs::File::open(project.path().join("before.har")).unwrap();
    let mut drafted = project.run_with("draft -", recording).exits(0);
    for line in [
        "# ── what the recording contradicts ──",
        "# decide: 2 breaches of `disclosure.stack-trace`, at GET /berths/{id}, GET /tides/{date}",
        "# decide: 1 warning of `problem.near-miss`, at GET /vessels/{id}",
    ] {
        drafted = drafted.says(line);
    }
    let without = project.run("draft after.har").exits(0);
    assert!(!without.stdout.contains("what the recording contradicts"), "{without}");
}

/// JSON:API's errors have a built-in shape.
#[test]
fn errors_of_json_api_are_known() {
    const JSON_API: &str = "application/vnd.api+json";
    let error = |status: &str, more: serde_json::Value| {
        let mut error = json!({"status": status, "title": "It can't be done"});
        error.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        json!({"errors": [error]}).to_string()
    };
    let sent_boat = Some(r#"{"data":{"type":"boats","attributes":{"length":-1}}}"#);
    let invalid = json!({"source": {"pointer": "/data/attributes/length"}});
    let project = Project::with(
        HARBOUR,
        &[
            got("GET", "/boats/1", 200, JSON_API, r#"{"data":{"type":"boats","id":"1"}}"#),
            got("GET", "/boats/9", 404, JSON_API, &error("404", json!({"code": "no-boat"}))),
            sent("POST", "/boats", &[], sent_boat, 422, JSON_API, &error("422", invalid)),
        ],
    );
    let draft = project.run("draft a.har").exits(0).says("shape = \"jsonapi-errors\"");
    assert!(!draft.stdout.contains("\n[shape."), "{draft}");
    assert_eq!(drafted(&project, "a.har"), []);
}

/// A part of the service with a style of its own: the draft asks, and the region that it suggests can be taken in.
#[test]
fn a_part_with_another_style_is_asked_about_and_its_region_suggested() {
    const JSON: &str = "application/json";
    let problem = |status: u16| json!({"title": "Not Found", "status": status}).to_string();
    let old = json!({"error": {"code": "E-404", "text": "no such lamp"}}).to_string();
    let mut entries = vec![
        got("GET", "/berths/1", 200, JSON, "{}"),
        got("GET", "/lamps/1", 200, JSON, "{}"),
        got("GET", "/ropes/1", 200, JSON, "{}"),
    ];
    for at in 0..4 {
        entries.push(got("GET", &format!("/berths/9{at}"), 404, PROBLEM, &problem(404)));
        entries.push(got("GET", &format!("/ropes/9{at}"), 404, PROBLEM, &problem(404)));
        entries.push(got("GET", &format!("/lamps/9{at}"), 404, JSON, &old));
    }
    let project = Project::with(HARBOUR, &entries);
    let draft = project.run("draft a.har").exits(0);
    let draft = draft
        .says("# decide: below /lamps, the 4 errors with a JSON body, validation errors aside, have")
        .says("# [region.\"/lamps/**\"]\n# error = { media = \"application/json\", shape = \"lamps-error\" }");
    assert!(!draft.stdout.contains("[region.\"/ropes"), "{draft}");
    project.write("taken-in.toml", crate::corpus::with_suggestions(&draft.stdout));
    let check = project.run("check --contract taken-in.toml a.har --format json");
    let odd = findings(&check.json());
    assert!(odd.iter().all(|(_, clause, ..)| clause.as_str() != "media.declared"), "{odd:?}");
    assert!(odd.iter().all(|(_, clause, ..)| !clause.starts_with("shape.declared")), "{odd:?}");
}
