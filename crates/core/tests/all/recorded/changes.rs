//! Kinds of changes between two recordings, each with what an engineer would say of it. Written before they were tried.

use faithful_clerk_insight::compare::{Comparison, ComparisonKind, Grade};
use serde_json::{Value, json};

use super::make::{compared_as, got, sent};

/// What is changed, what it is to be called, and one exchange before and after.
struct ChangedExchange {
    kind: &'static str,
    verdict: Grade,
    before: Value,
    after: Value,
}

fn change(kind: &'static str, verdict: Grade, before: Value, after: Value) -> ChangedExchange {
    ChangedExchange { kind, verdict, before, after }
}

/// A response of another media type, with a body that need not be JSON.
fn plain(line: &str, status: u16, media: &str, text: &str) -> Value {
    let mut entry = got(line, status, json!({}));
    entry["response"]["headers"] = json!([{"name": "Content-Type", "value": media}]);
    entry["response"]["content"] = json!({"size": text.len(), "text": text});
    entry
}

/// The same exchange with one more header in its response.
fn with(mut entry: Value, name: &str, value: &str) -> Value {
    let headers = entry["response"]["headers"].as_array_mut().unwrap();
    headers.push(json!({"name": name, "value": value}));
    entry
}

fn problem(status: u16, title: &str) -> Value {
    json!({"type": "about:blank", "title": title, "status": status, "detail": "Some words."})
}

fn violations(fields: &[&str]) -> Value {
    let entry = |field: &&str| json!({"pointer": format!("/{field}"), "detail": "is not valid"});
    let errors: Vec<Value> = fields.iter().map(entry).collect();
    json!({"title": "Not valid", "status": 422, "errors": errors})
}

const TRACE: &str = "Traceback (most recent call last):\n  File \"/srv/harbour/berths.py\", line 88, in by_id\n    raise KeyError(berth)\nKeyError: 'A-9'";

fn fixed() -> Vec<ChangedExchange> {
    let berth = "GET /berths/A-9";
    let book = "POST /reservations";
    let wrong = json!({"nights": 99, "vessel": "", "berth_id": 4});
    let is = |kind, before, after| change(kind, Grade::Fixed, before, after);
    vec![
        is(
            "an internal failure is a refusal",
            sent(book, &wrong, 500, problem(500, "Internal Server Error")),
            sent(book, &wrong, 422, violations(&["nights", "vessel"])),
        ),
        is(
            "a stack trace for a body is a problem",
            plain(berth, 500, "text/plain", TRACE),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "HTML is a problem",
            plain(berth, 404, "text/html", "<html><body><h1>Not Found</h1></body></html>"),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "broken JSON is JSON",
            plain(berth, 404, "application/json", "{\"title\": \"Not Found\","),
            plain(berth, 404, "application/json", "{\"title\": \"Not Found\"}"),
        ),
        is(
            "an empty error says something",
            got(berth, 404, Value::Null),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "an error in a success is a refusal",
            got(berth, 200, json!({"success": false, "error": "no such berth"})),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "all invalid fields are reported, not one",
            sent(book, &wrong, 422, violations(&["nights"])),
            sent(book, &wrong, 422, violations(&["nights", "vessel", "berth_id"])),
        ),
        is(
            "a 405 lists the methods",
            got("PUT /berths/A-9", 405, problem(405, "Method Not Allowed")),
            with(got("PUT /berths/A-9", 405, problem(405, "Method Not Allowed")), "Allow", "GET"),
        ),
        is(
            "the body's status agrees",
            got(berth, 404, problem(400, "Not Found")),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "nothing is disclosed any longer",
            got(berth, 500, json!({"title": "Internal Server Error", "detail": TRACE})),
            got(
                berth,
                500,
                json!({"title": "Internal Server Error", "detail": "It was our fault."}),
            ),
        ),
        is(
            "a response where there was none",
            json!({"request": {"method": "GET", "url": "https://harbour.example/berths/A-9"}, "response": null}),
            got(berth, 404, problem(404, "Not Found")),
        ),
    ]
}

