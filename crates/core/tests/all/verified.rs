//! What a check mark stands for: tables of what is looked at, what is left open, and what no rule switches off.

use faithful_clerk_check::Check;
use faithful_clerk_check::grid::{CellMark, Grid};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::situation::Situation;
use faithful_clerk_recording::Source;

use crate::judging::clauses;

fn contract(text: &str) -> ErrorContract {
    let parsed = faithful_clerk_check::parse_contract(text);
    parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics))
}

/// The warnings of a contract.
fn warnings(text: &str) -> Vec<String> {
    let parsed = faithful_clerk_check::parse_contract(text);
    assert!(parsed.contract.is_some(), "{:#?}", parsed.diagnostics);
    parsed.diagnostics.into_iter().map(|diagnostic| diagnostic.message).collect()
}

const QUAY: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[fault.invalid]
status = 422
when = ["invalid-body", "invalid-parameters"]

[fault.malformed]
status = 400
when = ["malformed-body"]

[fault.unsupported]
status = 415
when = ["unsupported-media-type"]

[fault.no-credentials]
status = 401
when = ["missing-credentials", "invalid-credentials"]

[fault.none]
status = 404
when = ["resource-not-found"]

[fault.taken]
status = 409

[fault.busy]
status = 429
any-request = true

[fault.down]
status = 503
when = ["service-unavailable"]

[everywhere]
faults = ["busy", "down", "no-credentials"]

[endpoint."POST /bookings"]
success = [201]
faults = ["invalid", "malformed", "unsupported", "none", "taken"]
auth = "required"
accepts = ["application/json"]
body-members = { nights = "integer from 1 to 28" }
"#;

/// The mark of the cell that one exchange is in.
fn mark(contract: &ErrorContract, body: &str, status: u16) -> (Option<Situation>, CellMark) {
    let text = format!("{{\"detail\":\"status {status} it is\"}}");
    let entry = serde_json::json!({
        "request": {
            "method": "POST", "url": "https://harbour.example/v1/bookings",
            "headers": [
                {"name": "Authorization", "value": "Bearer x"},
                {"name": "Content-Type", "value": "application/json"},
            ],
            "postData": {"mimeType": "application/json", "text": body},
        },
        "response": {
            "status": status,
            "headers": [
                {"name": "Content-Type", "value": "application/json"},
                {"name": "WWW-Authenticate", "value": "Bearer"},
                {"name": "Retry-After", "value": "5"},
            ],
            "content": {"mimeType": "application/json", "text": text},
        },
    });
    let lines = format!("{entry}\n");
    let mut ledger = Check::new(contract).recording(Source::of(lines.as_bytes()), 0);
    ledger.conclude(contract);
    let grid = Grid::of(contract, &ledger);
    let (row, cells) = grid.rows.first().unwrap();
    assert_eq!(row.name(contract), "POST /bookings");
    let covered = |(_, (mark, _)): &(&Option<Situation>, &(CellMark, _))| {
        !matches!(mark, CellMark::NotCovered | CellMark::NotApplicable)
    };
    let mut found = grid.columns.iter().zip(cells).filter(covered);
    let (column, (mark, _)) = found.next().unwrap();
    assert!(found.next().is_none());
    (*column, *mark)
}

