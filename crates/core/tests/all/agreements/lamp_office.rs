//! An envelope with codes that are words, and texts in two languages.

use super::harness::{Agreement, Kept, broken};

const OFFICE: Agreement =
    Agreement { prose: include_str!("lamp-office.md"), contract: include_str!("lamp-office.toml") };

const KEY: &str = "Authorization: Bearer k-7";
const LAMP: &str =
    r#"{"lamp":"B123","colour":"red","height_m":4,"lit_from":"2027-01-01","lit_to":"2027-02-01"}"#;

fn exchange(
    request: &str,
    headers: &str,
    body: &str,
    status: u16,
    more: &str,
    answer: &str,
) -> Kept {
    let (method, path) = request.split_once(' ').unwrap();
    let headers = if headers.is_empty() { String::new() } else { format!("{headers}\n") };
    let media = if body.is_empty() { "" } else { "Content-Type: application/json\n" };
    let answer_media = if answer.is_empty() { "" } else { "Content-Type: application/json\n" };
    Kept {
        request: format!(
            "{method} https://lamps.example/api{path}\nAccept: application/json\n{headers}{media}\n{body}"
        ),
        response: format!(
            "HTTP/1.1 {status} X\nRecorded-Time: 100\n{answer_media}{more}\n{answer}"
        ),
    }
}

fn refused(
    request: &str,
    headers: &str,
    body: &str,
    status: u16,
    told: (&str, &str, &str),
    more: (&str, &str),
) -> Kept {
    let (code, english, german) = told;
    let (more_headers, members) = more;
    let answer = format!(
        "{{\"error\":{{\"code\":\"{code}\",\"status\":{status},\"titles\":{{\"en\":\"{english}\",\"de\":\"{german}\"}},\
         \"texts\":{{\"en\":\"so it is\",\"de\":\"so ist es\"}},\"trace\":\"00ff00ff00ff00ff\"{members}}}}}"
    );
    let more = format!("X-Trace-Id: 00ff00ff00ff00ff\nCache-Control: no-store\n{more_headers}");
    exchange(request, headers, body, status, &more, &answer)
}

