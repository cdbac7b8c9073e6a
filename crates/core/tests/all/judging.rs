//! What is found in an exchange, and what must not be: a table of requests, answers and clauses.

use faithful_clerk_check::classify::{Classification, Classified, Credentials, classify};
use faithful_clerk_check::clauses::{HARBOUR, check_exchange, exchange};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::Finding;

/// What is found.
pub(crate) fn found(contract: &str, request: &str, response: &str) -> Vec<Finding> {
    let parsed = faithful_clerk_check::parse_contract(contract);
    let contract = parsed.contract.unwrap_or_else(|| panic!("{:#?}", parsed.diagnostics));
    found_by(&contract, request, response)
}

pub(crate) fn found_by(contract: &ErrorContract, request: &str, response: &str) -> Vec<Finding> {
    classified(contract, request, response, |classified| check_exchange(classified).findings)
}

/// Looks at an exchange that is the service's.
pub(crate) fn classified<T>(
    contract: &ErrorContract,
    request: &str,
    response: &str,
    look: impl FnOnce(&Classified<'_>) -> T,
) -> T {
    let exchange = exchange(1, leak(request), leak(response));
    match classify(&exchange, contract, Credentials::Recorded) {
        Classification::Excluded(reason) => panic!("excluded: {reason}"),
        Classification::Classified(classified) => look(&classified),
    }
}

/// What is found, or that the exchange is none of the service's.
pub(crate) fn found_or_excluded(
    contract: &ErrorContract,
    request: &str,
    response: &str,
) -> Result<Vec<Finding>, &'static str> {
    let exchange = exchange(1, leak(request), leak(response));
    match classify(&exchange, contract, Credentials::Recorded) {
        Classification::Excluded(reason) => Err(reason),
        Classification::Classified(classified) => Ok(check_exchange(&classified).findings),
    }
}

pub(crate) fn is_excluded(contract: &ErrorContract, request: &str, response: &str) -> bool {
    let exchange = exchange(1, leak(request), leak(response));
    matches!(classify(&exchange, contract, Credentials::Recorded), Classification::Excluded(_))
}

/// An example's text lives as long as the program; a few kilobytes in a test.
fn leak(text: &str) -> &'static str {
    Box::leak(text.to_owned().into_boxed_str())
}

pub(crate) fn clauses(contract: &str, request: &str, response: &str) -> Vec<&'static str> {
    found(contract, request, response).into_iter().map(|finding| finding.clause).collect()
}

fn problem(status: u16, body: &str) -> String {
    format!("HTTP/1.1 {status} X\nContent-Type: application/problem+json\n\n{body}")
}

fn booking(body: &str) -> String {
    format!(
        "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n{body}"
    )
}

const GET: &str = "GET /v1/berths/Z-99";
const NONE: &str =
    r#""type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth""#;
const INVALID: &str =
    r#""type":"https://harbour.example/faults/invalid-request","title":"The request is not valid""#;

