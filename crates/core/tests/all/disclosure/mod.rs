//! Texts that tell of a service's inside, and texts that only sound like it.

mod texts;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::HARBOUR;
use faithful_clerk_check::disclosure::DisclosureKind;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_recording::har;
use serde_json::json;

use texts::{TOLD, UNTOLD};

use DisclosureKind::{CodeName, Database, FilePath, InternalHost, Secret, StackTrace, Version};

/// What the clauses would find in an error with that detail.
fn found(detail: &str) -> Vec<DisclosureKind> {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    let body = json!({"type": "https://harbour.example/faults/no-such-berth",
        "title": "There is no such berth", "status": 404, "detail": detail});
    told(&contract, &[], &body.to_string())
}

fn told(contract: &ErrorContract, headers: &[(&str, &str)], body: &str) -> Vec<DisclosureKind> {
    let headers: Vec<_> =
        headers.iter().map(|(name, value)| json!({"name": name, "value": value})).collect();
    let entry = json!({
        "request": {"method": "GET", "url": "https://harbour.example/v1/berths/Z-99", "headers": []},
        "response": {"status": 404, "headers": headers, "content": {"text": body}},
    })
    .to_string();
    let exchange =
        har::exchange(entry.as_bytes(), faithful_clerk_model::address::Address::default()).unwrap();
    match classify(&exchange, contract, Credentials::Recorded) {
        Classification::Classified(classified) => {
            classified.disclosures().iter().map(|told| told.kind).collect()
        }
        Classification::Excluded(reason) => panic!("{reason}"),
    }
}