#[test]
fn every_sentence_of_the_lamp_office_is_held_to() {
    let none = refused(
        "GET /lamps/A999",
        "",
        "",
        404,
        ("no-such-lamp", "No such lamp", "Diese Lampe gibt es nicht"),
        ("", ",\"about\":{\"lamp\":\"A999\"}"),
    );
    let gone = refused(
        "GET /lamps/W001",
        "",
        "",
        410,
        ("lamp-gone", "The lamp is gone", "Die Lampe ist abgebaut"),
        ("", ""),
    );
    let no_key = refused(
        "POST /lamps",
        "",
        LAMP,
        401,
        ("no-key", "A key is needed", "Ein Schlüssel fehlt"),
        ("WWW-Authenticate: Bearer realm=\"lamps\"\n", ""),
    );
    let withdrawn = refused(
        "POST /lamps",
        "Authorization: Bearer old-3",
        LAMP,
        401,
        ("key-withdrawn", "The key was withdrawn", "Der Schlüssel gilt nicht mehr"),
        ("WWW-Authenticate: Bearer error=\"invalid_token\"\n", ""),
    );
    let nowhere = refused(
        "GET /boats",
        "",
        "",
        404,
        ("no-such-path", "No such path", "Diesen Pfad gibt es nicht"),
        ("", ""),
    );
    let not_here = refused(
        "DELETE /lamps",
        "",
        "",
        405,
        ("not-here", "Not here", "Hier nicht"),
        ("Allow: GET, HEAD, POST\n", ""),
    );
    let not_json = refused(
        "POST /lamps",
        KEY,
        LAMP,
        415,
        ("not-json", "Send JSON", "Bitte JSON senden"),
        ("Accept: application/json\n", ""),
    );
    let not_json = Kept {
        request: not_json
            .request
            .replace("Content-Type: application/json", "Content-Type: text/plain"),
        ..not_json
    };
    let unreadable = refused(
        "POST /lamps",
        KEY,
        "{\"lamp\":",
        400,
        ("unreadable", "Unreadable", "Nicht lesbar"),
        ("", ""),
    );
    let missing = refused(
        "POST /lamps",
        KEY,
        "",
        400,
        ("unreadable", "Unreadable", "Nicht lesbar"),
        ("", ""),
    );
    let long =
        format!("{{\"lamp\":\"B123\",\"colour\":\"red\",\"height_m\":4{}}}", " ".repeat(4200));
    let too_much =
        refused("POST /lamps", KEY, &long, 413, ("too-much", "Too much", "Zu viel"), ("", ""));
    let wrong_body = r#"{"lamp":"B123","height_m":99,"lens":1}"#;
    let field = |at: &str, rule: &str| {
        format!("{{\"at\":\"{at}\",\"rule\":\"{rule}\",\"text\":\"not so\"}}")
    };
    let fields = |all: &[String]| format!(",\"fields\":[{}]", all.join(","));
    let told = ("not-valid", "Not valid", "Nicht gültig");
    let three =
        fields(&[field("colour", "missing"), field("height_m", "range"), field("lens", "unknown")]);
    let invalid = refused("POST /lamps", KEY, wrong_body, 422, told, ("", &three));
    let page = fields(&[field("query:page", "range")]);
    let bad_page = refused("GET /lamps?page=0", "", "", 422, told, ("", &page));
    let entries =
        r#"{"entries":[{"from":"2027-02-01","to":"2027-01-01","colour":"red","off":true}]}"#;
    let both = fields(&[field("entries.0.to", "wrong"), field("entries.0.colour", "wrong")]);
    let schedule = refused("PUT /lamps/A100/schedule", KEY, entries, 422, told, ("", &both));
    let taken_body = LAMP.replace("B123", "A001");
    let taken = refused(
        "POST /lamps",
        KEY,
        &taken_body,
        409,
        ("lamp-taken", "The number is taken", "Die Nummer ist vergeben"),
        ("", ""),
    );
    let out = refused(
        "POST /lamps",
        "X-Lamp-Key: k-7\nX-Fleet: out",
        LAMP,
        423,
        ("fleet-out", "The fleet is out", "Die Flotte ist aus"),
        ("", ""),
    );
    let failed =
        refused("GET /lamps", "", "", 500, ("our-fault", "Our fault", "Unser Fehler"), ("", ""));
    let often = refused(
        "GET /lamps",
        "",
        "",
        429,
        ("too-often", "Too often", "Zu oft"),
        ("Retry-After: 7\n", ""),
    );
    let lamps = exchange("GET /lamps?lit=true&page=2", "", "", 200, "", r#"{"lamps":[]}"#);
    let made = exchange(
        "POST /lamps",
        KEY,
        LAMP,
        201,
        "Location: /api/lamps/B123\n",
        r#"{"lamp":{"lamp":"B123"}}"#,
    );
    let slash = exchange("GET /lamps/", "", "", 308, "Location: /api/lamps\n", "");
    let fine_entries = r#"{"entries":[{"from":"2027-01-01","to":"2027-02-01","off":true}]}"#;
    let set = exchange(
        "PUT /lamps/A100/schedule",
        "X-Lamp-Key: k-7",
        fine_entries,
        200,
        "",
        r#"{"lamp":{}}"#,
    );

    const STATUS: &[&str] = &["status.fits-situation the status line"];
    const ACCEPTED: &[&str] = &["situation.requires-error the status line"];
    const ENGLISH: &[&str] = &["body.title-declared body /error/titles/en"];
    const FIRST_PLACE: &[&str] = &["validation.location-style body /error/fields/0/at"];
    // One request with the response to another.
    let mixed =
        |of: &Kept, by: &Kept| Kept { request: of.request.clone(), response: by.response.clone() };
    let open = mixed(&lamps, &no_key);
    let old_key = mixed(&withdrawn, &made);
    let boats = mixed(&nowhere, &lamps);
    let no_redirect = mixed(&slash, &nowhere);
    let deleted = mixed(&not_here, &nowhere);
    let text = mixed(&not_json, &made);
    let cut = mixed(&unreadable, &made);
    let empty = mixed(&missing, &made);
    let large = mixed(&too_much, &made);
    let other = mixed(&invalid, &unreadable);
    let short = mixed(&none, &bad_page);
    let quay = mixed(&gone, &none);
    let twice = mixed(&taken, &made);
    let at_sea = mixed(&out, &made);
    let third =
        format!("{},{}]", field("entries.0.colour", "wrong"), field("entries.0.to", "wrong"));
    let breaks = [
        broken(
            1,
            &none,
            &[("Content-Type: application/json", "Content-Type: application/problem+json")],
            &["media.declared header Content-Type"],
        ),
        broken(
            2,
            &none,
            &[("{\"error\"", "{\"ok\":false,\"error\"")],
            &["shape.declared body /ok"],
        ),
        broken(3, &none, &[("\"texts\":", "\"text\":")], &["shape.declared body /error/texts"]),
        broken(
            4,
            &nowhere,
            &[("no-such-path", "NO_SUCH_PATH")],
            &["code.declared body /error/code", "shape.declared body /error/code"],
        ),
        broken(
            5,
            &none,
            &[("\"status\":404", "\"status\":400")],
            &["status.body-agrees body /error/status"],
        ),
        broken(
            6,
            &none,
            &[("Diese Lampe gibt es nicht", "No such lamp")],
            &["body.title-declared body /error/titles/de"],
        ),
        broken(
            7,
            &none,
            &[("\"de\":\"so ist es\"", "\"de\":\"\"")],
            &["body.explains body /error/texts/de"],
        ),
        broken(
            8,
            &none,
            &[("\"trace\":\"00ff", "\"trace\":\"11ff")],
            &["shape.declared body /error/trace"],
        ),
        broken(
            9,
            &none,
            &[("X-Trace-Id: 00ff00ff00ff00ff\n", ""), (",\"trace\":\"00ff00ff00ff00ff\"", "")],
            &["header.declared header X-Trace-Id"],
        ),
        broken(10, &none, &[("no-store", "max-age=60")], &["header.declared header Cache-Control"]),
        broken(
            11,
            &none,
            &[("Recorded-Time: 100", "Recorded-Time: 2001")],
            &["exchange.in-time the exchange"],
        ),
        broken(
            12,
            &gone,
            &[("\"lamp-gone\"", "\"lamp-lost\"")],
            &["code.declared body /error/code"],
        ),
        broken(
            13,
            &none,
            &[("Cache-Control", "Server: lamps\nCache-Control")],
            &["header.declared header Server"],
        ),
        broken(14, &open, &[], &["status.declared the status line"]),
        broken(15, &made, &[("Authorization: Bearer", "Authorization: Basic")], ACCEPTED),
        broken(16, &no_key, &[("A key is needed", "Who are you?")], ENGLISH),
        broken(
            17,
            &no_key,
            &[(" realm=\"lamps\"", " realm=\"quays\"")],
            &["header.declared header WWW-Authenticate"],
        ),
        broken(18, &old_key, &[], ACCEPTED),
        broken(
            19,
            &withdrawn,
            &[("error=\"invalid_token\"", "realm=\"lamps\"")],
            &["header.declared header WWW-Authenticate"],
        ),
        broken(20, &boats, &[], ACCEPTED),
        broken(21, &no_redirect, &[], &["status.redirect-declared the status line"]),
        broken(22, &deleted, &[], STATUS),
        broken(23, &not_here, &[("GET, HEAD, POST", "GET")], &["header.allow header Allow"]),
        broken(24, &text, &[], ACCEPTED),
        broken(25, &cut, &[], ACCEPTED),
        broken(26, &empty, &[], ACCEPTED),
        broken(27, &large, &[], ACCEPTED),
        broken(28, &other, &[], STATUS),
        broken(
            29,
            &invalid,
            &[(&format!(",{}", field("lens", "unknown")), "")],
            &["validation.complete body /error"],
        ),
        broken(
            30,
            &bad_page,
            &[("\"text\":\"not so\"", "\"text\":\"not so\",\"value\":1")],
            &["shape.declared body /error/fields/0/value"],
        ),
        broken(31, &schedule, &[("entries.0.to", "/entries/0/to")], FIRST_PLACE),
        broken(32, &bad_page, &[("query:page", "page")], FIRST_PLACE),
        broken(
            33,
            &invalid,
            &[(
                "\"at\":\"colour\",\"rule\":\"missing\",\"text\":\"not so\"",
                "\"at\":\"$\",\"rule\":\"missing\",\"text\":\"colour is missing\"",
            )],
            FIRST_PLACE,
        ),
        broken(
            34,
            &bad_page,
            &[("\"rule\":\"range\"", "\"rule\":\"limit\"")],
            &["validation.code-declared body /error/fields/0"],
        ),
        broken(
            35,
            &schedule,
            &[(&format!("{}]", field("entries.0.colour", "wrong")), &third)],
            &["validation.no-duplicates body /error/fields/2"],
        ),
        broken(36, &lamps, &[("page=2", "pages=2")], ACCEPTED),
        broken(37, &lamps, &[("page=2", "page=2&page=3")], ACCEPTED),
        broken(38, &made, &[("B123", "Z123")], ACCEPTED),
        broken(39, &none, &[("No such lamp", "Not found")], ENGLISH),
        broken(40, &short, &[("A999", "A9")], STATUS),
        broken(
            41,
            &none,
            &[(",\"about\":{\"lamp\":\"A999\"}", "")],
            &["shape.declared body /error/about"],
        ),
        broken(42, &quay, &[], STATUS),
        broken(43, &lamps, &[("lit=true", "lit=yes")], ACCEPTED),
        broken(44, &made, &[("\"height_m\":4,", "")], ACCEPTED),
        broken(45, &made, &[("\"red\"", "\"blue\"")], ACCEPTED),
        broken(46, &made, &[("\"height_m\":4", "\"height_m\":31")], ACCEPTED),
        broken(47, &made, &[("2027-02-01", "2026-12-31")], ACCEPTED),
        broken(48, &made, &[("\"height_m\":4", "\"height_m\":4,\"lens\":1")], ACCEPTED),
        broken(49, &taken, &[("The number is taken", "Taken")], ENGLISH),
        broken(50, &twice, &[], ACCEPTED),
        broken(51, &set, &[(fine_entries, "{\"entries\":[]}")], ACCEPTED),
        broken(52, &set, &[("\"to\":\"2027-02-01\"", "\"to\":\"2027-01-01\"")], ACCEPTED),
        broken(53, &set, &[("\"off\":true", "\"off\":true,\"colour\":\"red\"")], ACCEPTED),
        broken(54, &at_sea, &[], ACCEPTED),
        broken(
            55,
            &failed,
            &[("Our fault", "Oops")],
            &[
                "body.title-declared body /error/titles/en",
                "situation.valid-served the status line",
            ],
        ),
        broken(
            56,
            &failed,
            &[("so it is", "at com.example.Lamps.light(Lamps.java:7)")],
            &[
                "disclosure.stack-trace body /error/texts/en",
                "situation.valid-served the status line",
            ],
        ),
        broken(57, &often, &[("Too often", "Slow down")], ENGLISH),
        broken(
            58,
            &often,
            &[("Retry-After: 7", "Retry-After: Tue, 15 Nov 2033 08:12:31 GMT")],
            &["header.declared header Retry-After"],
        ),
        broken(
            59,
            &lamps,
            &[("{\"lamps\":[]}", "{\"lamps\":[],\"error\":null}")],
            &["success.shape-declared body /error"],
        ),
        broken(
            60,
            &made,
            &[("Location: /api/lamps/B123\n", "")],
            &["header.declared header Location"],
        ),
        broken(
            61,
            &lamps,
            &[("Recorded-Time: 100", "Recorded-Time: 10001")],
            &["exchange.in-time the exchange"],
        ),
    ];
    // That it fails is always a finding, however well it says so.
    OFFICE.holds(
        &[
            &none,
            &gone,
            &no_key,
            &withdrawn,
            &nowhere,
            &not_here,
            &not_json,
            &unreadable,
            &missing,
            &too_much,
            &invalid,
            &bad_page,
            &schedule,
            &taken,
            &out,
            &often,
            &lamps,
            &made,
            &slash,
            &set,
        ],
        &breaks,
    );
}
