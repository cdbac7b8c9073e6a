//! Pairs and what is different in them, measured: two recordings each, of which is known what became of what.

use std::slice::from_ref;

use faithful_clerk_insight::compare::{
    Closeness, Comparability, Comparison, ComparisonKind, PairCounts,
};
use serde_json::{Value, json};

use super::make::{compared, compared_as, got, sent};

fn berth(id: &str) -> Value {
    json!({"id": id, "length_m": 12, "depth_m": 3.5})
}

fn problem(status: u16, title: &str) -> Value {
    json!({"title": title, "status": status, "detail": "Some words about it."})
}

fn counts(regressed: u64, fixed: u64, changed: u64, same: u64) -> PairCounts {
    PairCounts { regressed, fixed, changed, unchanged: same, ..PairCounts::default() }
}

/// Every change, as `grade endpoint what place rest`.
fn told(comparison: &Comparison) -> Vec<String> {
    let change =
        |((_, endpoint, change), _): (&(_, String, faithful_clerk_insight::compare::Change), _)| {
            let place =
                change.location.as_deref().map(|place| format!(" {place}")).unwrap_or_default();
            format!("{} {endpoint} {}{place}{}", change.grade.name(), change.what, change.rest)
        };
    comparison.changes.iter().map(change).collect()
}

/// A contract with rules for a body.
const RESERVATIONS: &str = r#"
    contract = 1
    [error]
    shape = "problem"
    [fault.invalid]
    status = 422
    title = "Not valid"
    when = ["invalid-body"]
    [endpoint."POST /reservations"]
    success = [201]
    faults = ["invalid"]
    [endpoint."POST /reservations".body-members]
    nights = "integer from 1 to 28"
    berth = "optional string"
"#;

fn many_members(count: usize) -> Value {
    (0..count).map(|at| (format!("member_{at:02}"), json!(at))).collect()
}

/// One request each, what it got before and after, and what is to be said of it. Written beforehand.
#[test]
fn what_became_of_an_answer_is_said() {
    let list = |items: &[Value]| json!({"berths": items});
    for (before, after, said) in [
        ((200, berth("1")), (200, berth("1")), vec![]),
        ((200, berth("1")), (200, json!({"depth_m": 1, "length_m": 7.5, "id": "other"})), vec![]),
        (
            (200, berth("1")),
            (200, json!({"id": "1", "length_m": 12})),
            vec!["regressed GET /x no longer has /depth_m"],
        ),
        (
            (200, berth("1")),
            (200, json!({"id": 1, "length_m": 12, "depth_m": 3.5, "quay": "north"})),
            vec![
                "regressed GET /x has another JSON type at /id: integer instead of string",
                "changed GET /x also has /quay",
            ],
        ),
        ((200, list(&[])), (200, list(&[berth("1")])), vec![]),
        (
            (200, list(&[berth("1"), berth("2")])),
            (200, list(&[json!({"id": "1", "length_m": 2})])),
            vec!["regressed GET /x no longer has /berths/*/depth_m"],
        ),
        // Objects keyed by ids are maps: other ids are no other members.
        (
            (200, json!({"by_id": {"A-3": {"free": true}, "B-1": {"free": true}}})),
            (200, json!({"by_id": {"C-7": {"free": false}}})),
            vec![],
        ),
        // Names with a number are names, and an object may have ninety of them.
        (
            (200, json!({"line_1": "a", "line_2": "b"})),
            (200, json!({"line_1": "a", "line_3": "b"})),
            vec!["regressed GET /x no longer has /line_2", "changed GET /x also has /line_3"],
        ),
        (
            (200, many_members(90)),
            (200, many_members(89)),
            vec!["regressed GET /x no longer has /member_89"],
        ),
        (
            (200, berth("1")),
            (500, problem(500, "x")),
            vec!["regressed GET /x responds 500 instead of 200"],
        ),
        (
            (500, problem(500, "x")),
            (404, problem(404, "y")),
            vec!["fixed GET /x responds 404 instead of 500"],
        ),
        (
            (404, problem(404, "y")),
            (500, problem(500, "x")),
            vec!["regressed GET /x responds 500 instead of 404"],
        ),
        (
            (400, problem(400, "x")),
            (422, problem(422, "x")),
            vec!["changed GET /x responds 422 instead of 400"],
        ),
        (
            (404, problem(404, "x")),
            (404, problem(404, "y")),
            vec!["changed GET /x has another /title: \"y\" instead of \"x\""],
        ),
        // Prose, times and traces vary by nature.
        (
            (
                404,
                json!({"title": "x", "detail": "a", "timestamp": "2027-01-01T00:00:00Z", "traceId": "1"}),
            ),
            (
                404,
                json!({"title": "x", "detail": "b", "timestamp": "2028-01-01T00:00:00Z", "traceId": "2"}),
            ),
            vec![],
        ),
        ((404, Value::Null), (404, problem(404, "x")), vec!["fixed GET /x has a body now, JSON"]),
        (
            (404, problem(404, "x")),
            (404, Value::Null),
            vec!["regressed GET /x no longer has a body"],
        ),
        (
            (404, json!({"title": "x", "status": 400})),
            (404, json!({"title": "x", "status": 404})),
            vec!["fixed GET /x has another /status: \"404\" instead of \"400\""],
        ),
        (
            (422, json!({"errors": [{"field": "a", "message": "x"}]})),
            (
                422,
                json!({"errors": [{"field": "a", "message": "x"}, {"field": "b", "message": "x"}]}),
            ),
            vec!["fixed GET /x also reports the invalid b"],
        ),
        (
            (
                422,
                json!({"errors": [{"field": "a", "message": "x"}, {"field": "b", "message": "x"}]}),
            ),
            (422, json!({"errors": [{"field": "b", "message": "x"}]})),
            vec!["regressed GET /x no longer reports the invalid a"],
        ),
        (
            (
                500,
                json!({"title": "x", "trace": "\tat example.harbour.Berths.byId(Berths.java:88)"}),
            ),
            (500, json!({"title": "x", "trace": "none"})),
            vec!["fixed GET /x no longer discloses a Java or Kotlin trace"],
        ),
        (
            (200, berth("1")),
            (200, json!({"success": false, "error": "it failed"})),
            vec![
                "regressed GET /x has an error in a success",
                "regressed GET /x no longer has /depth_m",
                "regressed GET /x no longer has /id",
                "regressed GET /x no longer has /length_m",
                "changed GET /x also has /error",
                "changed GET /x also has /success",
            ],
        ),
    ] {
        let was = [got("GET /x", before.0, before.1.clone())];
        let is = [got("GET /x", after.0, after.1.clone())];
        assert_eq!(told(&compared(&was, &is, None)), said, "{} → {}", before.1, after.1);
    }
}