#[test]
fn a_cell_is_met_only_by_a_response_about_its_situation() {
    let contract = contract(QUAY);
    let (valid, invalid, malformed) = (r#"{"nights":2}"#, r#"{"nights":99}"#, r#"{"nights":"#);
    for (body, status, column, expected) in [
        (valid, 201, None, CellMark::Met),
        (invalid, 422, Some(Situation::InvalidBody), CellMark::Met),
        (invalid, 201, Some(Situation::InvalidBody), CellMark::Broken),
        (invalid, 500, Some(Situation::InvalidBody), CellMark::Broken),
        (malformed, 400, Some(Situation::MalformedBody), CellMark::Met),
        // Right for any request, and about none of them.
        (invalid, 429, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 503, Some(Situation::InvalidBody), CellMark::NotChecked),
        (malformed, 429, Some(Situation::MalformedBody), CellMark::NotChecked),
        // Allowed, as no request shows that they are wrong; but not about the body.
        (invalid, 401, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 404, Some(Situation::InvalidBody), CellMark::NotChecked),
        (invalid, 409, Some(Situation::InvalidBody), CellMark::NotChecked),
        // A valid request has the situation that the response tells of.
        (valid, 429, Some(Situation::TooManyRequests), CellMark::Met),
        (valid, 404, Some(Situation::ResourceNotFound), CellMark::Met),
    ] {
        assert_eq!(mark(&contract, body, status), (column, expected), "{status} to {body}");
    }
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

/// A description, and what it documents for one operation.
const DESCRIBED: &str = r#"{
  "openapi": "3.1.0", "info": {"title": "Quay", "version": "1"},
  "servers": [{"url": "https://harbour.example/v1"}],
  "components": {"securitySchemes": {
    "token": {"type": "http", "scheme": "bearer"},
    "basic": {"type": "http", "scheme": "basic"},
    "key": {"type": "apiKey", "in": "header", "name": "X-Quay-Key"},
    "ask": {"type": "apiKey", "in": "query", "name": "key"},
    "crumb": {"type": "apiKey", "in": "cookie", "name": "quay"}}},
  "paths": {"/bookings": {"get": {"security": SECURITY,
    "responses": {"200": {"description": "ok"}, "404": {"description": "none"}, "4XX": {"description": "other"}, "default": {"description": "any"}}}}}
}"#;

fn described(contract: &str, security: &str) -> ErrorContract {
    let folder =
        crate::description::folder(&[("api.json", &DESCRIBED.replace("SECURITY", security))]);
    let parsed = faithful_clerk_check::parse_contract_with_files(contract, &folder);
    parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics))
}

/// The clauses about the status that a response breaks.
fn statuses(contract: &ErrorContract, status: u16) -> Vec<&'static str> {
    let answer = format!(
        "HTTP/1.1 {status} X\nContent-Type: application/json\n\n{{\"detail\":\"it is {status}\"}}"
    );
    let found =
        crate::judging::found_by(contract, "GET /v1/bookings\nAuthorization: Bearer x", &answer);
    found.into_iter().map(|one| one.clause).filter(|clause| clause.starts_with("status.")).collect()
}

#[test]
fn the_lists_of_the_contract_win() {
    let bare = "contract = 1\nopenapi = \"api.json\"\n";
    let own = "contract = 1\nopenapi = \"api.json\"\n[fault.taken]\nstatus = 409\n[endpoint.\"GET /bookings\"]\nfaults = [\"taken\"]\n";
    let admitted = own.replace("contract = 1\n", "contract = 1\ndocumented = \"admitted\"\n");
    let everywhere = "contract = 1\nopenapi = \"api.json\"\n[fault.taken]\nstatus = 409\n[everywhere]\nfaults = [\"taken\"]\n";
    let other = &["status.declared"][..];
    for (contract, status, broken) in [
        // The description alone: its ranges and its default admit what they say.
        (bare, 404, &[][..]),
        (bare, 409, &[]),
        (bare, 410, &[]),
        // The contract names the faults of the endpoint: only what is documented by its own status is admitted besides.
        (own, 409, &[]),
        (own, 404, &[]),
        (own, 410, other),
        (own, 422, other),
        (&admitted, 410, &[]),
        // Faults of everywhere are not the endpoint's own list.
        (everywhere, 410, &[]),
        // What is no status code at all is admitted by nobody.
        (bare, 600, &["status.registered"]),
        (bare, 799, &["status.registered"]),
        (&admitted, 600, &["status.registered"]),
    ] {
        assert_eq!(
            statuses(&described(contract, "[]"), status),
            broken,
            "{status} under {contract}"
        );
    }
}