fn regressed() -> Vec<ChangedExchange> {
    let berth = "GET /berths/A-3";
    let list = "GET /berths";
    let body = json!({"id": "A-3", "length_m": 12, "depth_m": 3.5, "owner": {"name": "Tern"}});
    let is = |kind, before, after| change(kind, Grade::Regressed, before, after);
    vec![
        is(
            "a success is an internal failure",
            got(berth, 200, body.clone()),
            got(berth, 500, problem(500, "Internal Server Error")),
        ),
        is(
            "a refusal is an internal failure",
            got(berth, 404, problem(404, "Not Found")),
            got(berth, 500, problem(500, "Internal Server Error")),
        ),
        is(
            "a success lost a nested member",
            got(berth, 200, body.clone()),
            got(berth, 200, json!({"id": "A-3", "length_m": 12, "depth_m": 3.5, "owner": {}})),
        ),
        is(
            "a number is text",
            got(berth, 200, body.clone()),
            got(
                berth,
                200,
                json!({"id": "A-3", "length_m": "12", "depth_m": 3.5, "owner": {"name": "Tern"}}),
            ),
        ),
        is(
            "a list is in an envelope",
            got(list, 200, json!([{"id": 1}])),
            got(list, 200, json!({"items": [{"id": 1}]})),
        ),
        is(
            "JSON is a page",
            got(berth, 200, body.clone()),
            plain(berth, 200, "text/plain", "It works."),
        ),
        is("a success is empty", got(berth, 200, body.clone()), got(berth, 200, Value::Null)),
        is(
            "a success has an error inside",
            got(berth, 200, body),
            got(berth, 200, json!({"success": false, "error": "the database is away"})),
        ),
        is(
            "a field is no longer reported",
            sent(
                "POST /reservations",
                &json!({"nights": 0}),
                422,
                violations(&["nights", "vessel"]),
            ),
            sent("POST /reservations", &json!({"nights": 0}), 422, violations(&["nights"])),
        ),
        is(
            "a 401 lost its challenge",
            with(got(list, 401, problem(401, "Unauthorized")), "WWW-Authenticate", "Bearer"),
            got(list, 401, problem(401, "Unauthorized")),
        ),
        is(
            "no response",
            got(berth, 404, problem(404, "Not Found")),
            json!({"request": {"method": "GET", "url": "https://harbour.example/berths/A-3"}, "response": null}),
        ),
    ]
}

fn changed() -> Vec<ChangedExchange> {
    let berth = "GET /berths/A-9";
    let is = |kind, before, after| change(kind, Grade::Changed, before, after);
    let by_name = |name: &str| json!({"quays": {name: {"length_m": 12, "free": true}, "reserve": {"length_m": 3, "free": true}}});
    let coded = |code: &str| json!({"code": code, "message": "There is no such berth."});
    vec![
        is(
            "another refusal",
            got(berth, 400, problem(400, "Bad Request")),
            got(berth, 404, problem(404, "Not Found")),
        ),
        is(
            "another title",
            got(berth, 404, problem(404, "Not Found")),
            got(berth, 404, problem(404, "No such berth")),
        ),
        is("another code", got(berth, 404, coded("B-1")), got(berth, 404, coded("B-2"))),
        is(
            "a member more in a success",
            got("GET /berths/A-3", 200, json!({"id": "A-3"})),
            got("GET /berths/A-3", 200, json!({"id": "A-3", "free": true})),
        ),
        is(
            "another member in an error",
            got(berth, 404, json!({"message": "gone", "code": "B-1"})),
            got(berth, 404, json!({"detail": "gone", "code": "B-1"})),
        ),
        is(
            "other methods in Allow",
            with(got("PUT /berths/A-9", 405, problem(405, "x")), "Allow", "GET"),
            with(got("PUT /berths/A-9", 405, problem(405, "x")), "Allow", "GET, DELETE"),
        ),
        is(
            "silence is an internal failure",
            json!({"request": {"method": "GET", "url": "https://harbour.example/berths/A-9"}, "response": null}),
            got(berth, 500, problem(500, "Internal Server Error")),
        ),
        // Another item may have come, which lacks an optional member; and names may be keys of data.
        is(
            "the last of many items lost a member",
            got(
                "GET /berths",
                200,
                json!([{"id": 1, "free": true}, {"id": 2, "free": true}, {"id": 3, "free": false}]),
            ),
            got(
                "GET /berths",
                200,
                json!([{"id": 1, "free": true}, {"id": 2, "free": true}, {"id": 3}]),
            ),
        ),
        is(
            "a map with other names",
            got("GET /berths", 200, by_name("north")),
            got("GET /berths", 200, by_name("west")),
        ),
        is(
            "a success of another status",
            sent("PUT /berths/A-9", &json!({"free": true}), 200, json!({"id": "A-9"})),
            sent("PUT /berths/A-9", &json!({"free": true}), 201, json!({"id": "A-9"})),
        ),
    ]
}

