//! Problem details, a strict precedence, preconditions, and a part of the service that talks in lines of text.

use super::harness::{Agreement, Kept, broken};

const MILL: Agreement =
    Agreement { prose: include_str!("tide-mill.md"), contract: include_str!("tide-mill.toml") };

const TOKEN: &str = "X-Mill-Token: t-1\n";
const SACK: &str = r#"{"grain":"rye","weight_kg":40}"#;

fn request(line: &str, headers: &str, body: &str) -> String {
    let (method, path) = line.split_once(' ').unwrap();
    let host = if path.starts_with("/gauges") { "gauges.mill" } else { "mill" };
    let media = if body.is_empty() { "" } else { "Content-Type: application/json\n" };
    format!(
        "{method} https://{host}.example{path}\nAccept: application/json, application/problem+json\n{headers}{media}\n{body}"
    )
}

fn problem(
    line: &str,
    headers: &str,
    body: &str,
    status: u16,
    told: (&str, &str),
    more: (&str, &str),
) -> Kept {
    let ((name, title), (more_headers, members)) = (told, more);
    Kept {
        request: request(line, headers, body),
        response: format!(
            "HTTP/1.1 {status} X\nRecorded-Time: 90\nContent-Type: application/problem+json\nVary: Accept\nX-Occurrence: urn:uuid:1-2-3\n{more_headers}\n\
             {{\"type\":\"https://mill.example/problems/{name}\",\"title\":\"{title}\",\"status\":{status},\
             \"detail\":\"so it stands with the mill\",\"instance\":\"urn:uuid:1-2-3\"{members}}}"
        ),
    }
}

fn served(line: &str, headers: &str, body: &str, status: u16, more: &str, answer: &str) -> Kept {
    let media = if answer.is_empty() { "" } else { "Content-Type: application/json\n" };
    Kept {
        request: request(line, headers, body),
        response: format!("HTTP/1.1 {status} X\nRecorded-Time: 90\n{media}{more}\n{answer}"),
    }
}

fn line(of: &str, body: &str, status: u16, reason: &str, text: &str) -> Kept {
    Kept {
        request: request(of, "", body),
        response: format!(
            "HTTP/1.1 {status} X\nRecorded-Time: 90\nContent-Type: text/plain\nVary: Accept\nX-Occurrence: urn:uuid:1\nX-Reason: {reason}\n\n{text}"
        ),
    }
}

