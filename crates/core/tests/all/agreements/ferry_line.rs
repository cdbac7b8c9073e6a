//! JSON:API's error objects, and many operations at once.

use super::harness::{Agreement, Kept, broken};

const LINE: Agreement =
    Agreement { prose: include_str!("ferry-line.md"), contract: include_str!("ferry-line.toml") };

const API: &str = "application/vnd.api+json";
const TOKEN: &str = "Authorization: Bearer t-1\n";
const BOOKING: &str = r#"{"data":{"type":"bookings","attributes":{"crossing":7,"seats":2,"carts":0,"porter":true,"luggage":"a trunk","day":"2027-01-01","return_day":"2027-01-02"}}}"#;

fn exchange(line: &str, headers: &str, body: &str, status: u16, more: &str, answer: &str) -> Kept {
    let (method, path) = line.split_once(' ').unwrap();
    let media = |body: &str| match body {
        "" => String::new(),
        _ => format!("Content-Type: {API}\n"),
    };
    Kept {
        request: format!(
            "{method} https://ferry.example/v3{path}\nAccept: {API}\nX-Ferry-Trace: t-17\n{headers}{}\n{body}",
            media(body)
        ),
        response: format!(
            "HTTP/1.1 {status} X\nRecorded-Time: 90\n{}{more}\n{answer}",
            media(answer)
        ),
    }
}

fn object(status: u16, told: (&str, &str), more: &str) -> String {
    let (code, title) = told;
    format!(
        "{{\"status\":\"{status}\",\"code\":\"{code}\",\"title\":\"{title}\",\"detail\":\"this is what the line says of it: no\"{more}}}"
    )
}

fn refused(
    line: &str,
    headers: &str,
    body: &str,
    status: u16,
    more: &str,
    errors: &[String],
) -> Kept {
    let answer = format!("{{\"errors\":[{}],\"meta\":{{\"trace\":\"t-17\"}}}}", errors.join(","));
    exchange(line, headers, body, status, &format!("X-Ferry-Trace: t-17\n{more}"), &answer)
}

