//! Shapes, measured: bodies of known shape, and how they were put together, told apart and named.

use faithful_clerk_insight::survey::{ErrorCategory, Survey, SurveyedBody};
use serde_json::{Value, json};

use super::make::{got, sent, survey};

/// Every shape: its name, which errors it is compared with, how often it came, and the whole in a line.
fn shapes(survey: &Survey) -> Vec<(String, ErrorCategory, u64, String)> {
    let shape = |shape: &faithful_clerk_insight::survey::ErrorShape| {
        (shape.name.clone(), shape.category, shape.seen.count, shape.shape.phrase())
    };
    survey.shapes.iter().map(shape).collect()
}

fn errors(status: u16, bodies: &[Value]) -> Survey {
    let entries: Vec<Value> =
        bodies.iter().map(|body| got("POST /berths", status, body.clone())).collect();
    survey(&entries)
}

/// Bodies of one shape each: whatever the values, the order of members, what can be left out, how many
/// items, and which fields are the keys.
#[test]
fn one_shape_is_one_whatever_the_data() {
    for (about, status, bodies, phrase) in [
        (
            "an extension that is not always there",
            409,
            vec![
                json!({"type": "u:a", "title": "A", "status": 409, "detail": "x"}),
                json!({"status": 409, "title": "B", "type": "u:b", "berth_id": "A-3", "detail": "y"}),
                json!({"type": "u:c", "title": "C", "status": 409}),
            ],
            "{berth_id?: string, detail?: string, status: number, title: string, type: string}",
        ),
        (
            "lists of any length, and an empty one",
            422,
            vec![
                json!({"errors": [{"field": "a", "message": "x"}, {"field": "b", "message": "y"}]}),
                json!({"errors": [{"message": "z", "field": "c"}]}),
                json!({"errors": []}),
            ],
            "{errors: array of {field: string, message: string}}",
        ),
        (
            "an object keyed by field, other fields each time",
            422,
            vec![
                json!({"title": "x", "errors": {"nights": ["a"], "vessel": ["b", "c"]}}),
                json!({"title": "x", "errors": {"arrives": ["d"]}}),
            ],
            "{errors: map of array of string, title: string}",
        ),
        (
            "the whole keyed by field",
            400,
            vec![json!({"nights": ["a"], "vessel": ["b"]}), json!({"arrives": ["d"]})],
            "map of array of string",
        ),
        (
            "steps instead of a name, of any length and kind",
            422,
            vec![
                json!({"detail": [{"loc": ["body", "nights"], "msg": "x", "type": "y"}]}),
                json!({"detail": [{"loc": ["body", "crew", 0, "name"], "msg": "x", "type": "y"}]}),
            ],
            "{detail: array of {loc: array of string or number, msg: string, type: string}}",
        ),
        (
            "an object keyed by data under a name that nobody knows",
            409,
            (0..6).map(|n| json!({"title": "x", "by_berth": {format!("b{n}"): 1}})).collect(),
            "{by_berth: map of number, title: string}",
        ),
        (
            "null where others have text",
            409,
            vec![json!({"code": "a", "hint": null}), json!({"code": "b", "hint": "c"})],
            "{code: string, hint: string or null}",
        ),
    ] {
        let count = bodies.len() as u64;
        let survey = errors(status, &bodies);
        let shapes = shapes(&survey);
        assert_eq!(shapes.len(), 1, "{about}: {shapes:#?}");
        assert_eq!((shapes[0].2, shapes[0].3.as_str()), (count, phrase), "{about}");
    }
}