#[test]
fn every_sentence_of_the_tide_mill_is_held_to() {
    let key = format!("{TOKEN}Idempotency-Key: k-1\n");
    let version = format!("{TOKEN}If-Match: \"7\"\n");
    let nowhere =
        problem("GET /boats", "", "", 404, ("no-such-path", "There is no such path"), ("", ""));
    let no_method = problem(
        "PATCH /sacks",
        "",
        "",
        405,
        ("no-such-method", "The method is not offered"),
        ("Allow: GET, HEAD, POST\n", ""),
    );
    let who = problem(
        "GET /sacks",
        "",
        "",
        401,
        ("who-are-you", "A token is needed"),
        ("WWW-Authenticate: Mill\n", ""),
    );
    let left = problem(
        "GET /sacks",
        "X-Mill-Token: left-1\n",
        "",
        403,
        ("not-yours", "That is not yours"),
        ("", ""),
    );
    let form =
        problem("GET /sacks", TOKEN, "", 406, ("no-such-form", "There is no such form"), ("", ""));
    let form = Kept {
        request: form.request.replace("application/json, application/problem+json", "text/csv"),
        ..form
    };
    let form = Kept {
        response: form.response.replace("so it stands with the mill", "there is application/json"),
        ..form
    };
    let wrong_form = problem(
        "POST /sacks",
        &key,
        SACK,
        415,
        ("wrong-form", "That form is not taken"),
        ("Accept: application/json\n", ""),
    );
    let wrong_form = Kept {
        request: wrong_form.request.replace("Type: application/json", "Type: text/csv"),
        ..wrong_form
    };
    let long = format!("{{\"grain\":\"rye\",\"weight_kg\":40{}}}", " ".repeat(1100));
    let large =
        problem("POST /sacks", &key, &long, 413, ("too-large", "That is too large"), ("", ""));
    let cut = problem(
        "POST /sacks",
        &key,
        "{\"grain\":",
        400,
        ("not-readable", "That can't be read"),
        ("", ""),
    );
    let one =
        |at: &str, reason: &str| format!("{{\"pointer\":\"#/{at}\",\"reason\":\"{reason}\"}}");
    let all = |entries: &[String]| format!(",\"violations\":[{}]", entries.join(","));
    let told = ("not-valid", "That is not valid");
    let missing = "{\"pointer\":\"#\",\"member\":\"grain\",\"reason\":\"missing\"}".to_owned();
    let two = all(&[missing.clone(), one("weight_kg", "range")]);
    let invalid = problem("POST /sacks", &key, r#"{"weight_kg":99}"#, 422, told, ("", &two));
    let unknown = all(&[one("lens", "unknown")]);
    let lens_body = r#"{"grain":"rye","weight_kg":40,"lens":1}"#;
    let lens = problem("POST /sacks", &key, lens_body, 422, told, ("", &unknown));
    let page = all(&["{\"parameter\":\"limit\",\"reason\":\"range\"}".to_owned()]);
    let bad_limit = problem("GET /sacks?limit=0", TOKEN, "", 422, told, ("", &page));
    let none = problem(
        "GET /sacks/0000abcd",
        TOKEN,
        "",
        404,
        ("no-such-thing", "There is no such thing"),
        ("", ""),
    );
    let which = problem(
        "DELETE /sacks/0000abcd",
        TOKEN,
        "",
        428,
        ("say-which", "Say which version"),
        ("", ""),
    );
    let changed = problem(
        "DELETE /sacks/0000abcd",
        &version,
        "",
        412,
        ("changed", "It has changed"),
        ("", ""),
    );
    let now = problem(
        "PUT /sacks/f000abcd",
        &version,
        SACK,
        409,
        ("not-now", "That can't be done now"),
        ("", ",\"ground_until\":\"Tue, 15 Nov 2033 08:12:31 GMT\""),
    );
    let no_key =
        problem("POST /sacks", TOKEN, SACK, 400, ("no-key", "A key is needed for that"), ("", ""));
    let used = problem(
        "POST /sacks",
        &key.replace("k-1", "used-1"),
        SACK,
        409,
        ("key-used", "The key was used"),
        ("", ",\"sack\":\"0000abcd\""),
    );
    let still = problem(
        "GET /sacks",
        TOKEN,
        "",
        503,
        ("standing", "The mill stands still"),
        ("Retry-After: 60\n", ""),
    );
    let fails = problem("GET /sacks", TOKEN, "", 500, ("broken", "The mill is broken"), ("", ""));
    let sacks = served("GET /sacks?limit=5&grain=rye&colour=7", TOKEN, "", 200, "", "[]");
    let sacks = Kept { response: sacks.response.replace("[]", "{\"sacks\":[]}"), ..sacks };
    let sack =
        served("GET /sacks/0000abcd", TOKEN, "", 200, "ETag: \"7\"\n", "{\"id\":\"0000abcd\"}");
    let made = served(
        "POST /sacks",
        &key,
        r#"{"grain":"rye","weight_kg":40,"ground_from":"2027-01-01","ground_until":"2027-01-01","miller":"Ida"}"#,
        201,
        "Location: /sacks/0000abcd\nETag: \"1\"\n",
        "{\"id\":\"0000abcd\"}",
    );
    let put = served("PUT /sacks/0000abcd", &version, SACK, 200, "", "{\"id\":\"0000abcd\"}");
    let deleted = served("DELETE /sacks/0000abcd", &version, "", 204, "", "");
    let gauge_gone = line("GET /gauges/north", "", 404, "gone", "there is no gauge north");
    let out_of_range =
        line("PUT /gauges/north", "{\"level\":11}", 422, "range", "level has to be from -10 to 10");
    let gauge_nowhere =
        line("GET /gauges/north/south", "", 404, "nowhere", "there is nothing here");
    let level = served("PUT /gauges/north", "", "{\"level\":1}", 200, "", "{\"level\":1}");

    const STATUS: &[&str] = &["status.fits-situation the status line"];
    const ACCEPTED: &[&str] = &["situation.requires-error the status line"];
    const TITLE: &[&str] = &["problem.title-declared body /title"];
    let mixed =
        |of: &Kept, by: &Kept| Kept { request: of.request.clone(), response: by.response.clone() };
    // Two things are wrong, and the later one is told.
    let later = |of: &Kept, change: (&str, &str), by: &Kept| Kept {
        request: of.request.replace(change.0, change.1),
        response: by.response.clone(),
    };
    let xml = Kept {
        request: none.request.replace(
            "application/json, application/problem+json",
            "application/json, application/problem+xml, application/problem+json;q=0.5",
        ),
        ..none.clone()
    };
    let credentials_late = later(&who, ("GET", "PATCH"), &who);
    let left_late = later(&left, ("application/json, application/problem+json", "text/csv"), &form);
    let form_late =
        later(&wrong_form, ("application/json, application/problem+json", "text/csv"), &wrong_form);
    let media_late = later(&large, ("Type: application/json", "Type: text/csv"), &large);
    let size_late = Kept {
        request: large.request.replace("\"weight_kg\":40", "\"weight_kg\":"),
        response: cut.response.clone(),
    };
    let read_late = mixed(&cut, &invalid);
    let valid_late = Kept { request: bad_limit.request.clone(), response: none.response.clone() };
    let found_late =
        Kept { request: which.request.replace("0000abcd", "00000000"), ..which.clone() };
    let which_late = Kept { request: which.request.clone(), response: changed.response.clone() };
    let changed_late =
        Kept { request: now.request.replace("If-Match: \"7\"", "If-Match: \"0\""), ..now.clone() };
    let silent = mixed(&who, &sacks);
    let old =
        Kept { request: put.request.replace("If-Match: \"7\"", "If-Match: \"0\""), ..put.clone() };
    let never = Kept { request: sack.request.replace("0000abcd", "00000000"), ..sack.clone() };
    let ground = mixed(&now, &put);
    let keyless = mixed(&no_key, &made);
    let used_again = mixed(&used, &made);
    let gauge_problem = mixed(&gauge_gone, &none);
    let gauge_token = line("PUT /gauges/north", "{\"level\":1}", 401, "token", "a token is needed");
    let breaks = [
        broken(
            1,
            &none,
            &[("\"detail\":\"so it stands with the mill\",", "")],
            &["problem.required-members body /detail"],
        ),
        broken(
            2,
            &none,
            &[("problems/no-such-thing", "problems/nothing")],
            &["problem.type-declared body /type"],
        ),
        broken(3, &none, &[("There is no such thing", "Not found")], TITLE),
        broken(
            4,
            &none,
            &[("\"status\":404", "\"status\":400")],
            &["problem.status-agrees body /status"],
        ),
        broken(
            5,
            &none,
            &[("so it stands with the mill", &"so it is ".repeat(23))],
            &["shape.declared body /detail"],
        ),
        broken(
            6,
            &none,
            &[("\"instance\":\"urn:uuid:1-2-3\"", "\"instance\":\"urn:uuid:3-2-1\"")],
            &["shape.declared body /instance"],
        ),
        broken(7, &xml, &[], &["media.declared header Content-Type"]),
        broken(8, &none, &[("Vary: Accept", "Vary: Origin")], &["header.declared header Vary"]),
        broken(
            9,
            &none,
            &[("Vary: Accept", "Vary: Accept\nX-Powered-By: water")],
            &["header.declared header X-Powered-By"],
        ),
        broken(10, &none, &[("\"title\"", "\"tide\":1,\"title\"")], &["shape.declared body /tide"]),
        broken(
            11,
            &sacks,
            &[("Recorded-Time: 90", "Recorded-Time: 1001")],
            &["exchange.in-time the exchange"],
        ),
        broken(12, &nowhere, &[("There is no such path", "Not Found")], TITLE),
        broken(13, &credentials_late, &[], STATUS),
        broken(14, &silent, &[], ACCEPTED),
        broken(15, &left_late, &[], STATUS),
        broken(16, &form_late, &[], STATUS),
        broken(17, &media_late, &[], STATUS),
        broken(18, &size_late, &[], STATUS),
        broken(19, &read_late, &[], STATUS),
        broken(20, &valid_late, &[("/sacks?limit=0", "/sacks/xyz")], STATUS),
        broken(21, &found_late, &[], STATUS),
        broken(22, &which_late, &[], STATUS),
        broken(23, &changed_late, &[], STATUS),
        broken(24, &now, &[("That can't be done now", "Not now")], TITLE),
        broken(
            25,
            &invalid,
            &[("\"reason\":\"range\"", "\"why\":\"range\"")],
            &["shape.declared body /violations/1/reason", "shape.declared body /violations/1/why"],
        ),
        broken(
            26,
            &invalid,
            &[("#/weight_kg", "/weight_kg")],
            &["validation.location-style body /violations/1/pointer"],
        ),
        broken(
            27,
            &invalid,
            &[("\"pointer\":\"#\"", "\"pointer\":\"#/grain\"")],
            &["validation.location-style body /violations/0/pointer"],
        ),
        broken(
            28,
            &invalid,
            &[("\"member\":\"grain\"", "\"member\":\"sack\"")],
            &["validation.complete body /violations"],
        ),
        broken(
            29,
            &lens,
            &[("\"pointer\":\"#/lens\"", "\"pointer\":\"#\",\"member\":\"lens\"")],
            &["validation.location-style body /violations/0/pointer"],
        ),
        broken(
            30,
            &bad_limit,
            &[("\"parameter\":\"limit\"", "\"parameter\":\"query.limit\"")],
            &["validation.location-style body /violations/0/parameter"],
        ),
        broken(
            31,
            &invalid,
            &[(
                &one("weight_kg", "range"),
                &format!("{},{}", one("weight_kg", "range"), one("weight_kg", "type")),
            )],
            &["validation.no-duplicates body /violations/2"],
        ),
        broken(
            32,
            &bad_limit,
            &[("\"reason\":\"range\"", "\"reason\":\"size\"")],
            &["shape.declared body /violations/0/reason"],
        ),
        broken(33, &sack, &[("0000abcd", "sack-one")], ACCEPTED),
        broken(34, &sack, &[("ETag: \"7\"\n", "")], &["header.declared header ETag"]),
        broken(35, &sacks, &[("grain=rye", "grain=sand")], ACCEPTED),
        broken(36, &sacks, &[("limit=5", "limit=101")], ACCEPTED),
        broken(37, &bad_limit, &[("?limit=0", "?tide=low")], STATUS),
        broken(38, &made, &[("\"grain\":\"rye\",", "")], ACCEPTED),
        broken(
            39,
            &made,
            &[("\"ground_until\":\"2027-01-01\"", "\"ground_until\":\"2026-12-31\"")],
            ACCEPTED,
        ),
        broken(40, &keyless, &[], ACCEPTED),
        broken(41, &made, &[("\"Ida\"", "\"nobody\"")], ACCEPTED),
        broken(42, &used_again, &[], ACCEPTED),
        broken(43, &made, &[("ETag: \"1\"\n", "")], &["header.declared header ETag"]),
        broken(44, &put, &[("If-Match: \"7\"\n", "")], ACCEPTED),
        broken(45, &old, &[], ACCEPTED),
        broken(46, &never, &[], ACCEPTED),
        broken(47, &ground, &[], ACCEPTED),
        broken(48, &deleted, &[("204 X", "200 X")], &["status.declared the status line"]),
        broken(
            49,
            &gauge_problem,
            &[],
            &["header.declared header X-Reason", "media.declared header Content-Type"],
        ),
        broken(
            50,
            &gauge_gone,
            &[("X-Reason: gone", "X-Reason: lost")],
            &["header.declared header X-Reason"],
        ),
        broken(
            51,
            &gauge_token,
            &[("X-Reason: token", "WWW-Authenticate: Mill")],
            &["status.declared the status line"],
        ),
        // Nothing in the request shows that the gauge is not there; a 410 is declared for nobody.
        broken(52, &gauge_gone, &[("404 X", "410 X")], &["status.declared the status line"]),
        broken(
            53,
            &out_of_range,
            &[("level has to be", "that has to be")],
            &["validation.complete the body"],
        ),
        broken(
            54,
            &gauge_nowhere,
            &[("X-Reason: nowhere", "X-Reason: gone")],
            &["header.declared header X-Reason"],
        ),
        broken(55, &gauge_gone, &[("gauges.mill.example", "mill.example")], &["excluded"]),
        broken(
            56,
            &still,
            &[("Retry-After: 60", "Retry-After: Tue, 15 Nov 2033 08:12:31 GMT")],
            &["header.declared header Retry-After"],
        ),
        broken(
            57,
            &fails,
            &[("The mill is broken", "Oops")],
            &["problem.title-declared body /title", "situation.valid-served the status line"],
        ),
        broken(
            58,
            &sack,
            &[("{\"id\"", "{\"problem\":null,\"id\"")],
            &["success.shape-declared body /problem"],
        ),
        broken(
            59,
            &still,
            &[("so it stands with the mill", "at com.example.Mill.turn(Mill.java:7)")],
            &["disclosure.stack-trace body /detail"],
        ),
        broken(
            60,
            &sacks,
            &[("Type: application/json", "Type: text/csv")],
            &["success.media-declared header Content-Type"],
        ),
    ];
    MILL.holds(
        &[
            &nowhere,
            &no_method,
            &who,
            &left,
            &form,
            &wrong_form,
            &large,
            &cut,
            &invalid,
            &lens,
            &bad_limit,
            &none,
            &which,
            &changed,
            &now,
            &no_key,
            &used,
            &still,
            &sacks,
            &sack,
            &made,
            &put,
            &deleted,
            &gauge_gone,
            &out_of_range,
            &gauge_nowhere,
            &level,
        ],
        &breaks,
    );
}