#[test]
fn every_sentence_of_the_ferry_line_is_held_to() {
    let no_place =
        refused("GET /boats", "", "", 404, "", &[object(404, ("FL-001", "No such place"), "")]);
    let no_way = refused(
        "PUT /crossings",
        "",
        "",
        405,
        "Allow: GET, HEAD\n",
        &[object(405, ("FL-002", "No such way"), "")],
    );
    let who = refused(
        "POST /bookings",
        "",
        BOOKING,
        401,
        "WWW-Authenticate: Bearer\n",
        &[object(401, ("FL-003", "Tell us who you are"), "")],
    );
    let again = refused(
        "POST /bookings",
        "Authorization: Bearer expired-1\n",
        BOOKING,
        401,
        "WWW-Authenticate: Bearer error=\"invalid_token\"\n",
        &[object(401, ("FL-004", "Tell us again who you are"), "")],
    );
    let media = refused(
        "POST /bookings",
        TOKEN,
        BOOKING,
        415,
        "Accept: application/vnd.api+json\n",
        &[object(415, ("FL-005", "We don't read that"), "")],
    );
    let media = Kept {
        request: media
            .request
            .replace(&format!("Type: {API}"), &format!("Type: {API}; charset=utf-8")),
        ..media
    };
    let no_media = refused(
        "GET /crossings",
        "",
        "",
        406,
        "",
        &[object(
            406,
            ("FL-006", "We don't write that"),
            ",\"meta\":{\"types\":[\"application/vnd.api+json\"]}",
        )],
    );
    let no_media = Kept {
        request: no_media
            .request
            .replace(&format!("Accept: {API}"), &format!("Accept: {API}; version=2")),
        ..no_media
    };
    let cut = refused(
        "POST /bookings",
        TOKEN,
        "{\"data\":",
        400,
        "",
        &[object(400, ("FL-007", "We can't read that"), "")],
    );
    let unfit = |source: &str| {
        object(422, ("FL-008", "That does not fit"), &format!(",\"source\":{{{source}}}"))
    };
    let seats = r#"{"data":{"type":"bookings","attributes":{"crossing":7,"seats":99}}}"#;
    let lacking = unfit("\"pointer\":\"/data/attributes\"")
        .replace("says of it: no", "says of it: carts is missing");
    let two = [unfit("\"pointer\":\"/data/attributes/seats\""), lacking];
    let invalid = refused("POST /bookings", TOKEN, seats, 422, "", &two);
    let size = refused(
        "GET /crossings?page[size]=0",
        "",
        "",
        422,
        "",
        &[unfit("\"parameter\":\"page[size]\"")],
    );
    let unknown =
        refused("GET /crossings?tide=low", "", "", 422, "", &[unfit("\"parameter\":\"tide\"")]);
    let none = refused(
        "GET /crossings/99",
        "",
        "",
        404,
        "",
        &[object(404, ("FL-009", "No such crossing"), "")],
    );
    let no_number = refused(
        "GET /crossings/x",
        "",
        "",
        404,
        "",
        &[object(404, ("FL-009", "No such crossing"), "")],
    );
    let thirteen = BOOKING.replace("\"crossing\":7", "\"crossing\":13");
    let full = refused(
        "POST /bookings",
        TOKEN,
        &thirteen,
        409,
        "",
        &[object(409, ("FL-010", "The crossing is full"), ",\"meta\":{\"free\":0}")],
    );
    let paid = refused(
        "DELETE /bookings/p1",
        TOKEN,
        "",
        403,
        "",
        &[object(403, ("FL-011", "It is paid"), "")],
    );
    let unbooked = refused(
        "DELETE /bookings/z1",
        TOKEN,
        "",
        404,
        "",
        &[object(404, ("FL-012", "No such booking"), "")],
    );
    let storm = refused(
        "GET /crossings",
        "",
        "",
        503,
        "Retry-After: Tue, 15 Nov 2033 08:12:31 GMT\n",
        &[object(503, ("FL-090", "There is a storm"), "")],
    );
    let sunk = refused(
        "GET /crossings",
        "",
        "",
        500,
        "",
        &[object(500, ("FL-099", "The ferry sank"), "")],
    );
    let crossings = exchange(
        "GET /crossings?page[size]=5&filter[day]=2027-01-01",
        "",
        "",
        200,
        "",
        r#"{"data":[{"type":"crossings","id":"7"}]}"#,
    );
    let crossing =
        exchange("GET /crossings/7", "", "", 200, "", r#"{"data":{"type":"crossings","id":"7"}}"#);
    let booked = exchange(
        "POST /bookings",
        "Cookie: ferry=1\n",
        BOOKING,
        201,
        "Location: /v3/bookings/b7\n",
        r#"{"data":{"type":"bookings","id":"b7"}}"#,
    );
    let cancelled = exchange("DELETE /bookings/b7", TOKEN, "", 204, "", "");
    let operations = r#"{"bulk:operations":[{"op":"book","ref":"7"},{"op":"cancel","ref":"b0"}]}"#;
    let lost = object(404, ("FL-012", "No such booking"), "");
    let done = r#"{"index":0,"status":"201"}"#;
    let failed = format!("{{\"index\":1,\"status\":\"404\",\"errors\":[{lost}]}}");
    let bulk = exchange(
        "POST /bulk",
        TOKEN,
        operations,
        200,
        "",
        &format!("{{\"bulk:results\":[{done},{failed}]}}"),
    );
    let many =
        format!("{{\"bulk:operations\":[{}]}}", vec![r#"{"op":"book","ref":"7"}"#; 21].join(","));
    let too_many =
        refused("POST /bulk", TOKEN, &many, 422, "", &[unfit("\"pointer\":\"/bulk:operations\"")]);

    const STATUS: &[&str] = &["status.fits-situation the status line"];
    const ACCEPTED: &[&str] = &["situation.requires-error the status line"];
    const TITLE: &[&str] = &["body.title-declared body /errors/0/title"];
    let mixed =
        |of: &Kept, by: &Kept| Kept { request: of.request.clone(), response: by.response.clone() };
    let [
        no_token,
        old_token,
        read_anyway,
        written_anyway,
        guessed,
        crossing_x,
        sold,
        refunded,
        bulk_anyway,
    ] = [
        mixed(&who, &booked),
        mixed(&again, &booked),
        mixed(&media, &booked),
        mixed(&no_media, &crossings),
        mixed(&cut, &booked),
        mixed(&no_number, &crossing),
        mixed(&full, &booked),
        mixed(&paid, &cancelled),
        mixed(&too_many, &bulk),
    ];
    let closed = mixed(&crossings, &who);
    let anything = mixed(&unknown, &crossings);
    let breaks = [
        broken(
            1,
            &none,
            &[("Content-Type: application/vnd.api+json", "Content-Type: application/json")],
            &["media.declared header Content-Type"],
        ),
        broken(
            2,
            &none,
            &[("{\"errors\"", "{\"data\":null,\"errors\"")],
            &["shape.declared body /data"],
        ),
        broken(
            3,
            &none,
            &[(",\"detail\":\"this is what the line says of it: no\"", "")],
            &["shape.declared body /errors/0/detail"],
        ),
        broken(
            4,
            &none,
            &[("\"detail\"", "\"advice\":\"swim\",\"detail\"")],
            &["shape.declared body /errors/0/advice"],
        ),
        broken(
            5,
            &no_place,
            &[("FL-001", "FL-1")],
            &["code.declared body /errors/0/code", "shape.declared body /errors/0/code"],
        ),
        broken(
            6,
            &none,
            &[("\"status\":\"404\"", "\"status\":\"400\"")],
            &["status.body-agrees body /errors/0/status"],
        ),
        broken(7, &none, &[("No such crossing", "Not Found")], TITLE),
        broken(
            8,
            &none,
            &[("this is what the line says of it: no", "no such crossing")],
            &["shape.declared body /errors/0/detail"],
        ),
        broken(
            9,
            &none,
            &[("\"trace\":\"t-17\"", "\"trace\":\"t-18\"")],
            &["shape.declared body /meta/trace"],
        ),
        broken(
            10,
            &none,
            &[(
                "90\nContent-Type: application/vnd.api+json\nX-Ferry-Trace: t-17\n",
                "90\nContent-Type: application/vnd.api+json\n",
            )],
            &["header.declared header X-Ferry-Trace"],
        ),
        broken(
            11,
            &none,
            &[("Recorded-Time: 90", "Recorded-Time: 90\nSet-Cookie: a=1")],
            &["header.declared header Set-Cookie"],
        ),
        broken(
            12,
            &none,
            &[(
                "Content-Type: application/vnd.api+json",
                "Content-Type: application/vnd.api+json; version=3",
            )],
            &["media.parameters header Content-Type"],
        ),
        broken(
            13,
            &crossing,
            &[(r#"{"data":{"type":"crossings","id":"7"}}"#, r#"{"type":"crossings","id":"7"}"#)],
            &["success.json-api the whole body"],
        ),
        broken(14, &crossing, &[("\"id\":\"7\"", "\"id\":7")], &["success.json-api body /data/id"]),
        broken(15, &no_place, &[("No such place", "Not Found")], TITLE),
        broken(
            16,
            &no_way,
            &[
                ("405 X", "404 X"),
                ("\"405\"", "\"404\""),
                ("FL-002", "FL-001"),
                ("No such way", "No such place"),
            ],
            STATUS,
        ),
        broken(17, &closed, &[], &["status.declared the status line"]),
        broken(18, &no_token, &[], ACCEPTED),
        broken(19, &old_token, &[], ACCEPTED),
        broken(20, &read_anyway, &[], ACCEPTED),
        broken(21, &written_anyway, &[], ACCEPTED),
        broken(22, &guessed, &[], ACCEPTED),
        broken(
            23,
            &invalid,
            &[(&format!(",{}", two[1]), "")],
            &["validation.complete body /errors"],
        ),
        broken(
            24,
            &invalid,
            &[("/data/attributes/seats", "/data/seats")],
            &["validation.pointer-resolves body /errors/0/source/pointer"],
        ),
        broken(
            25,
            &invalid,
            &[("\"pointer\":\"/data/attributes\"", "\"pointer\":\"/data/attributes/carts\"")],
            &["validation.location-style body /errors/1/source/pointer"],
        ),
        broken(
            26,
            &size,
            &[("\"parameter\":\"page[size]\"", "\"parameter\":\"size\"")],
            &["validation.complete body /errors"],
        ),
        broken(27, &anything, &[], ACCEPTED),
        broken(28, &crossings, &[("page[size]=5", "page[size]=51")], ACCEPTED),
        broken(29, &crossing, &[("/crossings/7", "/crossings/0")], ACCEPTED),
        broken(30, &crossing_x, &[], ACCEPTED),
        broken(
            31,
            &booked,
            &[("\"type\":\"bookings\",\"attributes\"", "\"type\":\"tickets\",\"attributes\"")],
            ACCEPTED,
        ),
        broken(32, &booked, &[("\"seats\":2", "\"seats\":13")], ACCEPTED),
        broken(33, &booked, &[("\"carts\":0", "\"carts\":4")], ACCEPTED),
        broken(
            34,
            &booked,
            &[("\"return_day\":\"2027-01-02\"", "\"return_day\":\"2027-01-01\"")],
            ACCEPTED,
        ),
        broken(35, &booked, &[("\"carts\":0", "\"carts\":0,\"horses\":2")], ACCEPTED),
        broken(
            36,
            &full,
            &[(",\"meta\":{\"free\":0}", ",\"meta\":{}")],
            &["shape.declared body /errors/0/meta/free"],
        ),
        broken(37, &sold, &[], ACCEPTED),
        broken(
            38,
            &booked,
            &[("Location: /v3/bookings/b7\n", "")],
            &["header.declared header Location"],
        ),
        broken(39, &paid, &[("It is paid", "No")], TITLE),
        broken(40, &refunded, &[], ACCEPTED),
        broken(41, &cancelled, &[("204 X", "202 X")], &["status.declared the status line"]),
        broken(42, &unbooked, &[("No such booking", "Not Found")], TITLE),
        broken(43, &bulk, &[("\"op\":\"book\"", "\"op\":\"sink\"")], ACCEPTED),
        broken(44, &bulk, &[(&format!("{done},"), "")], &["partial.each-once the whole body"]),
        broken(
            45,
            &bulk,
            &[("\"index\":1,", "")],
            &["partial.shape-declared body /bulk:results/1/index"],
        ),
        broken(
            46,
            &bulk,
            &[("\"errors\":[{", "\"errors\":[{\"why\":\"gone\",")],
            &["partial.shape-declared body /bulk:results/1/errors/0/why"],
        ),
        broken(
            47,
            &bulk,
            &[("b0", "b1"), ("FL-012", "FL-011"), ("No such booking", "It is paid")],
            &["partial.faults-declared body /bulk:results/1"],
        ),
        broken(
            48,
            &bulk,
            &[("\"index\":1,\"status\":\"404\"", "\"index\":1,\"status\":\"400\"")],
            &["partial.entry-agrees body /bulk:results/1/status"],
        ),
        broken(
            49,
            &bulk,
            &[(&failed, r#"{"index":1,"status":"204"}"#)],
            &["partial.fits-case body /bulk:results"],
        ),
        broken(
            50,
            &bulk,
            &[(
                "this is what the line says of it: no",
                "at com.example.Ferry.cross(Ferry.java:7) of it",
            )],
            &["disclosure.stack-trace body /bulk:results/1/errors/0/detail"],
        ),
        broken(51, &bulk_anyway, &[], ACCEPTED),
        broken(
            52,
            &storm,
            &[("Tue, 15 Nov 2033 08:12:31 GMT", "60")],
            &["header.declared header Retry-After"],
        ),
        broken(
            53,
            &sunk,
            &[("The ferry sank", "Oops")],
            &["body.title-declared body /errors/0/title", "situation.valid-served the status line"],
        ),
        broken(
            54,
            &none,
            &[("Recorded-Time: 90", "Recorded-Time: 3001")],
            &["exchange.in-time the exchange"],
        ),
    ];
    LINE.holds(
        &[
            &no_place, &no_way, &who, &again, &media, &no_media, &cut, &invalid, &size, &unknown,
            &none, &no_number, &full, &paid, &unbooked, &storm, &crossings, &crossing, &booked,
            &cancelled, &bulk, &too_many,
        ],
        &breaks,
    );
}