#[test]
fn an_answer_that_never_came_and_headers_that_are_due() {
    let unanswered =
        json!({"request": {"method": "GET", "url": "https://harbour.example/x"}, "response": null});
    let answered = got("GET /x", 200, berth("1"));
    let was = from_ref(&unanswered);
    let is = from_ref(&answered);
    assert_eq!(told(&compared(was, is, None)), ["fixed GET /x gets a response now"]);
    assert_eq!(told(&compared(is, was, None)), ["regressed GET /x no longer gets a response"]);
    let header = |status: u16, name: &str, value: &str| {
        let mut entry = got("GET /x", status, problem(status, "x"));
        let field = json!({"name": name, "value": value});
        entry["response"]["headers"].as_array_mut().unwrap().push(field);
        [entry]
    };
    let bare = |status: u16| [got("GET /x", status, problem(status, "x"))];
    for (before, after, said) in [
        (
            header(405, "Allow", "GET, PUT"),
            bare(405),
            "regressed GET /x no longer has the header allow",
        ),
        (
            bare(401),
            header(401, "WWW-Authenticate", "Bearer"),
            "fixed GET /x has the header www-authenticate now",
        ),
        (
            header(405, "Allow", "GET"),
            header(405, "Allow", "GET, PUT"),
            "changed GET /x has another header allow: GET, PUT instead of GET",
        ),
        (header(409, "X-Hint", "a"), bare(409), "changed GET /x no longer has the header x-hint"),
    ] {
        assert_eq!(told(&compared(&before, &after, None)), [said]);
    }
    // Order in a list, letter case of a name, and values that are made anew make no difference.
    for (before, after) in [
        (header(405, "Allow", "GET, PUT"), header(405, "allow", "PUT,GET")),
        (header(404, "X-Request-Id", "1"), header(404, "X-Request-Id", "2")),
        (header(404, "Date", "now"), bare(404)),
    ] {
        assert!(told(&compared(&before, &after, None)).is_empty());
    }
}

