//! What a contract says, and what it does not switch off.

use super::QUAY;
use crate::judging::clauses;

/// The warnings of a contract.
fn warnings(text: &str) -> Vec<String> {
    let parsed = faithful_clerk_check::parse_contract(text);
    assert!(parsed.contract.is_some(), "{:#?}", parsed.diagnostics);
    parsed.diagnostics.into_iter().map(|diagnostic| diagnostic.message).collect()
}

#[test]
fn no_phrase_of_the_contract_switches_a_standard_off() {
    let with = |headers: &str| {
        QUAY.replace("any-request = true", &format!("any-request = true\nheaders = {headers}"))
    };
    let busy = |value: &str| {
        format!(
            "HTTP/1.1 429 X\nRetry-After: {value}\nContent-Type: application/json\n\n{{\"detail\":\"too many a minute\"}}"
        )
    };
    let request = "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n{\"nights\":2}";
    for (headers, value, broken) in [
        ("{ Retry-After = \"integer\" }", "5", &[][..]),
        ("{ Retry-After = \"integer\" }", "5s", &["header.retry-after"]),
        ("{ Retry-After = \"string\" }", "5s", &["header.retry-after"]),
        ("{ Retry-After = \"integer at most 60\" }", "120", &["header.declared"]),
        ("{ Retry-After = \"integer\" }", "Tue, 15 Nov 2033 08:12:31 GMT", &["header.declared"]),
    ] {
        assert_eq!(clauses(&with(headers), request, &busy(value)), broken, "{headers}: {value}");
    }
    let signed = QUAY.replace(
        "when = [\"missing-credentials\", \"invalid-credentials\"]",
        "when = [\"missing-credentials\", \"invalid-credentials\"]\nheaders = { WWW-Authenticate = \"string matching harbour\" }",
    );
    let refused = |header: &str| {
        format!(
            "HTTP/1.1 401 X\n{header}Content-Type: application/json\n\n{{\"detail\":\"who are you?\"}}"
        )
    };
    let request = "POST /v1/bookings\nContent-Type: application/json\n\n{\"nights\":2}";
    for (header, broken) in [
        ("WWW-Authenticate: Bearer realm=\"harbour\"\n", &[][..]),
        ("", &["header.challenge"]),
        ("WWW-Authenticate: \"harbour\"\n", &["header.challenge"]),
        ("WWW-Authenticate: Bearer\n", &["header.declared"]),
    ] {
        assert_eq!(clauses(&signed, request, &refused(header)), broken, "{header}");
    }
}