fn unchanged() -> Vec<ChangedExchange> {
    let berth = "GET /berths/A-9";
    let list = "GET /berths";
    let is = |kind, before, after| change(kind, Grade::Unchanged, before, after);
    let not_found = |detail: &str, trace: &str, at: &str| json!({"title": "Not Found", "status": 404, "detail": detail, "trace_id": trace, "timestamp": at});
    vec![
        is(
            "other prose, times and traces",
            got(berth, 404, not_found("There is no berth A-9.", "4f1a", "2027-04-05T06:07:08Z")),
            got(berth, 404, not_found("Berth A-9 is unknown.", "99c0", "2028-01-02T03:04:05Z")),
        ),
        is(
            "a longer list",
            got(list, 200, json!({"berths": [{"id": 1}]})),
            got(list, 200, json!({"berths": [{"id": 2}, {"id": 3}, {"id": 4}]})),
        ),
        is("an empty list", got(list, 200, json!([{"id": 1}])), got(list, 200, json!([]))),
        is(
            "a map with other ids",
            got(list, 200, json!({"berths": {"A-3": {"free": true}, "B-1": {"free": false}}})),
            got(list, 200, json!({"berths": {"C-12": {"free": true}}})),
        ),
        is(
            "a map with other languages",
            got(berth, 200, json!({"id": 1, "title": {"en": "Berth", "de": "Liegeplatz"}})),
            got(berth, 200, json!({"id": 1, "title": {"en": "Berth", "fr": "Poste"}})),
        ),
        is(
            "a map with other days",
            got(list, 200, json!({"free": {"2027-04-05": 3, "2027-04-06": 4}})),
            got(list, 200, json!({"free": {"2028-01-01": 1}})),
        ),
        is(
            "a value is null",
            got(berth, 200, json!({"id": 1, "until": "2027-04-05"})),
            got(berth, 200, json!({"id": 1, "until": null})),
        ),
        is(
            "a number with a fraction",
            got(berth, 200, json!({"depth_m": 3})),
            got(berth, 200, json!({"depth_m": 3.5})),
        ),
        is(
            "other layout, order of members, letter case of headers, parameters of the media type",
            with(
                plain(berth, 404, "application/json", "{\"code\":\"B-1\",\"message\":\"x\"}"),
                "RETRY-AFTER",
                "5",
            ),
            with(
                plain(
                    berth,
                    404,
                    "application/json; charset=utf-8",
                    "{\n  \"message\": \"x\",\n  \"code\": \"B-1\"\n}",
                ),
                "retry-after",
                "7",
            ),
        ),
        is(
            "pseudo headers",
            got(berth, 404, problem(404, "Not Found")),
            with(got(berth, 404, problem(404, "Not Found")), ":status", "404"),
        ),
        is(
            "dates, tags and ids in headers",
            with(
                with(got(berth, 404, problem(404, "x")), "Date", "Mon, 05 Apr 2027 06:07:08 GMT"),
                "ETag",
                "\"a\"",
            ),
            with(got(berth, 404, problem(404, "x")), "Date", "Sun, 02 Jan 2028 03:04:05 GMT"),
        ),
        is(
            "an error that names what was asked for in a member that is else stable",
            got(berth, 404, json!({"error": "berth 4711 was not found at 2027-04-05T06:07:08Z"})),
            got(berth, 404, json!({"error": "berth 4712 was not found at 2028-01-02T03:04:05Z"})),
        ),
    ]
}

fn verdict(comparison: &Comparison) -> Grade {
    let counts = comparison.counts;
    assert_eq!(counts.pairs(), 1, "{counts:?}");
    match (counts.regressed, counts.fixed, counts.changed) {
        (1, ..) => Grade::Regressed,
        (_, 1, _) => Grade::Fixed,
        (.., 1) => Grade::Changed,
        _ => Grade::Unchanged,
    }
}

fn versions(before: &[Value], after: &[Value]) -> Comparison {
    compared_as(before, after, None, ComparisonKind::Versions)
}

