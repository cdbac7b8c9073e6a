//! What each construct of the contract language finds, and what it lets pass.

use crate::judging::clauses;

/// A service with one endpoint, whose refusals are declared by what stands in `errors`.
pub(crate) fn pier(errors: &str, endpoint: &str) -> String {
    format!(
        "contract = 1\nservers = [\"https://harbour.example\"]\n{errors}\n\
         [endpoint.\"POST /moorings\"]\nsuccess = [201]\nfaults = [\"refused\"]\n{endpoint}\n"
    )
}

pub(crate) const REQUEST: &str = "POST /moorings\nContent-Type: application/json\n\n{\"nights\":";

pub(crate) fn refused(headers: &str, body: &str) -> String {
    format!("HTTP/1.1 422 X\nContent-Type: application/json\n{headers}\n{body}")
}

fn shape(type_expression: &str) -> String {
    pier(
        &format!(
            "[error]\nshape = \"refusal\"\n[shape.refusal]\nmessage = \"string\"\n\
             is = \"{type_expression}\"\n[fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]"
        ),
        "",
    )
}

#[test]
fn type_expressions_say_what_may_not_be() {
    for (expression, member, is_broken) in [
        ("not exactly Error", r#""berth taken""#, false),
        ("not exactly Error", r#""Error""#, true),
        ("not exactly 0", "1", false),
        ("not exactly 0", "0.0", true),
        ("not exactly 0", r#""0""#, false),
        ("http-date", r#""Tue, 15 Nov 2033 08:12:31 GMT""#, false),
        ("http-date", r#""Tuesday, 15-Nov-33 08:12:31 GMT""#, false),
        ("http-date", r#""Tue Nov 15 08:12:31 2033""#, false),
        ("http-date", r#""2033-11-15T08:12:31Z""#, true),
        ("http-date", r#""Tue, 15 Nov 2033 08:12:31 CET""#, true),
        ("http-date", "2000000000", true),
        ("array of (string or integer)", r#"["a", 1]"#, false),
        ("array of (string or integer)", r#"["a", 1.5]"#, true),
        ("array of (string or integer)", "1", true),
        ("array of string or integer", "1", false),
        ("array of string or integer", r#"["a", 1]"#, true),
        ("(string or array of integer), at most 3", r#""abcd""#, true),
        ("(string or array of integer), at most 3", "[1,2,3]", false),
        ("map of (null or integer from 1 to 3)", r#"{"a":null,"b":3}"#, false),
        ("map of (null or integer from 1 to 3)", r#"{"a":null,"b":4}"#, true),
        ("(one of a, b) or integer", r#""b""#, false),
        ("(one of a, b) or integer", r#""c""#, true),
    ] {
        let body = format!("{{\"message\":\"no JSON here\",\"is\":{member}}}");
        let broken = clauses(&shape(expression), REQUEST, &refused("", &body));
        let expected: &[&str] = if is_broken { &["shape.declared"] } else { &[] };
        assert_eq!(broken, expected, "{expression}: {member}");
    }
}

#[test]
fn absent_is_not_there() {
    let body = |more: &str| format!("{{\"message\":\"no JSON here\"{more}}}");
    for (more, broken) in
        [("", &[][..]), (",\"is\":1", &["shape.declared"]), (",\"is\":null", &["shape.declared"])]
    {
        assert_eq!(clauses(&shape("absent"), REQUEST, &refused("", &body(more))), broken, "{more}");
    }
    let contract = pier(
        "[error]\nheaders = { X-Runtime = \"absent\" }\n[fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]",
        "",
    );
    for (headers, broken) in [("", &[][..]), ("X-Runtime: 0.02\n", &["header.declared"])] {
        let answer = refused(headers, &body(""));
        assert_eq!(clauses(&contract, REQUEST, &answer), broken, "{headers}");
    }
    let contract = pier(
        "[fault.refused]\nstatus = 422\nwhen = [\"invalid-parameters\"]",
        "parameters = { query = { page = \"absent\", size = \"optional integer\" } }",
    );
    for (query, status, broken) in [
        ("", "201 Created", &[][..]),
        ("?size=7", "201 Created", &[]),
        ("?page=2", "201 Created", &["situation.requires-error"]),
        ("?page=2", "422 X", &[]),
    ] {
        let request = format!("POST /moorings{query}\nContent-Type: application/json\n\n{{}}");
        let answer = format!(
            "HTTP/1.1 {status}\nContent-Type: application/json\n\n{{\"detail\":\"page is not here\"}}"
        );
        assert_eq!(clauses(&contract, &request, &answer), broken, "{query}: {status}");
    }
}

#[test]
fn shapes_can_be_arrays_and_closed_by_a_note() {
    let contract = pier(
        "[error]\nshape = \"violations\"\n[shape]\nviolations = \"array of violation, at least 1\"\n\
         [shape.violation]\nmessage = \"string\"\nclosed = \"note\"\n\
         [fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]",
        "",
    );
    for (body, broken) in [
        (r#"[{"message":"no JSON here"}]"#, &[][..]),
        (r#"[]"#, &["shape.declared"]),
        (r#"{"message":"no JSON here"}"#, &["shape.declared"]),
        (r#"[{"message":"no JSON here"},{"text":"no"}]"#, &["shape.declared", "shape.declared"]),
    ] {
        assert_eq!(clauses(&contract, REQUEST, &refused("", body)), broken, "{body}");
    }
    let severity = |body: &str| {
        let found = crate::judging::found(&contract, REQUEST, &refused("", body));
        found.into_iter().map(|finding| finding.severity.name()).collect::<Vec<_>>()
    };
    assert_eq!(severity(r#"[{"message":"no JSON here","hint":1}]"#), ["note"]);
    assert_eq!(severity(r#"[{"message":7}]"#), ["breach"]);
}

#[test]
fn bodies_can_be_arrays_and_closed() {
    let fault = "[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]\n\
                 [shape.mooring]\nnights = \"integer from 1 to 28\"";
    let array = pier(fault, "body-members = \"array of mooring, at most 2\"");
    let closed = pier(fault, "body-members = { nights = \"integer\", closed = true }");
    let called = pier(fault, "body-members = { nights = \"integer\", closed = \"boolean\" }");
    for (contract, body, is_valid) in [
        (&array, r#"[{"nights":2}]"#, true),
        (&array, r#"[{"nights":2},{"nights":29}]"#, false),
        (&array, r#"[{"nights":2},{"nights":2},{"nights":2}]"#, false),
        (&array, r#"{"nights":2}"#, false),
        (&closed, r#"{"nights":2}"#, true),
        (&closed, r#"{"nights":2,"crew":4}"#, false),
        (&called, r#"{"nights":2,"closed":true}"#, true),
        (&called, r#"{"nights":2}"#, false),
        (&called, r#"{"nights":2,"closed":true,"crew":4}"#, true),
    ] {
        let request = format!("POST /moorings\nContent-Type: application/json\n\n{body}");
        let made = "HTTP/1.1 201 X\nContent-Type: application/json\n\n{\"id\":1}";
        let broken = clauses(contract, &request, made);
        let expected: &[&str] = if is_valid { &[] } else { &["situation.requires-error"] };
        assert_eq!(broken, expected, "{body}");
    }
}

/// With partial rules, what breaks them is invalid; of a body that keeps them nobody knows, and other members may be named.
#[test]
fn the_rules_for_a_body_can_be_partial() {
    let fault = "[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]";
    let rules = "nights = \"integer\", crew = \"optional integer\"";
    let whole = pier(fault, &format!("body-members = {{ {rules} }}"));
    let partial = pier(fault, &format!("body-members = {{ {rules}, partial = true }}"));
    let called = pier(fault, "body-members = { partial = \"boolean\" }");
    let made = "HTTP/1.1 201 X\nContent-Type: application/json\n\n{\"id\":1}".to_owned();
    let names = |fields: &[&str]| {
        let entries: Vec<String> =
            fields.iter().map(|f| format!("{{\"field\":\"{f}\",\"message\":\"no\"}}")).collect();
        refused("", &format!("{{\"errors\":[{}]}}", entries.join(",")))
    };
    let (misfits, only) = ("status.fits-situation", "validation.only-invalid");
    for (contract, body, response, broken) in [
        // It keeps the rules, and is refused for one that the contract does not have.
        (&whole, r#"{"nights":99}"#, names(&["nights"]), &[misfits][..]),
        (&partial, r#"{"nights":99}"#, names(&["nights"]), &[]),
        (&partial, r#"{"nights":99}"#, made.clone(), &[]),
        // It breaks them: another member may be wrong, too, but the one that is has to be named.
        (&whole, r#"{"nights":"x","crew":99}"#, names(&["nights", "crew"]), &[only]),
        (&partial, r#"{"nights":"x","crew":99}"#, names(&["nights", "crew"]), &[]),
        (&partial, r#"{"nights":"x","crew":99}"#, names(&["crew"]), &["validation.complete"]),
        (&partial, r#"{"nights":"x"}"#, made.clone(), &["situation.requires-error"]),
        (&called, r#"{"partial":true}"#, made, &[]),
    ] {
        let request = format!("POST /moorings\nContent-Type: application/json\n\n{body}");
        assert_eq!(clauses(contract, &request, &response), broken, "{body} {response}");
    }
}

#[test]
fn the_media_type_of_an_error_follows_accept_and_its_parameters_count() {
    let with = |media: &str| {
        pier(
            &format!(
                "[error]\nmedia = {media}\n[fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]"
            ),
            "",
        )
    };
    let two = with("[\"application/problem+json\", \"application/vnd.pier+json\"]");
    let bulk = with("\"application/vnd.api+json; ext=bulk\"");
    let plain = with("\"application/problem+json\"");
    for (contract, accept, media, is_broken) in [
        (&two, "", "application/problem+json", false),
        (&two, "", "application/vnd.pier+json", false),
        (&two, "", "application/json", true),
        (&two, "Accept: application/vnd.pier+json\n", "application/vnd.pier+json", false),
        (&two, "Accept: application/vnd.pier+json\n", "application/problem+json", true),
        (
            &two,
            "Accept: application/vnd.pier+json;q=0.2, application/problem+json\n",
            "application/problem+json",
            false,
        ),
        (
            &two,
            "Accept: application/vnd.pier+json;q=0.2, application/problem+json\n",
            "application/vnd.pier+json",
            true,
        ),
        (&two, "Accept: */*\n", "application/vnd.pier+json", false),
        (&two, "Accept: text/csv\n", "application/problem+json", false),
        (&bulk, "", "application/vnd.api+json; ext=bulk", false),
        (&bulk, "", "application/vnd.api+json; ext=\"bulk\"; profile=a", false),
        (&bulk, "", "application/vnd.api+json", true),
        (&bulk, "", "application/vnd.api+json; ext=atomic", true),
        (&plain, "", "application/problem+json; version=1", false),
    ] {
        let request =
            format!("POST /moorings\n{accept}Content-Type: application/json\n\n{{\"nights\":");
        let answer = format!(
            "HTTP/1.1 422 X\nContent-Type: {media}\n\n{{\"type\":\"about:blank\",\"title\":\"Unprocessable Content\",\"status\":422,\"detail\":\"no JSON here\"}}"
        );
        let expected: &[&str] = if is_broken { &["media.declared"] } else { &[] };
        assert_eq!(clauses(contract, &request, &answer), expected, "{accept}{media}");
    }
}

#[test]
fn a_problem_type_may_be_any() {
    let with = |of: &str| {
        pier(
            &format!(
                "[fault.refused]\nstatus = 422\n{of}\ntitle = \"No\"\nwhen = [\"malformed-body\"]"
            ),
            "",
        )
    };
    let answer = "HTTP/1.1 422 X\nContent-Type: application/problem+json\n\n\
                  {\"type\":\"https://harbour.example/faults/7\",\"title\":\"No\",\"status\":422,\"detail\":\"no JSON here\"}";
    assert_eq!(clauses(&with("type = \"any\""), REQUEST, answer), &[][..] as &[&str]);
    assert_eq!(clauses(&with(""), REQUEST, answer), ["problem.type-declared"]);
}

#[test]
fn headers_can_be_lists_with_a_choice_and_challenges() {
    let with = |header: &str, of: &str| {
        pier(
            &format!(
                "[fault.refused]\nstatus = 401\nheaders = {{ {header} = \"{of}\" }}\nwhen = [\"malformed-body\"]"
            ),
            "",
        )
    };
    let vary = with("Vary", "list containing Accept-Language or *, Origin or *");
    let token = with("WWW-Authenticate", "challenge Bearer with error=invalid_token, realm=pier");
    let bearer = with("WWW-Authenticate", "challenge Bearer");
    for (contract, header, is_broken) in [
        (&vary, "Vary: Origin, accept-language", false),
        (&vary, "Vary: *", false),
        (&vary, "Vary: Origin", true),
        (&token, "WWW-Authenticate: Bearer error=\"invalid_token\", realm=\"pier\"", false),
        (&token, "WWW-Authenticate: bearer realm=pier, error=invalid_token, scope=\"a b\"", false),
        (
            &token,
            "WWW-Authenticate: Basic realm=\"pier\", Bearer error=\"invalid_token\", realm=\"pier\"",
            false,
        ),
        (
            &token,
            "WWW-Authenticate: Bearer realm=\"pier\", DPoP error=\"invalid_token\", algs=\"ES256\"",
            true,
        ),
        // A comma in quotation marks separates nothing, and space around `=` is allowed.
        (
            &token,
            r#"WWW-Authenticate: Bearer scope="a, Basic", error = "invalid_token", realm="pier""#,
            false,
        ),
        (
            &token,
            r#"WWW-Authenticate: Bearer scope="a\", b", error="invalid_token", realm="pier""#,
            false,
        ),
        (&token, "WWW-Authenticate: Bearer realm=\"pier\"", true),
        (&token, "WWW-Authenticate: Bearer error=\"invalid_request\", realm=\"pier\"", true),
        (&bearer, "WWW-Authenticate: Basic realm=\"pier\", Bearer", false),
        (&bearer, "WWW-Authenticate: Basic realm=\"Bearer\"", true),
    ] {
        let required =
            if header.starts_with("Vary") { "WWW-Authenticate: Basic realm=a\n" } else { "" };
        let answer = format!(
            "HTTP/1.1 401 X\n{required}{header}\nContent-Type: application/json\n\n{{\"detail\":\"no JSON here\"}}"
        );
        let expected: &[&str] = if is_broken { &["header.declared"] } else { &[] };
        assert_eq!(clauses(contract, REQUEST, &answer), expected, "{header}");
    }
}

#[test]
fn headers_of_errors_can_stand_at_endpoints_and_groups() {
    let contract = pier(
        "[error]\nheaders = { X-Trace = \"string matching ^[0-9a-f]+$\" }\n\
         [fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]\n\
         [group.all]\nendpoints = [\"* /moorings\"]\n\
         error-headers = { Cache-Control = \"list containing no-store\", X-Trace = \"integer\" }",
        "error-headers = { x-trace = \"exactly 7\" }",
    );
    for (headers, broken) in [
        ("Cache-Control: no-store\nX-Trace: 7\n", &[][..]),
        // The more specific rule wins over the group's and that of every error.
        ("Cache-Control: no-store\nX-Trace: 8\n", &["header.declared"]),
        ("Cache-Control: private\nX-Trace: 7\n", &["header.declared"]),
    ] {
        let answer = refused(headers, "{\"detail\":\"no JSON here\"}");
        assert_eq!(clauses(&contract, REQUEST, &answer), broken, "{headers}");
    }
    let made = "HTTP/1.1 201 X\nContent-Type: application/json\n\n{}";
    assert_eq!(clauses(&contract, &format!("{REQUEST}1}}"), made), &[][..] as &[&str]);
}

/// A body of stays, with a rule across its members.
fn stay(rule: &str) -> String {
    pier(
        "[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]\n\
         [shape.leg]\nstarts = \"optional date-time\"\nends = \"optional date-time\"",
        &format!(
            "body-rules = [{rule}]\n[endpoint.\"POST /moorings\".body-members]\n\
             arrives = \"optional date\"\ndeparts = \"optional date\"\nfrom = \"optional integer or string\"\n\
             to = \"optional integer or string\"\nlegs = \"optional array of leg\""
        ),
    )
}

#[test]
fn rules_across_members_are_broken_at_the_member_that_is_reported() {
    let later = stay(r#"{ member = "/departs", later-than = "/arrives" }"#);
    let greater = stay(r#"{ member = "/to", later-than = "/from" }"#);
    let differs = stay(r#"{ member = "/to", differs-from = "/from" }"#);
    let with = stay(r#"{ member = "/to", required-with = "/from" }"#);
    let one = stay(r#"{ member = "/from", one-of = ["/from", "/arrives"] }"#);
    let legs = stay(r#"{ member = "/legs/*/ends", later-than = "/legs/*/starts" }"#);
    for (contract, body, at) in [
        (&later, r#"{"arrives":"2027-01-31","departs":"2027-02-01"}"#, ""),
        (&later, r#"{"arrives":"2027-01-31","departs":"2027-01-31"}"#, "/departs"),
        (&later, r#"{"arrives":"2027-12-31","departs":"2027-02-01"}"#, "/departs"),
        (&later, r#"{"departs":"2027-02-01"}"#, ""),
        (&greater, r#"{"from":9007199254740992,"to":9007199254740993}"#, ""),
        (&greater, r#"{"from":2,"to":2}"#, "/to"),
        // Numbers and texts are not compared.
        (&greater, r#"{"from":2,"to":"1"}"#, ""),
        (&greater, r#"{"from":"b","to":"a"}"#, ""),
        (&differs, r#"{"from":2,"to":3}"#, ""),
        (&differs, r#"{"from":2,"to":2.0}"#, "/to"),
        (&differs, r#"{"from":"a","to":"a"}"#, "/to"),
        (&differs, r#"{"to":"a"}"#, ""),
        (&with, r#"{"from":1,"to":2}"#, ""),
        (&with, r#"{"to":2}"#, ""),
        (&with, r#"{"from":1}"#, "/to"),
        (&one, r#"{"from":1}"#, ""),
        (&one, r#"{"arrives":"2027-01-31"}"#, ""),
        (&one, r#"{}"#, "/from"),
        (&one, r#"{"from":1,"arrives":"2027-01-31"}"#, "/from"),
        (&legs, r#"{"legs":[]}"#, ""),
        (
            &legs,
            r#"{"legs":[{"starts":"2027-01-31T12:00:00Z","ends":"2027-01-31T12:00:00+01:00"}]}"#,
            "/legs/0/ends",
        ),
        (
            &legs,
            r#"{"legs":[{"starts":"2027-01-31T12:00:00Z","ends":"2027-01-31T12:00:00-01:00"},{"starts":"2027-01-31T12:00:00Z","ends":"2027-01-30T12:00:00Z"}]}"#,
            "/legs/1/ends",
        ),
    ] {
        let request = format!("POST /moorings\nContent-Type: application/json\n\n{body}");
        let made = "HTTP/1.1 201 X\nContent-Type: application/json\n\n{\"id\":1}";
        let expected: &[&str] = if at.is_empty() { &[] } else { &["situation.requires-error"] };
        assert_eq!(clauses(contract, &request, made), expected, "{body}");
        if !at.is_empty() {
            // The member is to be named, and no other.
            let naming = |pointer: &str| {
                format!(
                    "HTTP/1.1 422 X\nContent-Type: application/json\n\n\
                     {{\"errors\":[{{\"pointer\":\"{pointer}\",\"detail\":\"this does not go together\"}}]}}"
                )
            };
            assert_eq!(clauses(contract, &request, &naming(at)), &[][..] as &[&str], "{body}");
            let other = clauses(contract, &request, &naming("/elsewhere"));
            assert!(other.contains(&"validation.complete"), "{body}: {other:?}");
        }
    }
}

#[test]
fn groups_can_be_made_by_what_endpoints_have() {
    let contract = "contract = 1\nservers = [\"https://harbour.example\"]\n\
        [fault.bad-body]\nstatus = 422\nwhen = [\"invalid-body\"]\n\
        [fault.bad-query]\nstatus = 400\nwhen = [\"invalid-parameters\"]\n\
        [fault.none]\nstatus = 404\nwhen = [\"resource-not-found\"]\n\
        [fault.strict]\nstatus = 400\nwhen = [\"invalid-body\"]\n\
        [group.bodies]\nwith = [\"body\"]\nfaults = [\"bad-body\"]\n\
        [group.queries]\nwith = [\"query-parameters\"]\nfaults = [\"bad-query\"]\n\
        [group.ids]\nwith = [\"path-parameters\"]\nfaults = [\"none\"]\n\
        [group.both]\nendpoints = [\"* /**\"]\nwith = [\"body\", \"path-parameters\"]\nfaults = [\"strict\"]\n\
        [endpoint.\"POST /moorings\"]\nbody-members = { nights = \"integer\" }\n\
        [endpoint.\"PUT /moorings/{id}\"]\nbody-members = { nights = \"integer\" }\n\
        [endpoint.\"GET /moorings\"]\nparameters = { query = { page = \"optional integer\" } }\n\
        [endpoint.\"DELETE /moorings\"]\n";
    let parsed = faithful_clerk_check::parse_contract(contract);
    assert!(parsed.diagnostics.is_empty(), "{:#?}", parsed.diagnostics);
    let contract = parsed.contract.unwrap();
    let faults = |name: &str| -> Vec<&str> {
        let endpoint = contract.endpoints.iter().find(|endpoint| endpoint.name() == name).unwrap();
        let faults = endpoint.rules.faults.iter().filter_map(|id| contract.fault(*id));
        faults.map(|fault| fault.name.as_str()).collect()
    };
    assert_eq!(faults("POST /moorings"), ["bad-body"]);
    // That with more parts is more specific, so its fault for the situation displaces the other.
    assert_eq!(faults("PUT /moorings/{id}"), ["strict", "none"]);
    assert_eq!(faults("GET /moorings"), ["bad-query"]);
    assert!(faults("DELETE /moorings").is_empty());
}

#[test]
fn a_case_can_be_about_several_requests() {
    let contract = "contract = 1\nservers = [\"https://harbour.example\"]\n\
        [fault.gone]\nstatus = 409\nwhen = [\"conflict\"]\n\
        [case.old-quay]\nrequest = [\"GET /berths/{id}\", \"DELETE /berths/{id}?force=yes\"]\n\
        path = { id = \"string matching ^OLD-\" }\nexpect = \"gone\"\n\
        [endpoint.\"GET /berths/{id}\"]\nsuccess = [200]\nfaults = [\"gone\"]\n\
        [endpoint.\"DELETE /berths/{id}\"]\nsuccess = [200]\nfaults = [\"gone\"]\n\
        [endpoint.\"PUT /berths/{id}\"]\nsuccess = [200]\nfaults = [\"gone\"]\n";
    let done = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{\"id\":1}";
    for (request, broken) in [
        ("GET /berths/OLD-1", &["situation.requires-error"][..]),
        ("GET /berths/NEW-1", &[]),
        ("DELETE /berths/OLD-1?force=yes", &["situation.requires-error"]),
        ("DELETE /berths/OLD-1", &[]),
        ("PUT /berths/OLD-1", &[]),
    ] {
        assert_eq!(clauses(contract, request, done), broken, "{request}");
    }
    let parsed = faithful_clerk_check::parse_contract(contract);
    let names: Vec<String> =
        parsed.contract.unwrap().cases.into_iter().map(|case| case.name).collect();
    assert_eq!(names, ["old-quay", "old-quay (DELETE /berths/{id}?force=yes)"]);
    let saving =
        contract.replace("expect = \"gone\"", "expect = \"gone\"\nsave = { id = \"/id\" }");
    let told = faithful_clerk_check::parse_contract(&saving).diagnostics;
    assert_eq!(told[0].message, "a case that saves has one request");
}

#[test]
fn locations_have_the_agreed_spelling() {
    let with = |rule: &str| {
        pier(
            &format!(
                "[validation-errors]\n{rule}\n[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\", \"invalid-parameters\"]\n\
                 [shape.sailor]\nlast_name = \"string\"\nage = \"integer\""
            ),
            "parameters = { query = { page = \"optional integer\" } }\n\
             [endpoint.\"POST /moorings\".body-members]\nnights = \"integer\"\ncrew = \"optional array of sailor\"",
        )
    };
    let dotted = with("locations = \"dotted\"\nroot = \"$body\"");
    let bracketed = with("locations = \"bracketed\"");
    let pointers = with("locations = \"pointers\"");
    let tokens = with("locations = \"tokens\"");
    let parameters = with("parameters = \"{in}:{name}\"");
    let named = with("parameters = \"{name}\"");
    let crew = r#"{"nights":1,"crew":[{"last_name":"Ash","age":3},{"last_name":7,"age":3}]}"#;
    let nights = r#"{"nights":"two"}"#;
    for (contract, target, body, location, is_broken) in [
        (&dotted, "", crew, r#""crew.1.last_name""#, false),
        (&dotted, "", crew, r#""crew[1].last_name""#, true),
        (&dotted, "", crew, r#""crew.1.lastName""#, true),
        (&dotted, "", crew, r#""body.crew.1.last_name""#, true),
        (&dotted, "", crew, r#""/crew/1/last_name""#, true),
        (&dotted, "", nights, r#""nights""#, false),
        (&dotted, "", nights, r#""/nights""#, true),
        (&dotted, "", "[]", r#""$body""#, false),
        (&bracketed, "", crew, r#""crew[1].last_name""#, false),
        (&bracketed, "", crew, r#""crew.1.last_name""#, true),
        (&bracketed, "", nights, r#""nights""#, false),
        (&pointers, "", crew, r#""/crew/1/last_name""#, false),
        (&pointers, "", crew, r##""#/crew/1/last_name""##, false),
        (&pointers, "", nights, r#""nights""#, true),
        (&tokens, "", crew, r#"["crew",1,"last_name"]"#, false),
        (&tokens, "", crew, r#""crew.1.last_name""#, true),
        (&parameters, "?page=x", r#"{"nights":1}"#, r#""query:page""#, false),
        (&parameters, "?page=x", r#"{"nights":1}"#, r#""page""#, true),
        (&named, "?page=x", r#"{"nights":1}"#, r#""page""#, false),
        (&named, "?page=x", r#"{"nights":1}"#, r#""query.page""#, true),
        // What is not agreed may be written in any way.
        (&parameters, "", nights, r#""/nights""#, false),
        (&dotted, "?page=x", r#"{"nights":1}"#, r#""query:page""#, false),
    ] {
        let request = format!("POST /moorings{target}\nContent-Type: application/json\n\n{body}");
        let answer = format!(
            "HTTP/1.1 422 X\nContent-Type: application/json\n\n\
             {{\"errors\":[{{\"location\":{location},\"message\":\"this has another type\"}}]}}"
        );
        let found = clauses(contract, &request, &answer);
        let expected: &[&str] = if is_broken { &["validation.location-style"] } else { &[] };
        assert_eq!(found, expected, "{target} {location}");
    }
}