/// Responses about a berth that does not exist, and the clauses that they break.
#[test]
fn of_one_fault_every_member_is_judged_for_itself() {
    for (body, broken) in [
        (format!("{{{NONE}}}"), &[][..]),
        (format!("{{{NONE},\"status\":404,\"detail\":\"Z-99\",\"instance\":\"/log/1\",\"more\":[1]}}"), &[]),
        (format!("{{{NONE},\"status\":404.0}}"), &[]),
        (format!("{{{NONE},\"status\":400}}"), &["problem.status-agrees"]),
        (format!("{{{NONE},\"status\":\"404\"}}"), &["problem.member-type"]),
        (format!("{{{NONE},\"status\":4040}}"), &["problem.member-type"]),
        (format!("{{{NONE},\"detail\":null}}"), &["problem.member-type"]),
        (format!("{{{NONE},\"detail\":[]}}"), &["problem.member-type"]),
        (format!("{{{NONE},\"instance\":\"not a uri\"}}"), &["problem.instance-is-uri"]),
        // Extensions that only look like misnamed members.
        (format!("{{{NONE},\"code\":1404}}"), &[]),
        (format!("{{{NONE},\"status\":404,\"statusCode\":404}}"), &[]),
        (format!("{{{NONE},\"detail\":\"x\",\"message\":\"y\"}}"), &[]),
        (format!("{{{NONE},\"error\":{{\"id\":1}}}}"), &[]),
        (format!("{{{NONE},\"path\":\"/v1/berths/Z-99\",\"timestamp\":\"now\"}}"), &[]),
        (format!("{{{NONE},\"reason\":7}}"), &[]),
        // Misnamed members.
        (format!("{{{NONE},\"code\":404}}"), &["problem.near-miss"]),
        (format!("{{{NONE},\"http_status\":404}}"), &["problem.near-miss"]),
        (format!("{{{NONE},\"Detail\":\"x\"}}"), &["problem.near-miss"]),
        (format!("{{{NONE},\"details\":\"x\",\"description\":\"y\"}}"), &["problem.near-miss"]),
        // The type.
        ("{\"title\":\"There is no such berth\"}".to_owned(), &["problem.type-declared"]),
        ("{\"type\":\"about:blank\",\"title\":\"Not Found\"}".to_owned(), &["problem.type-declared"]),
        ("{\"type\":7,\"title\":\"There is no such berth\"}".to_owned(), &["problem.member-type"]),
        (
            "{\"type\":\"https://harbour.example/faults/berth-taken\",\"title\":\"There is no such berth\"}".to_owned(),
            &["problem.type-declared"],
        ),
        (
            "{\"type\":\"urn:x\",\"title\":\"There are none\"}".to_owned(),
            &["problem.title-declared", "problem.type-declared"],
        ),
        // Nothing that was expected.
        ("{}".to_owned(), &["problem.required-members", "problem.type-declared"]),
        ("null".to_owned(), &["problem.is-object"]),
    ] {
        assert_eq!(clauses(HARBOUR, GET, &problem(404, &body)), broken, "{body}");
    }
}