/// Every kind of change is called what it is, alone and among all the others.
#[test]
fn every_kind_of_change_is_called_what_it_is() {
    let all = [fixed(), regressed(), changed(), unchanged()];
    let mut wrong = Vec::new();
    for ChangedExchange { kind, verdict: due, before, after } in all.iter().flatten() {
        let found = versions(std::slice::from_ref(before), std::slice::from_ref(after));
        let is = verdict(&found);
        if is != *due {
            let told: Vec<_> = found.changes.keys().map(|(_, _, change)| change).collect();
            wrong.push(format!("{kind}: {} instead of {}: {told:?}", is.name(), due.name()));
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// The other way about, what was fixed is regressed, what regressed is fixed or another, and the same stays the same.
#[test]
fn the_other_way_about_a_change_is_the_other_way_about() {
    for ChangedExchange { kind, before, after, .. } in fixed() {
        let found = verdict(&versions(&[after], &[before]));
        // That a success holds an error, no contract says here; it is told beside the status.
        assert_eq!(found, Grade::Regressed, "{kind}");
    }
    for ChangedExchange { kind, before, after, .. } in unchanged() {
        assert_eq!(verdict(&versions(&[after], &[before])), Grade::Unchanged, "{kind}");
    }
}

/// What only varies by nature between two environments is the same.
#[test]
fn environments_differ_by_nature() {
    let problem_at = |host: &str| json!({"type": format!("https://{host}/problems/no-berth"), "title": "No such berth", "status": 404});
    let at =
        |host: &str, path: &str, body: Value| got(&format!("GET https://{host}{path}"), 404, body);
    let (live, staged) = ("harbour.example", "staging.harbour.example");
    let pairs = [
        (
            "the host in a problem type",
            at(live, "/berths/A-9", problem_at(live)),
            at(staged, "/berths/A-9", problem_at(staged)),
        ),
        (
            "what a gateway adds",
            with(at(live, "/berths/A-9", problem_at("x.example")), "X-Served-By", "edge-4"),
            at(staged, "/berths/A-9", problem_at("x.example")),
        ),
        (
            "the length of a list and what is null",
            got(&format!("GET https://{live}/berths"), 200, json!([{"id": 1, "until": null}])),
            got(&format!("GET https://{staged}/berths"), 200, json!([])),
        ),
    ];
    for (kind, live, staged) in pairs {
        let found = compared_as(&[live], &[staged], None, ComparisonKind::Environments);
        assert_eq!(verdict(&found), Grade::Unchanged, "{kind}: {:?}", found.changes);
    }
    // What is no matter of hosts is told.
    let other = json!({"type": "https://harbour.example/problems/other", "title": "No such berth", "status": 404});
    let found = compared_as(
        &[at(live, "/berths/A-9", problem_at(live))],
        &[at(staged, "/berths/A-9", other)],
        None,
        ComparisonKind::Environments,
    );
    assert_eq!(verdict(&found), Grade::Changed);
}

/// What a contract switches off is not told.
#[test]
fn what_a_contract_switches_off_is_not_told() {
    let contract = |severity: &str| {
        let text = format!(
            "contract = 1\n[error]\nshape = \"problem\"\n[severity]\n{severity}\n[fault.no-berth]\nstatus = 404\n\
             title = \"Not Found\"\nwhen = [\"resource-not-found\"]\n[endpoint.\"GET /berths/{{id}}\"]\nsuccess = [200]\n\
             faults = [\"no-berth\"]\n"
        );
        {
            let parsed = faithful_clerk_check::parse_contract(&text);
            parsed.contract.unwrap_or_else(|| panic!("{:?}", parsed.diagnostics))
        }
    };
    let berth = "GET /berths/A-9";
    let quiet = got(berth, 404, problem(404, "Not Found"));
    let mut leaking = problem(404, "Not Found");
    leaking["detail"] = json!(TRACE);
    let leaking = got(berth, 404, leaking);
    let lost = got("PUT /berths/A-9", 405, problem(405, "Method Not Allowed"));
    let allowed = with(lost.clone(), "Allow", "GET");
    for (severity, before, after, due) in [
        ("\"problem.detail-helps\" = \"off\"", &quiet, &leaking, Grade::Regressed),
        (
            "\"disclosure.stack-trace\" = \"off\"\n\"disclosure.file-path\" = \"off\"",
            &quiet,
            &leaking,
            Grade::Unchanged,
        ),
        ("\"problem.detail-helps\" = \"off\"", &allowed, &lost, Grade::Regressed),
        ("\"header.allow\" = \"off\"", &allowed, &lost, Grade::Unchanged),
    ] {
        let contract = contract(severity);
        let found = compared_as(
            std::slice::from_ref(before),
            std::slice::from_ref(after),
            Some(&contract),
            ComparisonKind::Versions,
        );
        assert_eq!(verdict(&found), due, "{severity}: {:?}", found.changes);
    }
}
