//! What of a language construct is agreed beyond the shape of one value: other headers, other members, other violations,
//! other paths.

use crate::judging::clauses;
use crate::language::{REQUEST, pier, refused};

/// A shape with these members, and a response whose headers and body are these.
fn members(shape: &str, headers: &str, body: &str) -> Vec<&'static str> {
    let contract = pier(
        &format!(
            "[error]\nshape = \"refusal\"\n[shape.refusal]\nmessage = \"string\"\n{shape}\n\
             [fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]"
        ),
        "",
    );
    let body = format!("{{\"message\":\"no JSON here\"{body}}}");
    let request = REQUEST.replacen('\n', "\nX-Trace: t-1\n", 1);
    clauses(&contract, &request, &refused(headers, &body))
}

#[test]
fn a_member_can_be_the_same_as_a_header() {
    for (expression, headers, body, is_broken) in [
        ("same as header X-Request-Id", "X-Request-Id: r-1\n", r#","id":"r-1""#, false),
        ("same as header X-Request-Id", "X-Request-Id: r-1\n", r#","id":"r-2""#, true),
        ("same as header X-Request-Id", "X-Request-Id: r-1\n", "", true),
        ("optional same as header x-request-id", "X-Request-Id: r-1\n", "", false),
        ("same as header X-Request-Id", "X-Request-Id: 7\n", r#","id":7"#, false),
        // A header of the request, where the response has none; and nothing to compare with at all.
        ("same as header X-Trace", "", r#","id":"t-1""#, false),
        ("same as header X-Trace", "", r#","id":"t-2""#, true),
        ("same as header X-Trace", "X-Trace: t-2\n", r#","id":"t-2""#, false),
        ("same as header X-None", "", r#","id":"any""#, false),
        ("null or same as header X-Trace", "", r#","id":null"#, false),
        ("null or same as header X-Trace", "", r#","id":"t-2""#, true),
    ] {
        let found = members(&format!("id = \"{expression}\""), headers, body);
        let expected: &[&str] = if is_broken { &["shape.declared"] } else { &[] };
        assert_eq!(found, expected, "{expression}: {headers}{body}");
    }
    let contract = pier(
        "[error]\nheaders = { X-Trace = \"same as header X-Trace\" }\n\
         [fault.refused]\nstatus = 422\nwhen = [\"malformed-body\"]",
        "",
    );
    let request = REQUEST.replacen('\n', "\nX-Trace: t-1\n", 1);
    for (headers, broken) in [
        ("X-Trace: t-1\n", &[][..]),
        ("X-Trace: t-2\n", &["header.declared"]),
        ("", &["header.declared"]),
    ] {
        let answer = refused(headers, "{\"message\":\"no JSON here\"}");
        assert_eq!(clauses(&contract, &request, &answer), broken, "{headers}");
    }
}

#[test]
fn a_member_can_be_not_before_another() {
    for (of, body, is_broken) in [
        ("date", r#","a":"2027-01-31","b":"2027-01-31""#, false),
        ("date", r#","a":"2027-01-31","b":"2027-01-30""#, true),
        ("date", r#","b":"2027-01-30""#, false),
        ("date-time", r#","a":"2027-01-31T12:00:00Z","b":"2027-01-31T13:00:00+02:00""#, true),
        ("date-time", r#","a":"2027-01-31T12:00:00Z","b":"2027-01-31T13:00:00+01:00""#, false),
        (
            "http-date",
            r#","a":"Tue, 15 Nov 2033 08:12:31 GMT","b":"Tue, 15 Nov 2033 08:12:30 GMT""#,
            true,
        ),
        ("integer", r#","a":10,"b":9"#, true),
        ("integer", r#","a":9,"b":10"#, false),
        // Values of two kinds are not compared.
        ("integer", r#","a":"10","b":9"#, false),
    ] {
        let shape = format!("a = \"optional anything\"\nb = \"{of} not before a\"");
        let expected: &[&str] = if is_broken { &["shape.declared"] } else { &[] };
        assert_eq!(members(&shape, "", body), expected, "{of}: {body}");
    }
    // In a request it is a rule like any other.
    let contract = pier(
        "[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]",
        "body-members = { a = \"date\", b = \"date not before a\" }",
    );
    let request = |b: &str| {
        format!(
            "POST /moorings\nContent-Type: application/json\n\n{{\"a\":\"2027-01-31\",\"b\":\"{b}\"}}"
        )
    };
    let made = "HTTP/1.1 201 Created\nContent-Type: application/json\n\n{}";
    assert_eq!(clauses(&contract, &request("2027-02-01"), made), [""; 0]);
    assert_eq!(clauses(&contract, &request("2027-01-30"), made), ["situation.requires-error"]);
}

/// How violations are counted, and where a missing member has its name.
#[test]
fn violations_are_told_apart_by_what_is_agreed() {
    let contract = |rule: &str| {
        pier(
            &format!(
                "[validation-errors]\n{rule}\n\
                 [envelope]\nfields = {{ each = \"/errors/*\", location = \"/at\", code = \"/rule\", message = \"/why\" }}\n\
                 [fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]"
            ),
            "body-members = { nights = \"integer from 1 to 3\", crew = \"member\" }\n[shape.member]\nname = \"string\"",
        )
    };
    let sent = |rule: &str, body: &str, errors: &str| {
        let request = format!("POST /moorings\nContent-Type: application/json\n\n{body}");
        clauses(&contract(rule), &request, &refused("", &format!("{{\"errors\":[{errors}]}}")))
    };
    let nights = r#"{"nights":9,"crew":{"name":"Ida"}}"#;
    let one = r#"{"at":"/nights","rule":"range","why":"at most 3"}"#;
    let same_rule = r#"{"at":"/nights","rule":"range","why":"no more than 3"}"#;
    let other_rule = r#"{"at":"/nights","rule":"even","why":"only even numbers"}"#;
    for (rule, second, is_broken) in [
        ("", same_rule, false),
        ("", other_rule, false),
        ("", one, true),
        ("duplicates = \"by rule\"", same_rule, true),
        ("duplicates = \"by rule\"", other_rule, false),
        ("duplicates = \"by location\"", other_rule, true),
    ] {
        let expected: &[&str] = if is_broken { &["validation.no-duplicates"] } else { &[] };
        assert_eq!(sent(rule, nights, &format!("{one},{second}")), expected, "{rule}: {second}");
    }
    let by_parent = "missing = \"parent\"\nmissing-member = \"/member\"";
    let nameless = r#"{"nights":1,"crew":{}}"#;
    for (entry, broken) in [
        (r#"{"at":"/crew","member":"name","rule":"missing","why":"has to be there"}"#, &[][..]),
        (
            r#"{"at":"/crew","member":"rank","rule":"missing","why":"has to be there"}"#,
            &["validation.complete"],
        ),
        (r#"{"at":"/crew","rule":"missing","why":"has to be there"}"#, &["validation.complete"]),
        (
            r#"{"at":"/crew","rule":"missing","why":"the name is missing"}"#,
            &["validation.location-style"],
        ),
        (
            r#"{"at":"/crew/name","member":"name","rule":"missing","why":"is missing"}"#,
            &["validation.location-style"],
        ),
    ] {
        assert_eq!(sent(by_parent, nameless, entry), broken, "{entry}");
    }
}

/// A path with a slash too many is redirected, where that is agreed.
#[test]
fn a_slash_too_many_is_redirected_where_that_is_agreed() {
    let contract = |slash: &str| {
        format!(
            "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[paths]\ntrailing-slash = \"{slash}\"\n\
             [fault.nowhere]\nstatus = 404\nwhen = [\"unknown-route\"]\n[fault.busy]\nstatus = 503\nany-request = true\n\
             [everywhere]\nfaults = [\"nowhere\", \"busy\"]\n\
             [endpoint.\"GET /berths\"]\n[endpoint.\"GET /quays/\"]\n"
        )
    };
    let redirect = |to: &str| format!("HTTP/1.1 308 X\nLocation: {to}\n\n");
    let plain =
        |status: u16| format!("HTTP/1.1 {status} X\nContent-Type: text/plain\n\nno such path here");
    for (path, answer, is_broken) in [
        ("/v1/berths/", redirect("/v1/berths"), false),
        ("/v1/berths/", redirect("../berths"), false),
        ("/v1/berths/", redirect("https://harbour.example/v1/berths"), false),
        ("/v1/berths/?free=yes", redirect("/v1/berths?free=yes"), false),
        ("/v1/quays", redirect("/v1/quays/"), false),
        ("/v1/berths/", redirect("/v1/"), true),
        ("/v1/berths/", redirect("https://elsewhere.example/v1/berths"), true),
        ("/v1/berths/", "HTTP/1.1 308 X\n\n".to_owned(), true),
        ("/v1/berths/", plain(404), true),
        ("/v1/berths/", "HTTP/1.1 200 OK\nContent-Type: application/json\n\n[]".to_owned(), true),
        ("/v1/berths/", plain(503), false),
        ("/v1/boats/", plain(404), false),
    ] {
        let expected: &[&str] = if is_broken { &["status.redirect-declared"] } else { &[] };
        let found = clauses(&contract("redirected"), &format!("GET {path}"), &answer);
        let found: Vec<_> = found.into_iter().filter(|one| *one != "header.retry-after").collect();
        assert_eq!(found, expected, "{path}: {answer}");
        // Where it is not agreed, it is a path like any other; a redirect there is a page's.
        if !answer.contains(" 404 ") {
            continue;
        }
        let found = clauses(&contract("distinct"), &format!("GET {path}"), &answer);
        assert!(!found.contains(&"status.redirect-declared"), "{path}");
    }
}

/// A fault that is told in prose is read for the fields that it names.
#[test]
fn prose_is_read_for_the_fields_that_it_names() {
    let contract = |media: &str| {
        pier(
            &format!("{media}[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]"),
            "body-members = { nights = \"integer from 1 to 3\", berth = \"string\" }",
        )
    };
    let request = "POST /moorings\nContent-Type: application/json\n\n{\"nights\":9,\"berth\":7}";
    let plain = "[error]\nmedia = \"text/plain\"\n";
    for (declared, media, body, is_broken) in [
        ("", "text/plain", "nights is at most 3, and berth is text", false),
        ("", "text/plain", "nights is at most 3", true),
        (
            "",
            "text/html",
            "<html><body><p>nights: at most 3</p><p>berth: text</p></body></html>",
            false,
        ),
        (
            "",
            "text/html",
            "<html><body><p class=\"berth\">nights: at most 3</p></body></html>",
            true,
        ),
        // Prose where nobody has agreed on it names nothing: that it is prose is for other clauses.
        ("", "text/plain", "the request is not valid", false),
        (plain, "text/plain", "the request is not valid", true),
        (plain, "text/plain", "nights is at most 3, and berth is text", false),
    ] {
        let answer = format!("HTTP/1.1 422 X\nContent-Type: {media}\n\n{body}");
        let found = clauses(&contract(declared), request, &answer);
        assert_eq!(
            found.contains(&"validation.complete"),
            is_broken,
            "{declared}{body}: {found:?}"
        );
    }
}

/// The credentials that an endpoint takes, by their schemes.
#[test]
fn credentials_have_schemes() {
    let contract = pier(
        "[fault.refused]\nstatus = 422\nwhen = [\"invalid-body\"]\n[fault.who]\nstatus = 401\nwhen = [\"missing-credentials\"]\n\
         [everywhere]\nfaults = [\"who\"]\nauth = [\"Bearer\", \"header X-Api-Key and header X-Tenant\", \"query key\", \"cookie session\"]",
        "body-members = { nights = \"integer\" }",
    );
    for (target, headers, is_missing) in [
        ("/moorings", "Authorization: Bearer x", false),
        ("/moorings", "Authorization: bearer x", false),
        ("/moorings", "Authorization: Basic x", true),
        ("/moorings", "X-Api-Key: x", true),
        ("/moorings", "X-Api-Key: x\nX-Tenant: y", false),
        ("/moorings?key=7", "X-Other: 1", false),
        ("/moorings", "Cookie: a=1; session=2", false),
        ("/moorings", "Cookie: a=1", true),
        ("/moorings", "X-Other: 1", true),
    ] {
        let request =
            format!("POST {target}\n{headers}\nContent-Type: application/json\n\n{{\"nights\":1}}");
        let made = "HTTP/1.1 201 Created\nContent-Type: application/json\n\n{}";
        let expected: &[&str] = if is_missing { &["situation.requires-error"] } else { &[] };
        assert_eq!(clauses(&contract, &request, made), expected, "{target} {headers}");
    }
}

/// A case can be about all endpoints of a group.
#[test]
fn a_case_can_be_about_a_group() {
    let contract = "contract = 1\nservers = [\"https://harbour.example\"]\n\
        [fault.closed]\nstatus = 409\nwhen = [\"conflict\"]\n\
        [group.writing]\nendpoints = [\"POST /**\", \"PUT /**\"]\nfaults = [\"closed\"]\n\
        [endpoint.\"POST /berths\"]\n[endpoint.\"PUT /berths/{id}\"]\n[endpoint.\"GET /berths/{id}\"]\n\
        [case.closed]\ngroup = \"writing\"\nheaders = { X-Harbour = \"exactly closed\" }\nexpect = \"closed\"\n";
    let fine = "HTTP/1.1 200 OK\nContent-Type: application/json\n\n{}";
    for (request, headers, is_broken) in [
        ("POST /berths", "X-Harbour: closed", true),
        ("PUT /berths/7", "X-Harbour: closed", true),
        ("PUT /berths/7", "X-Harbour: open", false),
        ("GET /berths/7", "X-Harbour: closed", false),
    ] {
        let expected: &[&str] = if is_broken { &["situation.requires-error"] } else { &[] };
        assert_eq!(
            clauses(contract, &format!("{request}\n{headers}"), fine),
            expected,
            "{request}"
        );
    }
}