/// The service makes up ids; each run has others. Everything finds its partner all the same.
#[test]
fn ids_that_the_service_made_up_are_followed() {
    let run = |first: &str, second: &str| {
        let booking = json!({"berth_id": "A-3", "nights": 3});
        vec![
            sent("POST /reservations", &booking, 201, json!({"id": first, "nights": 3})),
            sent("POST /reservations", &booking, 201, json!({"id": second, "nights": 3})),
            got(&format!("GET /reservations/{first}"), 200, json!({"id": first, "nights": 3})),
            got(&format!("DELETE /reservations/{second}"), 204, Value::Null),
            got(&format!("GET /reservations/{second}"), 404, problem(404, "gone")),
            sent("POST /check-ins", &json!({"reservation": first}), 200, json!({"ok": true})),
            got("GET /reservations/r-000000", 404, problem(404, "gone")),
        ]
    };
    let comparison = compared(&run("r-7f3a21", "r-7f3a22"), &run("r-99b0c4", "r-99b0c5"), None);
    assert_eq!(comparison.counts, counts(0, 0, 0, 7), "{:#?}", comparison.changes);
    assert_eq!(comparison.closeness.get(&Closeness::Linked), Some(&4));
    assert_eq!(comparison.closeness.get(&Closeness::Same), Some(&3));
    // The second one's fate is not the first one's.
    let mut after = run("r-99b0c4", "r-99b0c5");
    after[4] = got("GET /reservations/r-99b0c5", 200, json!({"id": "r-99b0c5", "nights": 3}));
    let comparison = compared(&run("r-7f3a21", "r-7f3a22"), &after, None);
    assert_eq!(told(&comparison), ["changed GET /reservations/{id} responds 200 instead of 404"]);
}

/// Order and repetition: the request once more shifts nothing.
#[test]
fn one_more_of_the_same_is_no_difference() {
    let ok = got("GET /jobs/1", 200, json!({"state": "running"}));
    let gone = got("GET /jobs/1", 404, problem(404, "gone"));
    let other = got("GET /berths/1", 200, berth("1"));
    let before = [ok.clone(), ok.clone(), ok.clone(), gone.clone(), other.clone()];
    let after = [other, ok, gone];
    let comparison = compared(&before, &after, None);
    assert_eq!(comparison.counts, PairCounts { more_often: 2, ..counts(0, 0, 0, 3) });
}

/// The request alike, with other values, is compared; a known id is not compared with an unknown one.
#[test]
fn what_is_only_alike_is_compared_with_care() {
    let before = [
        got("GET /berths/1", 200, berth("1")),
        got("GET /berths/999", 404, problem(404, "x")),
        sent("POST /reservations", &json!({"vessel": "OB1", "nights": 1}), 201, json!({"id": 4})),
    ];
    let after = [
        got("GET /berths/2", 200, json!({"id": "2", "length_m": 3})),
        got("GET /berths/3", 500, problem(500, "x")),
        sent("POST /reservations", &json!({"nights": 2, "vessel": "OB2"}), 500, problem(500, "x")),
    ];
    let comparison = compared(&before, &after, None);
    assert_eq!(
        told(&comparison),
        [
            "regressed GET /berths/{id} no longer has /depth_m",
            "regressed POST /reservations responds 500 instead of 201",
        ]
    );
    let PairCounts { only_before, only_after, .. } = comparison.counts;
    assert_eq!((only_before, only_after), (1, 1), "an unknown id is no partner for a failure");
}

/// A request that is only alike may be in another situation: what was served is no partner for what was refused, and with a
/// contract requests with different things wrong are no partners at all. What failed is a partner for anything.
#[test]
fn requests_in_different_situations_are_no_pair() {
    let stay = |nights: Value, status: u16, body: Value| {
        sent("POST /reservations", &json!({"nights": nights}), status, body)
    };
    let refused = || json!({"title": "Not valid", "status": 422});
    let served = stay(json!(3), 201, json!({"id": 1}));
    let too_long = stay(json!(99), 422, refused());
    let failed = stay(json!(4), 500, problem(500, "x"));
    let no_pair = compared(from_ref(&served), from_ref(&too_long), None);
    assert_eq!(no_pair.counts.pairs(), 0);
    let one_each = compared(&[served.clone(), too_long.clone()], from_ref(&failed), None);
    assert_eq!((one_each.counts.pairs(), one_each.counts.regressed), (1, 1));
    let fixed = compared(&[failed], &[too_long], None);
    assert_eq!(fixed.counts, counts(0, 1, 0, 0));
    // Both refused, for different reasons: with a contract that is known.
    let contract = faithful_clerk_check::parse_contract(RESERVATIONS).contract.unwrap();
    let by_rule = stay(json!(0), 422, refused());
    let missing = sent("POST /reservations", &json!({"nights": 3}), 409, refused());
    let pairs = |after: &Value| compared(from_ref(&by_rule), from_ref(after), Some(&contract));
    assert_eq!(pairs(&missing).counts.pairs(), 0);
    assert_eq!(pairs(&stay(json!(77), 422, refused())).counts.pairs(), 1);
    assert_eq!(compared(from_ref(&by_rule), &[missing], None).counts.pairs(), 1);
}