/// Bodies of two shapes that must not be taken for one.
#[test]
fn two_shapes_stay_two() {
    for (about, status, one, other) in [
        ("a text and a list", 409, json!({"message": "x"}), json!({"message": ["x"]})),
        ("a text and an object", 409, json!({"error": "x"}), json!({"error": {"code": 1}})),
        (
            "a list and an object keyed by field",
            422,
            json!({"errors": [{"field": "a", "message": "b"}]}),
            json!({"errors": {"a": "b"}}),
        ),
        (
            "entries with other names",
            422,
            json!({"errors": [{"field": "a", "message": "b"}]}),
            json!({"errors": [{"pointer": "/a", "detail": "b"}]}),
        ),
        (
            "the standard's names and a framework's",
            404,
            json!({"title": "x", "status": 404, "detail": "y"}),
            json!({"statusCode": 404, "message": "x", "error": "y"}),
        ),
        ("an object and a list of it", 409, json!({"title": "x"}), json!([{"title": "x"}])),
        (
            "a status as a text",
            404,
            json!({"title": "x", "status": 404}),
            json!({"title": "x", "status": "404"}),
        ),
    ] {
        let survey = errors(status, &[one, other]);
        assert_eq!(shapes(&survey).len(), 2, "{about}: {:#?}", shapes(&survey));
    }
}

#[test]
fn shapes_are_named_by_their_content() {
    let survey = errors(
        409,
        &[
            json!({"type": "u:a", "title": "A", "status": 409}),
            json!({"statusCode": 409, "message": "x", "error": "y"}),
            json!([{"code": 1, "text": "x"}]),
            json!("no"),
            json!({}),
        ],
    );
    let mut names: Vec<String> = shapes(&survey).into_iter().map(|(name, ..)| name).collect();
    names.sort();
    assert_eq!(
        names,
        ["array-of-code-text", "error-message-statusCode", "object", "problem", "string"]
    );
}

/// Every error is counted once: in a shape, or beside the shapes.
#[test]
fn counts_add_up() {
    let mut entries = Vec::new();
    for n in 0..400_u32 {
        // 400 shapes with nothing in common are too many to be told apart.
        entries.push(got(
            "GET /berths/1",
            409,
            json!({format!("only_{n}"): n, "x": {format!("y{n}"): [n]}}),
        ));
    }
    entries.push(got("GET /berths/1", 500, Value::Null));
    let mut page = got("GET /berths/1", 502, json!({}));
    page["response"]["content"] = json!({"size": 9, "text": "<html>no</html>"});
    page["response"]["headers"] = json!([{"name": "Content-Type", "value": "text/html"}]);
    entries.push(page);
    entries.push(json!({"request": {"method": "GET", "url": "https://harbour.example/berths/1"}, "response": null}));
    let survey = survey(&entries);
    let judgement = survey.judgement(ErrorCategory::Other).unwrap();
    let deviating: u64 = judgement.deviations.iter().map(|deviation| deviation.seen.count).sum();
    let most = judgement.most.map_or(0, |at| survey.shapes[at].seen.count);
    assert_eq!((judgement.count, most + deviating), (403, 403));
    let in_rows: u64 =
        survey.endpoints.iter().flat_map(|p| p.facts.rows.values()).map(|k| k.seen.count).sum();
    assert_eq!(in_rows, 403);
    let shaped: u64 = survey.shapes.iter().map(|shape| shape.seen.count).sum();
    let many: u64 = survey.many.values().map(|group| group.seen.count).sum();
    assert_eq!(shaped + many, 400);
    assert!(
        judgement.deviations.iter().any(|d| d.body == SurveyedBody::Other("no response".into()))
    );
}

/// Bodies of one shape, whose object has 10,000 different keys.
#[test]
fn ten_thousand_keys_are_one_shape() {
    let many: serde_json::Map<String, Value> =
        (0..10_000).map(|n| (format!("field_{n}"), json!(["is wrong"]))).collect();
    let mut bodies = vec![json!({"title": "x", "errors": many})];
    bodies
        .extend((0..500).map(|n| json!({"title": "x", "errors": {format!("other_{n}"): ["no"]}})));
    let survey = errors(422, &bodies);
    let shapes = shapes(&survey);
    assert_eq!(shapes.len(), 1, "{shapes:#?}");
    assert_eq!(
        (shapes[0].2, shapes[0].3.as_str()),
        (501, "{errors: map of array of string, title: string}")
    );
}