/// The situations that hold, and those that are open.
fn seen(contract: &ErrorContract, request: &str) -> (Vec<&'static str>, Vec<&'static str>) {
    crate::judging::classified(contract, request, "HTTP/1.1 200 OK", |classified| {
        let names = |set: faithful_clerk_model::situation::SituationSet| {
            set.iter().map(Situation::name).collect()
        };
        (names(classified.situations.holds), names(classified.situations.open))
    })
}

#[test]
fn credentials_are_those_of_the_scheme() {
    let contract = "contract = 1\nopenapi = \"api.json\"\n";
    for (security, request, missing) in [
        (r#"[{"token": []}]"#, "GET /v1/bookings\nAuthorization: Bearer x", false),
        (r#"[{"token": []}]"#, "GET /v1/bookings\nAuthorization: bearer x", false),
        (r#"[{"token": []}]"#, "GET /v1/bookings\nAuthorization: Basic eDp5", true),
        (r#"[{"token": []}]"#, "GET /v1/bookings", true),
        (r#"[{"basic": []}]"#, "GET /v1/bookings\nAuthorization: Basic eDp5", false),
        (r#"[{"basic": []}, {"token": []}]"#, "GET /v1/bookings\nAuthorization: Bearer x", false),
        (r#"[{"key": []}]"#, "GET /v1/bookings\nX-Quay-Key: k", false),
        (r#"[{"key": []}]"#, "GET /v1/bookings\nAuthorization: Bearer x", true),
        (r#"[{"key": [], "token": []}]"#, "GET /v1/bookings\nX-Quay-Key: k", true),
        (
            r#"[{"key": [], "token": []}]"#,
            "GET /v1/bookings\nX-Quay-Key: k\nAuthorization: Bearer x",
            false,
        ),
        (r#"[{"ask": []}]"#, "GET /v1/bookings?key=k", false),
        (r#"[{"ask": []}]"#, "GET /v1/bookings?Key=k", true),
        (r#"[{"crumb": []}]"#, "GET /v1/bookings\nCookie: theme=dark; quay=k", false),
        (r#"[{"crumb": []}]"#, "GET /v1/bookings\nCookie: theme=dark", true),
        (r#"[]"#, "GET /v1/bookings", false),
        (r#"[{}, {"token": []}]"#, "GET /v1/bookings", false),
    ] {
        let (holds, _) = seen(&described(contract, security), request);
        let expected: &[&str] = if missing { &["missing-credentials"] } else { &[] };
        assert_eq!(holds, expected, "{security}: {request}");
    }
    // The headers that the contract names win.
    let own = described(
        "contract = 1\nopenapi = \"api.json\"\ncredentials = [\"X-Pass\"]\n",
        r#"[{"token": []}]"#,
    );
    assert_eq!(seen(&own, "GET /v1/bookings\nX-Pass: p").0, [] as [&str; 0]);
}

#[test]
fn a_request_is_read_as_the_standards_say() {
    let base = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
        [fault.refused]\nstatus = 422\nwhen = [\"invalid-body\", \"invalid-parameters\", \"malformed-body\"]\n\
        [fault.unsupported]\nstatus = 415\nwhen = [\"unsupported-media-type\"]\n\
        [fault.not-acceptable]\nstatus = 406\nwhen = [\"not-acceptable\"]\n\
        [everywhere]\nfaults = [\"refused\", \"unsupported\", \"not-acceptable\"]\n";
    let get = |rules: &str| {
        contract(&format!(
            "{base}[endpoint.\"GET /bookings\"]\nsuccess = [200]\nproduces = [\"application/json\"]\n{rules}\n"
        ))
    };
    let post = contract(&format!(
        "{base}[endpoint.\"POST /bookings\"]\naccepts = [\"application/json\"]\nbody-members = {{ nights = \"integer\" }}\n"
    ));
    let parameters = "parameters.query = { limit = \"integer\", tags = \"optional array of string\" }\nparameters.header = { X-Unit = \"optional one of m, ft\" }\n";
    let plain = get(parameters);
    let strict = get(&format!(
        "{parameters}unknown-parameters = \"refused\"\nrepeated-parameters = \"refused\""
    ));
    let lax = get(&format!(
        "{parameters}unknown-parameters = \"ignored\"\nrepeated-parameters = \"ignored\""
    ));
    let none: &[&str] = &[];
    let (parameter, accept, media) =
        (&["invalid-parameters"][..], &["not-acceptable"][..], &["unsupported-media-type"][..]);
    let both = &["unsupported-media-type", "malformed-body"][..];
    for (contract, request, holds) in [
        // Accept: the most specific range decides.
        (&plain, "GET /v1/bookings?limit=1\nAccept: */*", none),
        (&plain, "GET /v1/bookings?limit=1\nAccept: text/html, */*;q=0.1", none),
        (&plain, "GET /v1/bookings?limit=1\nAccept: text/html", accept),
        (&plain, "GET /v1/bookings?limit=1\nAccept: */*, application/json;q=0", accept),
        (&plain, "GET /v1/bookings?limit=1\nAccept: application/*;q=0, */*", accept),
        // Parameters: by where they stand, and by letter case, but for headers.
        (&plain, "GET /v1/bookings?limit=1\nx-unit: ft", none),
        (&plain, "GET /v1/bookings?limit=1\nx-unit: yards", parameter),
        (&plain, "GET /v1/bookings?Limit=1", parameter),
        (&plain, "GET /v1/bookings?limit=1&X-Unit=yards", none),
        // Those that are not declared, and those that stand twice.
        (&plain, "GET /v1/bookings?limit=1&sort=up", none),
        (&strict, "GET /v1/bookings?limit=1&sort=up", parameter),
        (&lax, "GET /v1/bookings?limit=1&sort=up", none),
        (&strict, "GET /v1/bookings?limit=1&limit=2", parameter),
        (&lax, "GET /v1/bookings?limit=1&limit=2", none),
        (&lax, "GET /v1/bookings?limit=a&limit=b", parameter),
        (&strict, "GET /v1/bookings?limit=1&tags=a&tags=b", none),
        // HEAD is GET.
        (&plain, "HEAD /v1/bookings?limit=x", parameter),
        // Media types of bodies.
        (&post, "POST /v1/bookings\nContent-Type: application/json\n\n{\"nights\":2}", none),
        (&post, "POST /v1/bookings\nContent-Type: text/plain\n\nnights: 2", media),
        (&post, "POST /v1/bookings\n\n{\"nights\":2}", none),
        (&post, "POST /v1/bookings\n\nnights: 2", both),
    ] {
        assert_eq!(seen(contract, request).0, holds, "{request}");
    }
    // What may be wrong in the eyes of the service is open, unless the contract says.
    for (contract, open) in [(&plain, true), (&strict, false), (&lax, false)] {
        let (_, found) = seen(contract, "GET /v1/bookings?limit=1&sort=up");
        assert_eq!(found.contains(&"invalid-parameters"), open);
    }
    // A body that says it is no JSON is neither malformed nor invalid JSON.
    let (_, open) = seen(&post, "POST /v1/bookings\nContent-Type: text/plain\n\nnights: 2");
    assert!(!open.contains(&"malformed-body") && !open.contains(&"invalid-body"), "{open:?}");
}

/// A page is passed over only where the request takes pages.
#[test]
fn who_asks_for_json_gets_no_page() {
    let contract = contract(QUAY);
    let page = "HTTP/1.1 200 OK\nContent-Type: text/html\n\n<h1>Welcome</h1>";
    for (request, excluded) in [
        ("GET /v1/welcome\nAccept: text/html,*/*;q=0.8", true),
        ("GET /v1/welcome\nAccept: */*", true),
        ("GET /v1/welcome", true),
        ("GET /v1/welcome\nAccept: application/json", false),
        ("GET /v1/welcome\nAccept: */*, text/html;q=0", false),
    ] {
        assert_eq!(crate::judging::is_excluded(&contract, request, page), excluded, "{request}");
    }
}

const BOOKING: &str =
    "POST /v1/bookings\nAuthorization: Bearer x\nContent-Type: application/json\n\n";

/// What is found in an error to a booking.
fn in_errors(contract: &str, body: &str, status: u16, error: &str) -> Vec<&'static str> {
    let answer = format!("HTTP/1.1 {status} X\nContent-Type: application/json\n\n{error}");
    clauses(contract, &format!("{BOOKING}{body}"), &answer)
}

#[test]
fn entries_are_read_for_what_they_say() {
    let listed = QUAY
        .replace("[fault.invalid]\nstatus = 422", "[shape.list]\nerrors = \"array of entry\"\n\n[shape.entry]\npointer = \"json pointer\"\ndetail = \"string\"\n\n[fault.invalid]\nstatus = 422\nshape = \"list\"")
        .replace("[fault.malformed]\nstatus = 400", "[fault.malformed]\nstatus = 400\nshape = \"list\"")
        .replace("body-members = {", "parameters.query = { limit = \"optional integer\", sort = \"optional string\" }\nbody-members = { berth = \"optional place\",")
        .replace("[everywhere]", "[shape.place]\nquay = \"string\"\nnumber = \"integer\"\n\n[everywhere]");
    let bare = listed.replace("shape = \"list\"\n", "");
    let wrong = r#"{"nights":99,"berth":{"quay":"north","number":3}}"#;
    for (contract, body, status, error, broken) in [
        // A pointer into a body that is missing or malformed leads nowhere; the body as a whole can be named.
        (
            &listed,
            r#"{"nights":"#,
            400,
            r#"{"errors":[{"pointer":"/nights","detail":"is missing"}]}"#,
            &["validation.pointer-resolves"][..],
        ),
        (
            &listed,
            r#"{"nights":"#,
            400,
            r#"{"errors":[{"pointer":"","detail":"is no JSON"}]}"#,
            &[],
        ),
        // Only a first step that says 'the body' is passed over.
        (&bare, wrong, 422, r#"{"errors":[{"field":"body.nights","message":"at most 28"}]}"#, &[]),
        (&bare, wrong, 422, r#"{"errors":[{"path":"/body/nights","message":"at most 28"}]}"#, &[]),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"berth.nights","message":"at most 28"}]}"#,
            &["validation.complete"],
        ),
        // Letter case in prose is free.
        (&bare, wrong, 422, r#"{"message":"NIGHTS has to be at most 28"}"#, &[]),
        (
            &bare,
            wrong,
            422,
            r#"{"message":"fortnights have to be at most 28"}"#,
            &["validation.complete"],
        ),
        // The same only if all of both is.
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong","max":28},{"field":"nights","message":"wrong","min":1}]}"#,
            &[],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"field":"nights","message":"wrong"}]}"#,
            &["validation.no-duplicates"],
        ),
        // A valid field is found wherever it is named.
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"field":"berth.quay","message":"wrong"}]}"#,
            &["validation.only-invalid"],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"loc":["body","berth","number"],"msg":"wrong"}]}"#,
            &["validation.only-invalid"],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":{"nights":["wrong"],"berth":{"quay":["wrong"]}}}"#,
            &["validation.only-invalid"],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"loc":["query","limit"],"msg":"wrong"}]}"#,
            &["validation.only-invalid"],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"parameter":"sort","message":"wrong"}]}"#,
            &["validation.only-invalid"],
        ),
        (
            &bare,
            wrong,
            422,
            r#"{"errors":[{"field":"nights","message":"wrong"},{"field":"tide","message":"wrong"}]}"#,
            &[],
        ),
    ] {
        assert_eq!(in_errors(contract, body, status, error), broken, "{error} to {body}");
    }
    let query = |error: &str| {
        let request = format!(
            "POST /v1/bookings?limit=many&sort=up\nAuthorization: Bearer x\nContent-Type: application/json\n\n{}",
            r#"{"nights":2}"#
        );
        clauses(
            &bare,
            &request,
            &format!("HTTP/1.1 422 X\nContent-Type: application/json\n\n{error}"),
        )
    };
    assert_eq!(
        query(r#"{"errors":[{"loc":["query","limit"],"msg":"no number"}]}"#),
        [] as [&str; 0]
    );
    assert_eq!(
        query(
            r#"{"errors":[{"loc":["query","limit"],"msg":"no number"},{"loc":["query","sort"],"msg":"no"}]}"#
        ),
        ["validation.only-invalid"]
    );
    assert_eq!(
        query(
            r#"{"errors":[{"loc":["query","limit"],"msg":"no number"},{"field":"nights","message":"no"}]}"#
        ),
        ["validation.only-invalid"]
    );
}

#[test]
fn codes_are_compared_by_value() {
    let coded = QUAY.replace(
        "[fault.taken]\nstatus = 409",
        "[fault.taken]\nstatus = 409\ncode = 4017\n\n[codes]\nrange = \"4000 to 4999\"",
    );
    for (code, broken) in [
        ("4017", &[][..]),
        ("4017.0", &[]),
        ("4.017e3", &[]),
        ("4018", &["code.declared"]),
        ("4017.5", &["code.declared"]),
    ] {
        let error = format!("{{\"code\":{code},\"message\":\"the berth is taken by OB1234\"}}");
        assert_eq!(in_errors(&coded, r#"{"nights":2}"#, 409, &error), broken, "{code}");
    }
}

/// What is wrong with a body that can't be read, by its own name.
#[test]
fn each_bound_of_json_has_its_name() {
    use faithful_clerk_check::classify::ParsedBody;
    let contract = contract(QUAY);
    for (body, expected) in [
        (
            format!("{}{}", "[".repeat(200), "]".repeat(200)),
            "its JSON is nested deeper than 127 levels",
        ),
        ("{\"a\":1e999}".to_owned(), "its JSON has a number beyond a 64-bit float"),
        (r#"{"a":"\ud800"}"#.to_owned(), "its JSON has half of a surrogate pair"),
    ] {
        let answer = format!("HTTP/1.1 409 X\nContent-Type: application/json\n\n{body}");
        let request = format!("{BOOKING}{}", r#"{"nights":2}"#);
        crate::judging::classified(&contract, &request, &answer, |classified| {
            match classified.body() {
                ParsedBody::Unknown(reason) => assert_eq!(*reason, expected),
                other => panic!("{other:?}"),
            }
        });
        let words = clauses(QUAY, &request, &answer);
        assert_eq!(words, [] as [&str; 0], "nothing is known of it");
    }
}

/// A response as a recorder holds it.
fn recorded(
    headers: &serde_json::Value,
    content: &serde_json::Value,
    status: u16,
) -> Vec<&'static str> {
    let entry = serde_json::json!({
        "request": {"method": "GET", "url": "https://harbour.example/v1/bookings", "headers": []},
        "response": {"status": status, "headers": headers, "content": content},
    });
    let contract = contract(
        "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[fault.none]\nstatus = 404\n[endpoint.\"GET /bookings\"]\nfaults = [\"none\"]\n",
    );
    let lines = format!("{entry}\n");
    let mut ledger = Check::new(&contract).recording(Source::of(lines.as_bytes()), 0);
    ledger.conclude(&contract);
    ledger.findings.keys().map(|(_, clause)| *clause).collect()
}

#[test]
fn a_response_is_read_as_the_recorder_holds_it() {
    use serde_json::json;
    let json = json!([{"name": "Content-Type", "value": "application/json"}]);
    let other = json!([{"name": "Server", "value": "quay"}]);
    let long = |media: &str| json!([{"name": "Content-Type", "value": media}, {"name": "Content-Length", "value": "4000"}]);
    let text = |text: &str| json!({"mimeType": "application/json", "text": text});
    let body = r#"{"detail":"no booking is called that"}"#;
    for (headers, content, status, broken) in [
        (&json, text(body), 404, &[][..]),
        // What a recorder made of the content is no header; without any header it is all there is.
        (&other, text(body), 404, &["media.present"]),
        (&json!([]), text(body), 404, &[]),
        // Less than Content-Length says: cut, unless it is whole JSON in which something was masked.
        (&long("application/json"), text(&body[..20]), 404, &["exchange.complete"]),
        (&long("application/json"), text(body), 404, &[]),
        (&long("text/plain"), text("no booking is cal"), 404, &["exchange.complete"]),
        (&long("text/html"), text("<h1>no booking"), 404, &["exchange.complete"]),
        // An interim response is none.
        (&json, json!({}), 103, &["exchange.has-response"]),
        (&json, json!({}), 100, &["exchange.has-response"]),
    ] {
        assert_eq!(recorded(headers, &content, status), broken, "{headers} {content} {status}");
    }
    // Bytes that are not UTF-8, under base64: {"detail":"caf\xe9 is closed today"}.
    let latin = json!({"mimeType": "application/json", "encoding": "base64", "text": "eyJkZXRhaWwiOiJjYWbpIGlzIGNsb3NlZCB0b2RheSJ9"});
    assert_eq!(recorded(&json, &latin, 404), ["media.utf-8"]);
}

/// A title in another language is no second title (RFC 9457 section 3.1.3).
#[test]
fn a_localized_title_is_no_second_title() {
    let contract = contract(
        "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[fault.none]\nstatus = 404\n[endpoint.\"GET /bookings\"]\nfaults = [\"none\"]\n",
    );
    let entry = |language: &str, title: &str| {
        let headers = serde_json::json!([
            {"name": "Content-Type", "value": "application/problem+json"},
            {"name": "Content-Language", "value": language},
        ]);
        let text = serde_json::json!({"type": "https://harbour.example/none", "title": title, "status": 404, "detail": "Z-99 is not in the register"});
        let text = text.to_string();
        serde_json::json!({
            "request": {"method": "GET", "url": "https://harbour.example/v1/bookings", "headers": []},
            "response": {"status": 404, "headers": headers, "content": {"text": text}},
        })
        .to_string()
    };
    for (second, broken) in
        [(("de", "Es gibt keine"), &[][..]), (("en", "Nothing"), &["problem.title-stable"])]
    {
        let lines = format!("{}\n{}\n", entry("en", "There is none"), entry(second.0, second.1));
        let mut ledger = Check::new(&contract).recording(Source::of(lines.as_bytes()), 0);
        ledger.conclude(&contract);
        let found: Vec<&str> = ledger
            .findings
            .keys()
            .map(|(_, clause)| *clause)
            .filter(|c| *c != "problem.type-status")
            .collect();
        assert_eq!(found, broken, "{second:?}");
    }
}

/// What the clauses about bodies and violations let pass, and what not.
#[test]
fn texts_are_plain_short_and_no_json() {
    let invalid = r#"{"nights":99}"#;
    for (error, broken) in [
        (r#"{"message":"nights < 29 & > 0"}"#, &[][..]),
        (r#"{"message":"nights: use <number> of nights"}"#, &[]),
        (r#"{"message":"nights<br>at most 28"}"#, &["body.no-markup"]),
        (r#"{"message":"<P class='x'>nights</P>"}"#, &["body.no-markup"]),
        (r#"{"errors":[{"field":"nights","message":"at most <b>28</b>"}]}"#, &["body.no-markup"]),
        (r#"{"message":"{\"nights\":\"at most 28\"}"}"#, &["body.no-json-in-string"]),
        (
            r#"{"errors":"[{\"field\":\"nights\",\"message\":\"at most 28\"}]"}"#,
            &["body.no-json-in-string"],
        ),
        (r#"{"message":"nights matches [0-9]{1,2}"}"#, &[]),
        (r#"{"message":"[nights] at most 28"}"#, &[]),
        // What the caller sent, and gets back.
        (r#"{"message":"nights is wrong","sent":"{\"nights\":99}"}"#, &[]),
        // A field in words alone, where there is a member for it.
        (
            r#"{"errors":[{"field":"","message":"nights: at most 28"},{"field":"nights","message":"at most 28"}]}"#,
            &["validation.location-given"],
        ),
        (
            r#"{"errors":[{"field":null,"message":"the booking is odd"},{"field":"nights","message":"at most 28"}]}"#,
            &[],
        ),
        (r#"{"errors":[{"message":"nights: at most 28"}]}"#, &[]),
    ] {
        assert_eq!(in_errors(QUAY, invalid, 422, error), broken, "{error}");
    }
}

#[test]
fn placeholders_are_told_from_quantifiers_and_templates() {
    let problem = QUAY.replace(
        "[fault.taken]\nstatus = 409",
        "[error]\nshape = \"problem\"\n\n[fault.taken]\nstatus = 409",
    );
    for (detail, broken) in [
        ("has to match ^[A-Z]{2}[0-9]{4}$", &[][..]),
        ("two letters, \\\\w{2,4}, or (ab){3}", &[]),
        ("see /berths/{id}", &[]),
        ("see /berths/A-{number}/tides", &[]),
        ("a set such as {1, 2}", &[]),
        ("there is no berth {id}", &["problem.no-placeholders"]),
        ("there is no berth {0}", &["problem.no-placeholders"]),
        ("there is no berth {{ berth }}", &["problem.no-placeholders"]),
        ("there is no berth ${berth}", &["problem.no-placeholders"]),
        ("there is no berth %s.", &["problem.no-placeholders"]),
        ("100 % full", &[]),
    ] {
        let error = format!("{{\"title\":\"Conflict\",\"status\":409,\"detail\":\"{detail}\"}}");
        let answer = format!("HTTP/1.1 409 X\nContent-Type: application/problem+json\n\n{error}");
        let found = clauses(&problem, &format!("{BOOKING}{}", r#"{"nights":2}"#), &answer);
        assert_eq!(found, broken, "{detail}");
    }
}

#[test]
fn the_documented_media_type_is_asked_for() {
    let documented = r#"{"openapi": "3.1.0", "info": {"title": "Quay", "version": "1"},
        "servers": [{"url": "https://harbour.example/v1"}],
        "paths": {"/bookings": {"get": {"responses": {
            "200": {"description": "ok", "content": {"application/json": {}, "image/*": {}}},
            "404": {"description": "none", "content": {"application/problem+json": {}}},
            "409": {"description": "no content is documented"}}}}}}"#;
    let folder = crate::description::folder(&[("api.json", documented)]);
    let parsed = faithful_clerk_check::parse_contract_with_files(
        "contract = 1\nopenapi = \"api.json\"\n",
        &folder,
    );
    let contract = parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics));
    for (status, media, body, broken) in [
        (200, "application/json; charset=utf-8", "{}", false),
        (200, "image/png", "x", false),
        (200, "text/html", "<p>", true),
        (
            404,
            "application/problem+json",
            r#"{"title":"Not Found","status":404,"detail":"none of that day"}"#,
            false,
        ),
        (
            404,
            "application/json",
            r#"{"title":"Not Found","status":404,"detail":"none of that day"}"#,
            true,
        ),
        (404, "text/html", "<h1>none</h1>", true),
        (409, "text/plain", "taken by another", false),
    ] {
        let answer = format!("HTTP/1.1 {status} X\nContent-Type: {media}\n\n{body}");
        let request = "GET /v1/bookings\nAccept: application/json";
        let found = crate::judging::found_by(&contract, request, &answer);
        let is_told = found.iter().any(|one| one.clause == "media.documented");
        assert_eq!(is_told, broken, "{status} {media}");
    }
}