#[test]
fn texts_from_the_inside_are_known_by_their_sort() {
    let wrong: Vec<String> = TOLD
        .iter()
        .filter(|(kind, text)| found(text) != [*kind])
        .map(|(kind, text)| format!("{kind:?}: {text:?}: {:?}", found(text)))
        .collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn texts_that_only_sound_like_it_are_none() {
    let wrong: Vec<String> = UNTOLD
        .iter()
        .filter(|text| !found(text).is_empty())
        .map(|text| format!("{text:?}: {:?}", found(text)))
        .collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn headers_are_looked_at_and_those_for_readers_are_not() {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    for (name, value, sorts) in [
        ("X-Exception", "example.harbour.store.BerthNotFoundException", &[CodeName][..]),
        ("X-Debug-File", "/srv/harbour/berths.php", &[FilePath]),
        ("X-Backend", "10.0.3.17:8080", &[InternalHost]),
        ("Server", "nginx/1.25.3", &[Version]),
        ("X-Powered-By", "PHP/8.2.1", &[Version]),
        ("X-AspNet-Version", "4.0.30319", &[Version]),
        ("Server", "harbour", &[]),
        ("Location", "http://localhost:7878/v1/berths", &[]),
        ("Set-Cookie", "session=eyJhbGciOiJIUzI1NiJ9.eyJzdWIiOiI0NzExIn0.c2ln", &[]),
        ("WWW-Authenticate", "Bearer error_description=\"the token has expired\"", &[]),
        ("Link", "<https://harbour.example/docs>; rel=help", &[]),
        ("X-Request-Id", "3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77", &[]),
    ] {
        assert_eq!(told(&contract, &[(name, value)], "{}"), sorts, "{name}: {value}");
    }
}

#[test]
fn a_body_is_looked_at_to_its_depth_and_public_texts_are_passed_over() {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    let deep =
        json!({"a": [{"b": {"c": ["x", "duplicate key value violates unique constraint"]}}]});
    assert_eq!(told(&contract, &[], &deep.to_string()), [Database]);
    // Traceback (most recent call last):\n  File "/srv/tides.py", line 3
    let encoded =
        "VHJhY2ViYWNrIChtb3N0IHJlY2VudCBjYWxsIGxhc3QpOgogIEZpbGUgIi9zcnYvdGlkZXMucHkiLCBsaW5lIDM=";
    assert_eq!(told(&contract, &[], &json!({"debug": encoded}).to_string()), [StackTrace]);
    // A trace, and beside it, in another member, what the database said.
    let both = json!({"message": "UNIQUE constraint failed: vessels.id",
        "trace": ["at example.harbour.Berths.find(Berths.java:42)", "at java.lang.Thread.run(Thread.java:1)"]});
    assert_eq!(told(&contract, &[], &both.to_string()), [StackTrace, Database]);
    let local = HARBOUR.replace(
        "servers = [\"https://harbour.example/v1\"]",
        "servers = [\"https://harbour.example/v1\", \"http://localhost:7878/v1\"]\npublic = [\"gate.lan\"]",
    );
    let local = faithful_clerk_check::parse_contract(&local).contract.unwrap();
    let body =
        json!({"instance": "http://localhost:7878/v1/log/1", "detail": "ask at gate.lan for it"});
    assert_eq!(told(&local, &[], &body.to_string()), []);
    // The request for comes back.
    let echo = json!({"detail": "no berth /v1/berths/Z-99"});
    assert_eq!(told(&contract, &[], &echo.to_string()), []);
}

/// Traces as data, members that are secrets by their names, and the request's own credentials.
#[test]
fn structures_tell_what_no_text_does() {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    for (body, expected) in [
        // Frames as objects, as Java, PHP and JavaScript libraries write them.
        (
            json!({"trace": [{"className": "Berths", "methodName": "find", "fileName": "Berths.java", "lineNumber": 42}]}),
            &[StackTrace][..],
        ),
        (json!({"trace": [{"file": "/srv/harbour/berths.php", "line": 42}]}), &[StackTrace]),
        (
            json!({"error": {"frames": [{"function": "find", "file": "berths", "line": 42, "column": 9}]}}),
            &[StackTrace],
        ),
        // Lines of files that the caller sent, and lists without frames.
        (json!({"errors": [{"file": "plan.csv", "line": 42, "message": "no such berth"}]}), &[]),
        (json!({"errors": [{"line": 42, "column": 9, "message": "a comma is missing"}]}), &[]),
        (json!({"lines": [{"name": "north", "line": 4}]}), &[]),
        // Secrets by name.
        (json!({"config": {"client_secret": "q7Rk2pLx9s"}}), &[Secret]),
        (json!({"debug": {"api_key": "4f9a8c7d6e5b"}}), &[Secret]),
        (json!({"input": {"password": "Tide4711high"}}), &[Secret]),
        // Names alone, and values that only say what is wrong with one.
        (json!({"errors": {"password": "too_short"}}), &[]),
        (json!({"errors": {"password": ["has to have 8 characters"]}}), &[]),
        (json!({"password": null, "token": true, "api_key": ""}), &[]),
        (json!({"token": "invalid_token_2"}), &[]),
        (json!({"token_type": "Bearer4711"}), &[]),
    ] {
        assert_eq!(told(&contract, &[], &body.to_string()), expected, "{body}");
    }
}

#[test]
fn credentials_that_come_back_are_told() {
    let contract = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    let of = |name: &str, value: &str, detail: &str| {
        let entry = json!({
            "request": {"method": "GET", "url": "https://harbour.example/v1/berths/Z-99",
                "headers": [{"name": name, "value": value}]},
            "response": {"status": 404, "headers": [], "content": {"text": json!({"detail": detail}).to_string()}},
        })
        .to_string();
        let exchange =
            har::exchange(entry.as_bytes(), faithful_clerk_model::address::Address::default())
                .unwrap();
        match classify(&exchange, &contract, Credentials::Recorded) {
            Classification::Classified(classified) => {
                classified.disclosures().iter().map(|told| told.kind).collect::<Vec<_>>()
            }
            Classification::Excluded(reason) => panic!("{reason}"),
        }
    };
    for (name, value, detail, expected) in [
        (
            "Authorization",
            "Bearer tide-and-time-4711",
            "the token tide-and-time-4711 is unknown",
            &[Secret][..],
        ),
        ("Authorization", "Bearer tide-and-time-4711", "no such token", &[]),
        ("Cookie", "quay=north; session=9f8e7d6c5b", "session 9f8e7d6c5b has ended", &[Secret]),
        ("Cookie", "quay=north", "nothing in the north", &[]),
        ("X-Berth", "tide-and-time-4711", "no berth tide-and-time-4711", &[]),
    ] {
        assert_eq!(of(name, value, detail), expected, "{name}: {value}; {detail}");
    }
}
