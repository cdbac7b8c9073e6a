//! Requests to the harbour, and its responses.

use crate::chance::Chance;

/// One exchange, before it is written.
#[derive(Debug, Clone)]
pub(crate) struct MadeExchange {
    pub(crate) method: &'static str,
    pub(crate) path: String,
    /// The request's body and its media type.
    pub(crate) sent: Option<(&'static str, String)>,
    pub(crate) has_token: bool,
    pub(crate) status: u16,
    pub(crate) phrase: &'static str,
    pub(crate) media: &'static str,
    /// Headers that this response has beside the usual ones.
    pub(crate) headers: Vec<(&'static str, String)>,
    pub(crate) body: String,
    /// The body is recorded as base64.
    pub(crate) encoded: bool,
}

const JSON: &str = "application/json";
const PROBLEM: &str = "application/problem+json";
const ROWS: [char; 6] = ['A', 'B', 'C', 'D', 'E', 'F'];
const QUAYS: [&str; 4] = ["north", "mill", "outer", "inner"];

fn base(method: &'static str, path: String) -> MadeExchange {
    MadeExchange {
        method,
        path,
        sent: None,
        has_token: true,
        status: 200,
        phrase: "OK",
        media: JSON,
        headers: Vec::new(),
        body: String::new(),
        encoded: false,
    }
}

fn berth(chance: &mut Chance) -> String {
    let quay = chance.of(&QUAYS);
    let (row, number) = (chance.of(&ROWS), chance.below(40) + 1);
    let (length, depth) = (chance.below(200) + 40, chance.below(40) + 15);
    let free = chance.below(2) == 0;
    format!(
        "{{\"id\": \"{row}-{number}\", \"quay\": \"{quay}\", \"length_m\": {}.{}, \"free\": {free}, \"depth_m\": {}.{}}}",
        length / 10,
        length % 10,
        depth / 10,
        depth % 10
    )
}

fn reservation(chance: &mut Chance) -> String {
    let notes = [
        "arrives at night",
        "needs \\\"shore power\\\"",
        "two dogs, one parrot",
        "Grüße an den Hafen",
    ];
    format!(
        "{{\"id\": \"r-{:06}\", \"vessel_id\": \"OB{:04}\", \"berth_id\": \"{}-{}\", \"arrives\": \"2027-{:02}-{:02}\", \"nights\": {}, \"note\": \"{}\", \"fee\": {{\"currency\": \"EUR\", \"amount\": \"{}.{:02}\"}}}}",
        chance.below(999_999),
        chance.below(9999),
        chance.of(&ROWS),
        chance.below(40) + 1,
        chance.below(12) + 1,
        chance.below(28) + 1,
        chance.below(28) + 1,
        chance.of(&notes),
        chance.below(900) + 20,
        chance.below(100),
    )
}

fn list(name: &str, count: u64, mut item: impl FnMut() -> String) -> String {
    let items: Vec<String> = (0..count).map(|_| item()).collect();
    format!("{{\"{name}\": [{}]}}", items.join(", "))
}

/// A request that was in order, served.
pub(crate) fn success(chance: &mut Chance) -> MadeExchange {
    let mut exchange = match chance.below(10) {
        0..=2 => {
            let mut it =
                base("GET", format!("/berths?free_on=2027-05-{:02}", chance.below(28) + 1));
            let count = 22 + chance.below(45);
            it.body = list("berths", count, || berth(chance));
            it.has_token = false;
            it
        }
        3 => {
            let mut it = base("GET", format!("/berths/A-{}", chance.below(40) + 1));
            it.body = berth(chance);
            it
        }
        4 => {
            let mut it = base("GET", format!("/tides/2027-06-{:02}", chance.below(28) + 1));
            let count = 36 + chance.below(60);
            let mut at = 0;
            it.body = list("tides", count, || {
                at += 1;
                format!(
                    "{{\"at\": \"2027-06-01T{:02}:{:02}:00Z\", \"height_m\": {}.{:02}}}",
                    at % 24,
                    chance.below(60),
                    chance.below(6),
                    chance.below(100)
                )
            });
            it.has_token = false;
            it
        }
        5 => {
            let mut it = base(
                "GET",
                format!(
                    "/moorage-fees?length_m={}&nights={}",
                    2 + chance.below(58),
                    1 + chance.below(28)
                ),
            );
            let count = 12 + chance.below(20);
            it.body = list("fees", count, || {
                format!(
                    "{{\"quay\": \"north\", \"currency\": \"EUR\", \"a_night\": \"{}.{:02}\", \"from_m\": {}, \"to_m\": {}}}",
                    9 + chance.below(60),
                    chance.below(100),
                    2 + chance.below(10),
                    12 + chance.below(48)
                )
            });
            it.has_token = false;
            it
        }
        6 | 7 => {
            let mut it = base("GET", format!("/reservations/r-{:06}", chance.below(999_999)));
            let count = 4 + chance.below(12);
            let history = list("history", count, || reservation(chance));
            it.body = format!("{{\"current\": {}, \"past\": {history}}}", reservation(chance));
            it
        }
        8 => {
            let mut it = base("POST", "/reservations".to_owned());
            it.sent = Some((
                JSON,
                format!(
                    "{{\"vessel_id\": \"OB{:04}\", \"berth_id\": \"A-{}\", \"arrives\": \"2027-07-{:02}\", \"nights\": {}}}",
                    chance.below(9999),
                    1 + chance.below(40),
                    1 + chance.below(28),
                    1 + chance.below(28)
                ),
            ));
            (it.status, it.phrase) = (201, "Created");
            it.headers
                .push(("Location", format!("/v1/reservations/r-{:06}", chance.below(999_999))));
            it.body = reservation(chance);
            it
        }
        _ => {
            let mut it = base("DELETE", format!("/reservations/r-{:06}", chance.below(999_999)));
            (it.status, it.phrase) = (204, "No Content");
            it
        }
    };
    exchange.encoded = chance.below(20) == 0 && !exchange.body.is_empty();
    exchange
}

fn problem(
    it: &mut MadeExchange,
    status: u16,
    phrase: &'static str,
    name: &str,
    title: &str,
    more: &str,
) {
    (it.status, it.phrase, it.media) = (status, phrase, PROBLEM);
    let kind = if name.is_empty() {
        String::new()
    } else {
        format!("\"type\": \"https://harbour.example/faults/{name}\", ")
    };
    let path = &it.path;
    it.body = format!(
        "{{{kind}\"title\": \"{title}\", \"status\": {status}{more}, \"instance\": \"/v1{path}\"}}"
    );
}

/// An error of any of the kinds that there are: most of them as declared, one in twelve not.
pub(crate) fn error(chance: &mut Chance) -> MadeExchange {
    let number = chance.below(999_999);
    let mut it = match chance.below(8) {
        0 | 1 => {
            let mut it = base("GET", format!("/berths/Z-{number}"));
            let detail = format!(
                ", \"detail\": \"No berth has the id Z-{number}.\" Ids are a letter, a hyphen and a number, as GET /berths lists them.\""
            );
            problem(&mut it, 404, "Not Found", "no-such-berth", "There is no such berth", &detail);
            it
        }
        2 | 3 => {
            let mut it = base("POST", "/reservations".to_owned());
            it.sent = Some((
                JSON,
                format!(
                    "{{\"vessel_id\": \"{number}\", \"arrives\": \"2027-07-{:02}\", \"nights\": {}}}",
                    1 + chance.below(28),
                    29 + chance.below(70)
                ),
            ));
            let errors = ", \"errors\": [{\"pointer\": \"/vessel_id\", \"code\": \"wrong_form\", \"detail\": \"two letters and four digits\"}, {\"pointer\": \"/berth_id\", \"code\": \"missing\", \"detail\": \"is missing\"}, {\"pointer\": \"/nights\", \"code\": \"out_of_range\", \"detail\": \"from 1 to 28\"}]";
            problem(
                &mut it,
                422,
                "Unprocessable Content",
                "invalid-request",
                "The request is not valid",
                errors,
            );
            it
        }
        4 => {
            let mut it = base("GET", format!("/reservations/r-{number:06}"));
            it.has_token = false;
            problem(
                &mut it,
                401,
                "Unauthorized",
                "",
                "Unauthorized",
                ", \"detail\": \"Send a token in the header Authorization. The harbour office hands them out.\"",
            );
            it.headers.push(("WWW-Authenticate", "Bearer realm=\\\"harbour\\\"".to_owned()));
            it
        }
        5 => {
            let mut it = base("DELETE", format!("/berths/A-{}", 1 + chance.below(40)));
            problem(
                &mut it,
                405,
                "Method Not Allowed",
                "",
                "Method Not Allowed",
                ", \"detail\": \"This resource does not offer the method; see the header Allow for those that it does.\"",
            );
            it.headers.push(("Allow", "GET, HEAD".to_owned()));
            it
        }
        6 => {
            let mut it = base("POST", "/reservations".to_owned());
            it.sent = Some((
                JSON,
                format!("{{\"vessel_id\": \"OB{:04}\", \"nights\": ", number % 10_000),
            ));
            problem(
                &mut it,
                400,
                "Bad Request",
                "",
                "Bad Request",
                ", \"detail\": \"The body is not JSON: it ends too early, at line 1, where a value was expected.\"",
            );
            it
        }
        _ => {
            let mut it = base("GET", format!("/piers/{number}"));
            problem(
                &mut it,
                404,
                "Not Found",
                "",
                "Not Found",
                ", \"detail\": \"Nothing is here. The description of the service lists the paths that there are.\"",
            );
            it
        }
    };
    match chance.below(36) {
        // A framework's own page, a trace, a status that does not agree.
        0 => {
            it.media = "text/html; charset=utf-8";
            it.body = format!(
                "<html><head><title>{}</title></head><body><h1>{}</h1></body></html>",
                it.phrase, it.phrase
            );
        }
        1 => {
            (it.status, it.phrase, it.media) = (500, "Internal Server Error", JSON);
            it.body = format!(
                "{{\"error\": \"ValueError\", \"trace\": \"Traceback (most recent call last):\\n  File \\\"/srv/harbour/app.py\\\", line {}, in serve\\n    raise ValueError(key)\\n\"}}",
                chance.below(900)
            );
        }
        2 => it.body = it.body.replace("\"status\": 4", "\"status\": 5"),
        _ => {}
    }
    it
}

/// An error with a body that nobody else gets.
pub(crate) fn unique(chance: &mut Chance) -> MadeExchange {
    let mut it = error(chance);
    if let Some(inner) = it.body.strip_prefix('{') {
        it.body = format!("{{\"trace_id\": \"{:016x}\", {inner}", chance.next());
    }
    it
}

/// An error that is wrong in always the same way.
pub(crate) fn same_finding() -> MadeExchange {
    let mut it = base("GET", "/berths/Z-99".to_owned());
    problem(&mut it, 404, "Not Found", "no-such-berth", "no such berth", "");
    it
}

/// A success with a body of a megabyte.
pub(crate) fn large(chance: &mut Chance) -> MadeExchange {
    let mut it = base("GET", "/berths".to_owned());
    it.has_token = false;
    it.body = list("berths", 11_000, || berth(chance));
    it
}

/// A body of JSON in a string in JSON in a string, and so on: nearly all of it backslashes.
pub(crate) fn escaped() -> MadeExchange {
    let mut it = base("GET", "/berths/A-3".to_owned());
    // Each level doubles the backslashes and adds one; written as JSON once more, this is the twentieth.
    it.body = format!("{{\"id\": \"{}\\\"\"}}", "\\".repeat((1 << 19) - 2));
    it
}