/// Other bases, other hosts.
#[test]
fn environments_have_bases_of_their_own() {
    let paths = ["/berths/1", "/berths/2", "/vessels/1"];
    let at = |base: &str| -> Vec<Value> {
        paths.iter().map(|path| got(&format!("GET {base}{path}"), 200, berth("1"))).collect()
    };
    let (live, local) = (at("https://harbour.example/api/v2"), at("http://127.0.0.1:7878"));
    let comparison = compared_as(&live, &local, None, ComparisonKind::Environments);
    assert_eq!(comparison.counts, counts(0, 0, 0, 3));
    // Two services have nothing in common, and that is said.
    let other = [got("GET https://tides.example/high", 200, json!({"at": "03:12"}))];
    assert_eq!(compared(&live, &other, None).standing(), Comparability::Apart);
    assert_eq!(compared(&[], &[], None).standing(), Comparability::Nothing);
    assert_eq!(compared(&live, &[], None).standing(), Comparability::Nothing);
    let options = [got("OPTIONS /berths/1", 204, Value::Null)];
    assert_eq!(compared(&options, &options, None).standing(), Comparability::AllExcluded);
    assert_eq!(compared(&live, &live, None).standing(), Comparability::Compared);
}

/// Two callers: who they are makes no other request of it, and what one may and the other may not is no
/// mistake.
#[test]
fn callers_are_compared_by_what_they_ask() {
    let caller = |token: Option<&str>, status: u16, body: Value| {
        let mut entry = got("GET /ledger/1", status, body);
        if let Some(token) = token {
            entry["request"]["headers"] = json!([{"name": "Authorization", "value": token}]);
        }
        [entry]
    };
    let clerk = caller(Some("Bearer a"), 200, berth("1"));
    let guest = caller(None, 401, problem(401, "x"));
    let comparison = compared_as(&clerk, &guest, None, ComparisonKind::Callers);
    assert_eq!(comparison.counts, counts(0, 0, 1, 0));
    // At two times they are two requests.
    assert_eq!(compared(&clerk, &guest, None).counts.pairs(), 0);
}

/// With a contract: a refusal that was due is a fix, though the status went up a class.
#[test]
fn a_contract_knows_what_is_a_fix() {
    let contract = faithful_clerk_check::parse_contract(RESERVATIONS).contract.unwrap();
    let wrong = json!({"nights": 99});
    let before = [sent("POST /reservations", &wrong, 201, json!({"id": 1}))];
    let refusal = json!({"title": "Not valid", "status": 422, "errors": [{"pointer": "/nights", "detail": "at most 28"}]});
    let after = [sent("POST /reservations", &wrong, 422, refusal)];
    let with = compared(&before, &after, Some(&contract));
    assert_eq!(with.counts, counts(0, 1, 0, 0), "{:#?}", with.changes);
    // The finding goes with the status, and is not told beside it.
    assert_eq!(told(&with), ["fixed POST /reservations responds 422 instead of 201"]);
    let without = compared(&before, &after, None);
    assert_eq!(without.counts, counts(1, 0, 0, 0));
    // The other way about a finding came.
    let back = compared(&after, &before, Some(&contract));
    assert_eq!(back.counts, counts(1, 0, 0, 0), "{:#?}", back.changes);
}

/// With a contract, a response that is right now is fixed, whatever the status, and whoever names a valid field no longer.
#[test]
fn by_a_contract_a_response_that_is_right_now_is_fixed() {
    let contract = faithful_clerk_check::parse_contract(RESERVATIONS).contract.unwrap();
    let wrong = json!({"nights": 99, "berth": "A-3"});
    let errors = |fields: &[&str]| -> Value {
        fields.iter().map(|field| json!({"pointer": field, "detail": "not valid"})).collect()
    };
    let refusal =
        |fields: &[&str]| json!({"title": "Not valid", "status": 422, "errors": errors(fields)});
    let conflict = json!({"title": "Conflict", "status": 409});
    for (before, after, grade) in [
        // A valid field is no longer named; an invalid one is.
        ((422, refusal(&["/nights", "/berth"])), (422, refusal(&["/nights"])), "fixed"),
        ((422, refusal(&["/nights"])), (422, refusal(&["/nights", "/berth"])), "regressed"),
        ((422, refusal(&["/berth"])), (422, refusal(&["/nights"])), "fixed"),
        // Of two statuses of one class one is right.
        ((409, conflict.clone()), (422, refusal(&["/nights"])), "fixed"),
        ((422, refusal(&["/nights"])), (409, conflict), "regressed"),
        ((422, refusal(&["/nights"])), (201, json!({"id": 1})), "regressed"),
    ] {
        let exchange = |(status, body): &(u16, Value)| {
            sent("POST /reservations", &wrong, *status, body.clone())
        };
        let found = compared(&[exchange(&before)], &[exchange(&after)], Some(&contract));
        let (regressed, fixed) = if grade == "fixed" { (0, 1) } else { (1, 0) };
        let told = told(&found);
        assert_eq!(found.counts, counts(regressed, fixed, 0, 0), "{before:?} {after:?}: {told:#?}");
    }
}
