//! What a response says, and how a recorder holds it.

use faithful_clerk_check::Check;
use faithful_clerk_recording::Source;

use super::{BOOKING, QUAY, contract, in_errors};
use crate::judging::clauses;

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
        (
            &long("application/json"),
            text("{\"bookings\":[{\"id\":1},{\"id"),
            200,
            &["exchange.complete"],
        ),
        (&long("application/json"), text("{\"token\":\"***\"}"), 200, &[]),
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

/// Words of the contract that were taken for the service's inside, and members for locations.
#[test]
fn words_of_the_contract_are_no_disclosure() {
    let titled = QUAY.replace(
        "[fault.taken]\nstatus = 409",
        "[error]\nshape = \"own\"\n\n[shape.own]\nlike = \"problem\"\nconfirmation_token = \"optional string\"\n\n[fault.taken]\nstatus = 409\ntype = \"https://db.harbour.internal/taken\"\ntitle = \"Harbour::Berths::TakenError\"",
    );
    let invalid = r#"{"nights":99}"#;
    for (body, status, error, broken) in [
        (
            r#"{"nights":2}"#,
            409,
            r#"{"type":"https://db.harbour.internal/taken","title":"Harbour::Berths::TakenError","status":409,"detail":"taken until May"}"#,
            &[][..],
        ),
        (
            r#"{"nights":2}"#,
            409,
            r#"{"type":"https://db.harbour.internal/taken","title":"Harbour::Berths::TakenError","status":409,"detail":"taken until May","confirmation_token":"a7Kq93xLm2"}"#,
            &[],
        ),
        (
            r#"{"nights":2}"#,
            409,
            r#"{"type":"https://db.harbour.internal/taken","title":"Harbour::Berths::TakenError","status":409,"detail":"Harbour::Quays::LostError"}"#,
            &["disclosure.code-name"],
        ),
    ] {
        let answer =
            format!("HTTP/1.1 {status} X\nContent-Type: application/problem+json\n\n{error}");
        let found = clauses(&titled, &format!("{BOOKING}{body}"), &answer);
        let found: Vec<_> =
            found.into_iter().filter(|clause| *clause != "problem.extension-declared").collect();
        assert_eq!(found, broken, "{error}");
    }
    // `name` is not always a field's, and an empty one is none.
    for error in [
        r#"{"errors":[{"name":"ValidationError","message":"nights: at most 28"}]}"#,
        r#"{"errors":[{"name":"nights","message":"at most 28"}]}"#,
        r#"{"errors":[{"field":"","message":"nights: at most 28"}]}"#,
        r#"{"errors":[{"name":"a rule of ours","message":"nights: at most 28"}]}"#,
    ] {
        assert_eq!(in_errors(QUAY, invalid, 422, error), [] as [&str; 0], "{error}");
    }
}