#[test]
fn a_declared_shape_checks_every_body() {
    let shaped = |error: &str| {
        QUAY.replace(
            "[fault.invalid]",
            &format!(
                "[error]\n{error}\n\n[shape.message]\nmessage = \"string\"\n\n[fault.invalid]"
            ),
        )
    };
    let only_shape = shaped("shape = \"message\"");
    let both = shaped("shape = \"message\"\nmedia = \"application/json\"");
    let request = "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n{\"nights\":";
    let answer = |media: &str, body: &str| format!("HTTP/1.1 400 X\n{media}\n{body}");
    let (html, text, json) = (
        "Content-Type: text/html\n",
        "Content-Type: text/plain\n",
        "Content-Type: application/json\n",
    );
    for (contract, media, body, broken) in [
        (&only_shape, json, r#"{"message":"no JSON"}"#, &[][..]),
        (&only_shape, json, r#"{"detail":"no JSON"}"#, &["shape.declared"]),
        (&only_shape, html, "<h1>Bad Request</h1>", &["shape.declared"]),
        (&only_shape, text, "the body is no JSON", &["shape.declared"]),
        (&only_shape, "", "the body is no JSON", &["media.present", "shape.declared"]),
        (&only_shape, json, "the body is no JSON", &["media.matches-body"]),
        // The media type is the root.
        (&both, html, "<h1>Bad Request</h1>", &["media.declared"]),
        (&both, text, "the body is no JSON", &["media.declared"]),
    ] {
        assert_eq!(clauses(contract, request, &answer(media, body)), broken, "{media}{body}");
    }
}

#[test]
fn what_would_match_nothing_is_told_at_its_line() {
    let base = QUAY;
    for (more, told) in [
        // Groups.
        ("[group.a]\nendpoints = [\"* /bookings/**\"]\nauth = \"none\"", ""),
        (
            "[group.a]\nendpoints = [\"* /bookngs/**\"]\nauth = \"none\"",
            "this pattern matches no endpoint",
        ),
        (
            "[group.a]\nendpoints = [\"GET /bookings\", \"POST /*\"]",
            "this pattern matches no endpoint",
        ),
        // Cases.
        (
            "[case.a]\nrequest = \"POST /bookings\"\nbody = { \"/nights\" = \"exactly 7\" }\nexpect = \"taken\"",
            "",
        ),
        (
            "[case.a]\nrequest = \"POST /bookings\"\nbody = { \"/berths/*/id\" = \"exactly 7\" }\nexpect = \"taken\"",
            "no body of these requests has a member at `/berths/*/id`",
        ),
        (
            "[case.a]\nrequest = \"POST /bookings\"\nbody = { \"/nihgts\" = \"exactly 7\" }\nexpect = \"taken\"",
            "no body of these requests has a member at `/nihgts`",
        ),
        // Members that no format can hold, once.
        (
            "[fault.odd]\nstatus = 402\ntype = \"https://harbour.example/odd\"\ntitle = \"Odd\"\nmembers = { berth_id = \"string\" }\n[group.b]\nendpoints = [\"POST /bookings\"]\nfaults = [\"odd\"]",
            "",
        ),
        (
            "[fault.odd]\nstatus = 402\ntype = \"https://harbour.example/odd\"\ntitle = \"Odd\"\nmembers = { berth-id = \"string\" }\n[group.b]\nendpoints = [\"POST /bookings\"]\nfaults = [\"odd\"]",
            "not every format can hold a member called `berth-id`",
        ),
    ] {
        let found = warnings(&format!("{base}\n{more}\n"));
        let expected: Vec<&str> = Some(told).filter(|told| !told.is_empty()).into_iter().collect();
        assert_eq!(found, expected, "{more}");
    }
    // Precedence, and the member that identifies an entry.
    let ordered = QUAY.replace(
        "[everywhere]",
        "[everywhere]\nprecedence = [\"missing-credentials\", \"forbidden\", \"invalid-body\"]",
    );
    assert_eq!(warnings(&ordered), ["no fault is for `forbidden`, so its place decides nothing"]);
    let partial = |by: &str| {
        format!(
            "{QUAY}\n[shape.failed]\nid = \"string\"\ncode = \"string\"\n\n[endpoint.\"POST /arrivals\"]\nsuccess = [200]\npartial = {{ failures = \"/failed\", shape = \"failed\", requested = \"/arrivals\", succeeded = \"/done\", match-by = \"{by}\" }}\n"
        )
    };
    assert_eq!(warnings(&partial("id")), [] as [&str; 0]);
    assert_eq!(
        warnings(&partial("ref")),
        ["`ref` is no member of the shape `failed`, so no entry is matched"]
    );
}

/// Cases with `*`, and one that expects the service to fail.
#[test]
fn cases_reach_what_they_name() {
    let booking = |body: &str| {
        format!(
            "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n{body}"
        )
    };
    let answer = |status: u16| {
        format!(
            "HTTP/1.1 {status} X\nContent-Type: application/json\n\n{{\"detail\":\"in the way of {status}\"}}"
        )
    };
    let items = QUAY
        .replace("body-members = { nights = \"integer from 1 to 28\" }", "body-members = { items = \"array of item\" }\n\n[shape.item]\nid = \"integer\"\n\n[case.lost]\nrequest = \"POST /bookings\"\nbody = { \"/items/*/id\" = \"exactly 7\" }\nexpect = \"none\"");
    for (body, status, broken) in [
        (r#"{"items":[{"id":1},{"id":7}]}"#, 404, &[][..]),
        (r#"{"items":[{"id":1},{"id":7}]}"#, 409, &["status.fits-situation"]),
        (r#"{"items":[{"id":1},{"id":7}]}"#, 201, &["situation.requires-error"]),
        (r#"{"items":[{"id":1}]}"#, 201, &[]),
        (r#"{"items":[]}"#, 201, &[]),
    ] {
        assert_eq!(clauses(&items, &booking(body), &answer(status)), broken, "{status} to {body}");
    }
    let fails = QUAY
        .replace("[everywhere]", "[fault.unexpected]\nstatus = 500\n\n[case.known-defect]\nrequest = \"POST /bookings\"\nbody = { \"/nights\" = \"exactly 13\" }\nexpect = \"unexpected\"\n\n[everywhere]")
        .replace("\"down\", ", "\"down\", \"unexpected\", ");
    for (body, status, broken) in [
        (r#"{"nights":13}"#, 500, &[][..]),
        (r#"{"nights":13}"#, 201, &["situation.requires-error"]),
        (r#"{"nights":13}"#, 409, &["status.fits-situation"]),
        // A failure that nobody expects.
        (r#"{"nights":2}"#, 500, &["situation.valid-served"]),
        (r#"{"nights":99}"#, 500, &["status.fits-situation"]),
    ] {
        assert_eq!(clauses(&fails, &booking(body), &answer(status)), broken, "{status} to {body}");
    }
}

/// The type of a problem is absolute where the shape demands a URI, and should be anyway.
#[test]
fn a_shape_can_demand_an_absolute_type() {
    let problem = |kind: &str| {
        QUAY.replace(
            "[fault.none]\nstatus = 404",
            "[fault.none]\nstatus = 404\ntype = \"https://harbour.example/none\"\nshape = \"own\"",
        )
        .replace(
            "[everywhere]",
            &format!("[shape.own]\nlike = \"problem\"\ntype = \"{kind}\"\n\n[everywhere]"),
        )
    };
    let request = "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n{\"nights\":2}";
    let answer = |uri: &str| {
        format!(
            "HTTP/1.1 404 X\nContent-Type: application/problem+json\n\n{{\"type\":\"{uri}\",\"title\":\"None\",\"detail\":\"no berth is left\"}}"
        )
    };
    let found = |kind: &str, uri: &str| -> Vec<(String, String)> {
        let found = crate::judging::found(&problem(kind), request, &answer(uri));
        found.iter().map(|one| (one.clause.to_owned(), one.severity.name().to_owned())).collect()
    };
    let one = |severity: &str| vec![("problem.type-absolute".to_owned(), severity.to_owned())];
    assert_eq!(found("uri", "https://harbour.example/none"), []);
    assert_eq!(found("uri", "/none"), one("breach"));
    assert_eq!(found("uri reference", "/none"), one("warning"));
}