/// Bodies of an invalid reservation, answers to it, and the clauses that they break.
#[test]
fn invalid_fields_are_told_in_many_ways() {
    let errors = |list: &str| problem(422, &format!("{{{INVALID},\"errors\":{list}}}"));
    let two = r#"{"nights":99}"#;
    for (body, response, broken) in [
        (
            two,
            errors(r#"[{"pointer":"/nights","detail":"x"},{"pointer":"/vessel_id","detail":"x"}]"#),
            &[][..],
        ),
        (
            two,
            errors(
                r##"[{"pointer":"#/vessel_id","detail":"x"},{"pointer":"#/nights","detail":"x"}]"##,
            ),
            &[],
        ),
        // A field that was in order may be named; that is another clause's to check.
        (
            two,
            errors(
                r#"[{"pointer":"/nights","detail":"x"},{"pointer":"","detail":"vessel_id is missing"}]"#,
            ),
            &[],
        ),
        (two, errors(r#"[{"pointer":"/nights","detail":"x"}]"#), &["validation.complete"]),
        (
            two,
            // The pointer that leads nowhere was meant for the field that is left: one root, one finding.
            errors(r#"[{"pointer":"/nights","detail":"x"},{"pointer":"/vesselId","detail":"x"}]"#),
            &["validation.pointer-resolves"],
        ),
        (
            two,
            errors(r#"[{"pointer":"nights","detail":"x"},{"pointer":"vessel_id","detail":"x"}]"#),
            &["validation.pointer-syntax", "validation.pointer-syntax"],
        ),
        (two, errors(r#"["nights is wrong","vessel_id is missing"]"#), &["shape.declared"]),
        (two, errors(r#"["nights is wrong"]"#), &["shape.declared", "validation.complete"]),
        (two, errors(r#"{"nights":"wrong","vessel_id":"missing"}"#), &["shape.declared"]),
        (two, errors("[]"), &["shape.declared", "validation.complete"]),
        (two, problem(422, &format!("{{{INVALID}}}")), &["shape.declared"]),
        // The body as a whole is wrong: any response tells of it.
        ("[]", errors(r#"[{"pointer":"","detail":"has to be an object"}]"#), &[]),
        // Another fault that was due came first.
        (
            two,
            problem(
                409,
                r#"{"type":"https://harbour.example/faults/berth-taken","title":"The berth is taken"}"#,
            ),
            &[],
        ),
        (two, problem(400, r#"{"title":"Bad Request"}"#), &["status.fits-situation"]),
        (two, problem(403, r#"{"title":"Forbidden"}"#), &["status.fits-situation"]),
        (two, "HTTP/1.1 302 Found\nLocation: /login".to_owned(), &["status.fits-situation"]),
    ] {
        assert_eq!(clauses(HARBOUR, &booking(body), &response), broken, "{body}: {response}");
    }
}

/// Without a declared list, prose will do; and what it lacks is only a warning.
#[test]
fn without_an_agreed_list_the_fields_may_be_told_in_prose() {
    let contract = HARBOUR.replace("shape = \"invalid-request\"\n", "");
    let told = |detail: &str| problem(422, &format!("{{{INVALID},\"detail\":\"{detail}\"}}"));
    let request = booking(r#"{"nights":99}"#);
    assert_eq!(
        clauses(&contract, &request, &told("nights is too much, vessel_id is missing")),
        [""; 0]
    );
    let found = found(&contract, &request, &told("nights is too much, my_vessel_ids are missing"));
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(found[0].severity, faithful_clerk_model::finding::Severity::Warning);
    assert_eq!(found[0].got.to_string(), "only /nights, without /vessel_id");
}

#[test]
fn where_nothing_is_agreed_any_error_of_the_callers_will_do() {
    let contract = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
        [fault.no]\nstatus = 400\n when = [\"malformed-body\"]\n[fault.failed]\nstatus = 500\n\
        [everywhere]\nfaults = [\"failed\"]\n\
        [endpoint.\"POST /reservations\"]\nauth = \"required\"\nfaults = [\"no\"]\n\
        [endpoint.\"POST /reservations\".body-members]\nnights = \"integer\"\n";
    let plain = |status: u16| format!("HTTP/1.1 {status} X\nContent-Type: text/plain\n\nno");
    let wrong = booking(r#"{"nights":"x"}"#);
    assert_eq!(clauses(contract, &wrong, &plain(400)), [""; 0]);
    assert_eq!(clauses(contract, &wrong, &plain(422)), ["status.declared"]);
    assert_eq!(clauses(contract, &wrong, &plain(500)), ["status.fits-situation"]);
    assert_eq!(clauses(contract, &wrong, &plain(503)), ["status.fits-situation"]);
    let agreed = found(contract, &wrong, &plain(500))[0].expected.to_string();
    assert_eq!(agreed, "an error of the caller's (4xx) for invalid-body");
}

#[test]
fn several_situations_hold_at_once_and_a_fault_for_any_is_right() {
    let request = "POST /v1/reservations\nContent-Type: application/json\n\n{\"nights\":99}";
    let no_token = "HTTP/1.1 401 X\nWWW-Authenticate: Bearer\nContent-Type: application/problem+json\n\n{\"title\":\"Unauthorized\"}";
    let errors = r#"[{"pointer":"/nights","detail":"x"},{"pointer":"/vessel_id","detail":"x"}]"#;
    assert_eq!(clauses(HARBOUR, request, no_token), [""; 0]);
    assert_eq!(
        clauses(HARBOUR, request, &problem(422, &format!("{{{INVALID},\"errors\":{errors}}}"))),
        [""; 0]
    );
    let found = found(HARBOUR, request, &problem(500, "{\"title\":\"Internal Server Error\"}"));
    assert_eq!(
        found[0].expected.to_string(),
        "422 (fault invalid-request) or 401 (fault no-credentials)"
    );
}

#[test]
fn a_service_may_ask_who_is_there_before_it_looks_at_the_path() {
    let response = "HTTP/1.1 401 X\nWWW-Authenticate: Bearer\nContent-Type: application/problem+json\n\n{\"title\":\"Unauthorized\"}";
    assert_eq!(clauses(HARBOUR, "GET /v1/nowhere", response), [""; 0]);
    assert_eq!(clauses(HARBOUR, "PUT /v1/berths/A-3", response), [""; 0]);
}

#[test]
fn headers_are_judged_by_what_they_say() {
    let answer = |status: u16, fields: &str, title: &str| {
        format!(
            "HTTP/1.1 {status} X\n{fields}Content-Type: application/problem+json\n\n{{\"title\":\"{title}\"}}"
        )
    };
    for (fields, broken) in [
        ("Allow: GET\n", &[][..]),
        ("Allow: HEAD, GET, OPTIONS\n", &[]),
        ("Allow: HEAD\nAllow: GET\n", &[]),
        ("Allow: \n", &["header.allow"]),
        ("Allow: POST\n", &["header.allow"]),
        ("Allow: GET, DELETE\n", &["header.allow"]),
        ("Allow: get\n", &["header.allow"]),
        ("", &["header.allow"]),
    ] {
        let answer = answer(405, fields, "Method Not Allowed");
        assert_eq!(clauses(HARBOUR, "PUT /v1/berths/A-3", &answer), broken, "{fields}");
    }
    for (fields, broken) in [
        ("WWW-Authenticate: Bearer\n", &[][..]),
        ("WWW-Authenticate: Basic realm=\"harbour\", Bearer\n", &[]),
        ("WWW-Authenticate: \n", &["header.challenge"]),
        ("WWW-Authenticate: \"Bearer\"\n", &["header.challenge"]),
        ("Proxy-Authenticate: Bearer\n", &["header.challenge"]),
        ("", &["header.challenge"]),
    ] {
        let request = "POST /v1/reservations\nContent-Type: application/json\n\n{\"vessel_id\":\"OB1234\",\"nights\":2}";
        assert_eq!(
            clauses(HARBOUR, request, &answer(401, fields, "Unauthorized")),
            broken,
            "{fields}"
        );
    }
}

#[test]
fn successes_are_left_alone() {
    for response in [
        "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"statusCode\":7,\"trace\":\"goroutine 1 [running]:\"}",
        "HTTP/1.1 200 OK\nContent-Type: application/json\n\nnot looked at",
        "HTTP/1.1 200 OK",
        "HTTP/1.1 304 Not Modified",
    ] {
        assert_eq!(clauses(HARBOUR, "GET /v1/berths/A-3", response), [""; 0], "{response}");
    }
    let page = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n  <html>";
    assert_eq!(clauses(HARBOUR, "GET /v1/berths/A-3", page), ["media.matches-body"]);
    let part = "GET /v1/berths/A-3\nRange: bytes=0-9";
    assert_eq!(clauses(HARBOUR, part, "HTTP/1.1 206 Partial Content"), [""; 0]);
    assert_eq!(clauses(HARBOUR, "GET /v1/berths/A-3", "HTTP/1.1 206 X"), ["status.declared"]);
}

/// A service with an envelope of its own: its members are no problem's.
#[test]
fn an_envelope_of_ones_own_is_judged_by_its_shape_alone() {
    let contract = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
        [error]\nmedia = \"application/json\"\nshape = \"envelope\"\n\
        [shape.envelope]\nok = \"exactly false\"\nstatus = \"string\"\nmessage = \"string\"\n\
        [fault.none]\nstatus = 404\ntitle = \"No berth\"\n\
        [endpoint.\"GET /berths/{id}\"]\nfaults = [\"none\"]\n";
    let answer = |body: &str| format!("HTTP/1.1 404 X\nContent-Type: application/json\n\n{body}");
    let good = answer(r#"{"ok":false,"status":"none","message":"no berth"}"#);
    assert_eq!(clauses(contract, GET, &good), [""; 0]);
    assert_eq!(
        clauses(contract, GET, &answer(r#"{"ok":true,"status":"none","message":"x"}"#)),
        ["shape.declared"]
    );
    assert_eq!(clauses(contract, GET, &answer("[]")), ["shape.declared"]);
    // A response that says it is a problem is checked as one, besides.
    assert_eq!(
        clauses(contract, GET, &problem(404, r#"{"title":7}"#)),
        ["media.declared", "problem.member-type"]
    );
}

/// Members of a fault that has a type or a title are members of a problem, declared shape or not.
#[test]
fn members_of_a_fault_extend_a_problem() {
    let contract = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n\
        [fault.taken]\nstatus = 409\ntitle = \"Taken\"\nmembers = { berth_id = \"string\" }\n\
        [endpoint.\"GET /berths/{id}\"]\nfaults = [\"taken\"]\n";
    let answer = |body: &str| format!("HTTP/1.1 409 X\nContent-Type: application/json\n\n{body}");
    assert_eq!(clauses(contract, GET, &answer(r#"{"title":"Taken","berth_id":"A-3"}"#)), [""; 0]);
    let both = answer(r#"{"title":"Gone","status":7,"berth_id":3}"#);
    let broken = ["problem.member-type", "problem.title-declared", "shape.declared"];
    assert_eq!(clauses(contract, GET, &both), broken);
}

/// Invalid locations deep in a body, at a choice of forms, and told at what holds them.
#[test]
fn deep_places_may_be_told_below_or_above_in_words() {
    let contract = HARBOUR.replace(
        "note = \"optional string, at most 200\"\n",
        "crew = \"array of sailor\"\ncontact = \"by-mail or by-phone\"\n\
         [shape.sailor]\nname = \"string, at least 1\"\n[shape.by-mail]\nmail = \"string\"\n\
         [shape.by-phone]\nphone = \"string\"\n",
    );
    let body = r#"{"vessel_id":"OB1234","nights":2,"crew":[{"name":"Ada"},{"name":""}],"contact":{"mail":7}}"#;
    let told = |first: &str, second: &str| {
        let errors = format!("[{{\"pointer\":{first}}},{{\"pointer\":{second}}}]");
        let response = problem(422, &format!("{{{INVALID},\"errors\":{errors}}}"));
        found(&contract, &booking(body), &response)
            .into_iter()
            .map(|f| f.got.to_string())
            .collect::<Vec<_>>()
    };
    let name = r#""/crew/1/name","detail":"is empty""#;
    let above = r#""/crew/1","detail":"name is empty""#;
    let mute = r#""/crew/1","detail":"is wrong""#;
    let other = r#""/crew/0/name","detail":"is empty""#;
    let contact = r#""/contact","detail":"is neither""#;
    let below = r#""/contact/mail","detail":"has to be text""#;
    assert_eq!(told(name, contact), [""; 0]);
    assert_eq!(told(name, below), [""; 0]);
    assert_eq!(told(above, contact), [""; 0]);
    assert_eq!(told(mute, contact), ["only /contact, without /crew/1/name"]);
    assert_eq!(told(other, contact), ["only /contact, without /crew/1/name", "\"/crew/0/name\""]);
}

#[test]
fn a_pointer_among_alternatives_is_a_pointer() {
    let contract = HARBOUR.replace("\"json pointer\"", "\"json pointer or null\"");
    let answer = |pointer: &str| {
        let errors = format!("[{{\"pointer\":{pointer},\"detail\":\"nights is too much\"}}]");
        problem(422, &format!("{{{INVALID},\"errors\":{errors}}}"))
    };
    let request = booking(r#"{"vessel_id":"OB1234","nights":99}"#);
    assert_eq!(clauses(&contract, &request, &answer("\"/nights\"")), [""; 0]);
    assert_eq!(clauses(&contract, &request, &answer("null")), [""; 0]);
    let broken = ["validation.pointer-resolves"];
    assert_eq!(clauses(&contract, &request, &answer("\"/nites\"")), broken);
}

/// How places are written, by what the contract says of it.
#[test]
fn places_are_written_as_the_contract_says() {
    let fields = "note = \"optional string, at most 200\"\n";
    let base = HARBOUR.replace(
        fields,
        "contact = \"by-mail or by-phone\"\n[shape.by-mail]\nkind = \"exactly mail\"\nmail = \"string\"\n\
         [shape.by-phone]\nkind = \"exactly phone\"\nphone = \"string\"\n",
    );
    let body = r#"{"nights":2,"contact":{"kind":"mail"}}"#;
    let answer = |first: &str, second: &str| {
        let errors = format!(
            "[{{\"pointer\":\"{first}\",\"detail\":\"vessel_id\"}},{{\"pointer\":\"{second}\",\"detail\":\"x\"}}]"
        );
        problem(422, &format!("{{{INVALID},\"errors\":{errors}}}"))
    };
    let expected = "validation.location-style";
    for (rule, first, second, broken) in [
        ("", "/vessel_id", "/contact", &[][..]),
        ("", "", "#/contact/mail", &[]),
        ("pointer = \"plain\"", "/vessel_id", "#/contact", &[expected]),
        ("pointer = \"fragment\"", "/vessel_id", "#/contact", &[expected]),
        ("missing = \"itself\"", "/vessel_id", "/contact", &[]),
        ("missing = \"itself\"", "", "/contact", &[expected]),
        ("missing = \"parent\"", "", "/contact", &[]),
        ("missing = \"parent\"", "/vessel_id", "/contact", &[expected]),
        ("one-of = \"whole\"", "/vessel_id", "/contact", &[]),
        ("one-of = \"whole\"", "/vessel_id", "/contact/mail", &[expected]),
        ("one-of = \"by kind\"", "/vessel_id", "/contact/kind", &[]),
        ("one-of = \"by kind\"", "/vessel_id", "/contact/mail", &[expected]),
        ("one-of = \"by kind\"", "/vessel_id", "/contact", &[expected]),
    ] {
        let contract = base.replacen(
            "[shape.invalid-request]",
            &format!("[validation-errors]\n{rule}\n[shape.invalid-request]"),
            1,
        );
        let found = clauses(&contract, &booking(body), &answer(first, second));
        assert_eq!(found, broken, "{rule}: {first} {second}");
    }
}

/// Successes are looked through for disclosures only where the contract asks for it.
#[test]
fn disclosures_in_successes_are_found_on_demand() {
    let trace =
        "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"trace\":\"goroutine 1 [running]:\"}";
    assert_eq!(clauses(HARBOUR, "GET /v1/berths/A-3", trace), [""; 0]);
    let contract = HARBOUR.replacen("[error]", "disclosure-scope = \"all\"\n[error]", 1);
    assert_eq!(clauses(&contract, "GET /v1/berths/A-3", trace), ["disclosure.stack-trace"]);
    // A success with an error inside is looked through anyway.
    let failed =
        "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"error\":\"goroutine 1 [running]:\"}";
    assert_eq!(
        clauses(HARBOUR, "GET /v1/berths/A-3", failed),
        ["disclosure.stack-trace", "success.no-error-inside"]
    );
}

/// Successes that only have words of errors in them.
#[test]
fn a_success_about_errors_is_no_error() {
    for body in [
        r#"{"errors":[],"data":{"id":1}}"#,
        r#"{"error":null,"id":1}"#,
        r#"{"report":{"errors":3},"day":"2031-04-05"}"#,
        r#"{"items":[{"error":"late"}],"error":"none today"}"#,
        r#"{"success":true,"message":"no error"}"#,
        r#"[{"error":"x"}]"#,
        r#"{"failures":["x"]}"#,
        r#"{"id":7,"state":"failed","error":"disk full"}"#,
        r#"{"id":7,"amount":12,"success":false}"#,
    ] {
        let response = format!("HTTP/1.1 200 OK\nContent-Type: application/json\n\n{body}");
        assert_eq!(clauses(HARBOUR, "GET /v1/berths/A-3", &response), [""; 0], "{body}");
    }
}

/// Successes that say that they failed.
#[test]
fn a_success_that_is_an_error_is_found() {
    for body in [
        r#"{"error":"no such berth"}"#,
        r#"{"success":false,"message":"no","data":null}"#,
        r#"{"ok":false,"errors":[]}"#,
        r#"{"errors":[{"message":"no"}],"data":null}"#,
        r#"{"status":404,"error":"Not Found","timestamp":"2031-04-05T06:07:08Z","path":"/v1/berths/Z-99"}"#,
    ] {
        let response = format!("HTTP/1.1 200 OK\nContent-Type: application/json\n\n{body}");
        assert_eq!(
            clauses(HARBOUR, "GET /v1/berths/Z-99", &response),
            ["success.no-error-inside"],
            "{body}"
        );
    }
}

/// Without a fault for it, a service may send what it has, whatever was asked for.
#[test]
fn what_cannot_be_accepted_is_refused_only_where_that_is_agreed() {
    let contract = HARBOUR.replace(
        "[endpoint.\"GET /berths/{id}\"]\n",
        "[endpoint.\"GET /berths/{id}\"]\nproduces = [\"application/json\"]\n",
    );
    let request = "GET /v1/berths/A-3\nAccept: text/csv";
    let berth = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"id\":\"A-3\"}";
    assert_eq!(clauses(&contract, request, berth), [""; 0]);
    let expected = contract.replace(
        "[everywhere]\nfaults = [",
        "[fault.no-such-form]\nstatus = 406\n when = [\"not-acceptable\"]\n[everywhere]\nfaults = [\"no-such-form\", ",
    );
    assert_eq!(clauses(&expected, request, berth), ["situation.requires-error"]);
    let any = "GET /v1/berths/A-3\nAccept: text/csv, application/*;q=0.1";
    assert_eq!(clauses(&expected, any, berth), [""; 0]);
}

/// Where the contract says where the words of an error stand, blank ones are found there.
#[test]
fn the_message_of_an_envelope_says_something() {
    let contract = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[envelope]\nmessage = \"/meta/text\"\n\
        [fault.none]\nstatus = 404\n[endpoint.\"GET /berths/{id}\"]\nfaults = [\"none\"]\n";
    let answer = |text: &str| {
        format!(
            "HTTP/1.1 404 X\nContent-Type: application/json\n\n{{\"id\":\"Z-99\",\"meta\":{{\"text\":\"{text}\"}}}}"
        )
    };
    assert_eq!(clauses(contract, GET, &answer("no such berth")), [""; 0]);
    let found = found(contract, GET, &answer("  "));
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(
        (found[0].clause, found[0].location.to_string().as_str()),
        ("body.explains", "body /meta/text")
    );
}

/// A case that expects a success admits no fault where the request shows nothing wrong, not even one that would be allowed.
#[test]
fn a_case_that_expects_a_success_admits_no_fault() {
    let contract = format!(
        "{HARBOUR}\n[case.known-berth]\nrequest = \"GET /berths/A-3\"\nexpect = \"success\"\n"
    );
    let response = problem(404, &format!("{{{NONE},\"status\":404}}"));
    assert_eq!(clauses(&contract, GET, &response), [""; 0]);
    let found = found(&contract, "GET /v1/berths/A-3", &response);
    assert_eq!(found[0].clause, "status.fits-situation");
    assert_eq!(
        found[0].expected.to_string(),
        "a success, according to the contract's case known-berth"
    );
}

/// Of a member that is a secret by its name, a finding shows nothing, whatever is wrong with it.
#[test]
fn a_finding_at_a_secret_shows_no_value() {
    let contract = "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[error]\nshape = \"own\"\n\
        [shape.own]\nmessage = \"string\"\npassword = \"optional integer\"\ncolour = \"optional integer\"\n\
        [fault.none]\nstatus = 404\n[endpoint.\"GET /berths/{id}\"]\nfaults = [\"none\"]\n";
    let answer = "HTTP/1.1 404 Not Found\nContent-Type: application/json\n\n\
        {\"message\":\"There is no such berth\",\"password\":\"hunter2\",\"colour\":\"red\"}";
    let found = found(contract, GET, answer);
    let at = |pointer: &str| {
        let location = Location::Pointer(pointer.to_owned());
        found.iter().find(|one| one.location == location).unwrap().got.to_string()
    };
    assert_eq!(at("/password"), "a value that is masked");
    assert_eq!(at("/colour"), "string \"red\"");
    assert!(!format!("{found:?}").contains("hunter2"));
}
