//! What a request shows, with a contract and with a description.

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::situation::Situation;

use super::{QUAY, contract};

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