/// The majority, who deviates, and how.
#[test]
fn who_deviates_is_told_with_the_difference() {
    let problem = json!({"type": "u:x", "title": "x", "status": 404, "detail": "y"});
    let entries = [
        got("GET /berths/1", 404, problem.clone()),
        got("GET /berths/2", 404, problem.clone()),
        got("GET /vessels/1", 404, problem),
        got(
            "GET /tides/2027-01-01",
            409,
            json!({"status": "409", "message": "y", "title": "x", "type": "u:y"}),
        ),
    ];
    let survey = survey(&entries);
    let judgement = survey.judgement(ErrorCategory::Other).unwrap();
    assert_eq!((judgement.count, judgement.most), (4, Some(0)));
    let [deviation] = judgement.deviations.as_slice() else { panic!("{judgement:#?}") };
    let told: Vec<String> = deviation
        .differences
        .iter()
        .map(|d| format!("{} {:?} {} {}", d.pointer, d.kind, d.usual, d.here))
        .collect();
    assert_eq!(
        told,
        ["/detail Missing string ", "/status OtherType integer string", "/message Added  string"]
    );
    assert_eq!(deviation.endpoints.keys().collect::<Vec<_>>(), ["GET /tides/{date}"]);
}

/// What is no error's is not among them: a HEAD without a body, a truncated response.
#[test]
fn what_cannot_be_known_is_no_deviation() {
    let mut cut = got("GET /berths/1", 404, json!({"title": "x"}));
    cut["response"]["content"] = json!({"size": 4});
    let entries = [
        got("GET /berths/2", 404, json!({"title": "x", "status": 404})),
        got("HEAD /berths/2", 404, Value::Null),
        cut,
        got("GET /berths/1", 200, json!({"id": 1})),
    ];
    let survey = survey(&entries);
    let judgement = survey.judgement(ErrorCategory::Other).unwrap();
    assert_eq!((judgement.count, judgement.deviations.len()), (1, 0), "{judgement:#?}");
}

/// What a service names one at a time is only seen where a field was fixed: each table row is a request's body and the
/// fields that the response names.
#[test]
fn fields_that_are_named_one_at_a_time_are_seen() {
    let both = json!({"nights": 99, "vessel": "x"});
    let fixed = json!({"nights": 3, "vessel": "x"});
    let other = json!({"nights": 3, "vessel": "y"});
    for (about, requests, later, several) in [
        ("one, and then the other", vec![(&both, "nights"), (&fixed, "vessel")], Some("vessel"), 0),
        ("both at once", vec![(&both, "nights vessel"), (&fixed, "vessel")], None, 1),
        ("the other was changed, too", vec![(&both, "nights"), (&other, "vessel")], None, 0),
        ("nothing was fixed", vec![(&both, "nights"), (&both, "nights")], None, 0),
        ("in the other order", vec![(&fixed, "vessel"), (&both, "nights")], Some("vessel"), 0),
    ] {
        let entries: Vec<Value> = requests
            .iter()
            .map(|(body, named)| {
                let errors: Vec<Value> = named
                    .split(' ')
                    .map(|field| json!({"field": field, "message": "not so"}))
                    .collect();
                sent("POST /moorings", body, 422, json!({ "errors": errors }))
            })
            .collect();
        let naming = survey(&entries).naming;
        let found = naming.later.first().map(|one| one.field.as_str());
        assert_eq!((found, naming.several.count), (later, several), "{about}");
    }
}

/// More refused requests than are compared with each other: it is told, in any order.
#[test]
fn more_refused_requests_than_are_compared_are_told() {
    let refused = |at: usize| {
        let refusal = json!({"errors": [{"field": "nights", "message": "no"}]});
        sent("POST /reservations", &json!({"nights": at}), 422, refusal)
    };
    for (count, is_bounded) in [(16, false), (17, true)] {
        let entries: Vec<Value> = (0..count).map(refused).collect();
        assert_eq!(survey(&entries).naming.is_bounded, is_bounded, "{count}");
    }
}
