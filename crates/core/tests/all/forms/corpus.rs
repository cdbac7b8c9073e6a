//! Five exchanges, written down in every form by hand, and what they are.

use std::fmt::Write as _;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;

/// Media type and text of a body.
type Body = Option<(&'static str, &'static str)>;

/// An exchange, as nobody's form has it.
pub(crate) struct Case {
    pub method: &'static str,
    pub path: &'static str,
    pub sent: Body,
    pub status: u16,
    pub phrase: &'static str,
    pub told: Body,
    /// A header field of the response beside those of the body.
    pub field: Option<(&'static str, &'static str)>,
}

pub(crate) const CASES: [Case; 5] = [
    Case {
        method: "GET",
        path: "/v1/berths?free_on=2027-04-05",
        sent: None,
        status: 200,
        phrase: "OK",
        told: Some(("application/json", "{\"berths\": [{\"id\": \"A-3\"}, \"]}\\\\\"]}")),
        field: None,
    },
    Case {
        method: "POST",
        path: "/v1/reservations",
        sent: Some(("application/json", "{\"nights\": 99, \"note\": \"Grüße\"}")),
        status: 422,
        phrase: "Unprocessable Content",
        told: Some(("application/problem+json", "{\"title\": \"No\", \"status\": 422}")),
        field: Some(("Server", "saltmarsh")),
    },
    Case {
        method: "HEAD",
        path: "/v1/berths",
        sent: None,
        status: 200,
        phrase: "OK",
        told: None,
        field: Some(("Content-Length", "120")),
    },
    Case {
        method: "DELETE",
        path: "/v1/reservations/r-1",
        sent: None,
        status: 204,
        phrase: "No Content",
        told: None,
        field: None,
    },
    Case {
        method: "GET",
        path: "/v1/tides/never",
        sent: None,
        status: 404,
        phrase: "Not Found",
        told: Some(("application/problem+json", "{\"title\": \"Not Found\", \"status\": 404}")),
        field: Some(("Vary", "Accept")),
    },
];

/// An exchange in one line, as the tests compare it.
pub(crate) fn line(number: usize, case: &Case) -> String {
    let body = |body: Body| body.map_or(String::new(), |(_, text)| text.to_owned());
    format!(
        "{number} {} https://harbour.example{} [{}] {} [{}]",
        case.method,
        case.path,
        body(case.sent),
        case.status,
        body(case.told)
    )
}

/// What is expected of the whole.
pub(crate) fn expected() -> Vec<String> {
    CASES.iter().enumerate().map(|(at, case)| line(at + 1, case)).collect()
}

fn quoted(text: &str) -> String {
    serde_json::to_string(text).unwrap()
}

fn fields(case: &Case) -> Vec<(&'static str, String)> {
    let media = case.told.map(|(media, _)| ("Content-Type", media.to_owned()));
    media.into_iter().chain(case.field.map(|(name, value)| (name, value.to_owned()))).collect()
}

/// The entry of an exchange, its members in the order of the specification or the other way round.
fn entry(case: &Case, reversed: bool) -> String {
    let list = |fields: Vec<(&str, String)>| {
        let each = fields.iter().map(|(name, value)| {
            let (name, value) = (quoted(name), quoted(value));
            match reversed {
                false => format!("{{\"name\": {name}, \"value\": {value}}}"),
                true => format!("{{\"value\": {value}, \"comment\": \"\", \"name\": {name}}}"),
            }
        });
        format!("[{}]", each.collect::<Vec<_>>().join(", "))
    };
    let post = case.sent.map(|(media, text)| {
        format!("\"postData\": {{\"mimeType\": {}, \"text\": {}}}", quoted(media), quoted(text))
    });
    let sent = case.sent.map(|(media, _)| ("Content-Type", media.to_owned()));
    let mut request = vec![
        format!("\"method\": {}", quoted(case.method)),
        format!("\"url\": {}", quoted(&format!("https://harbour.example{}", case.path))),
        "\"httpVersion\": \"HTTP/1.1\"".to_owned(),
        format!("\"headers\": {}", list(sent.into_iter().collect())),
    ];
    request.extend(post);
    let content = match case.told {
        // One in base64, as recorders write what they take for no text.
        Some((media, text)) if case.status == 404 => format!(
            "{{\"size\": {}, \"mimeType\": {}, \"encoding\": \"base64\", \"text\": \"{}\"}}",
            text.len(),
            quoted(media),
            STANDARD.encode(text)
        ),
        Some((media, text)) => format!(
            "{{\"size\": {}, \"mimeType\": {}, \"text\": {}}}",
            text.len(),
            quoted(media),
            quoted(text)
        ),
        None => "{\"size\": 0, \"mimeType\": \"x-unknown\"}".to_owned(),
    };
    let mut response = vec![
        format!("\"status\": {}", case.status),
        format!("\"statusText\": {}", quoted(case.phrase)),
        format!("\"headers\": {}", list(fields(case))),
        format!("\"content\": {content}"),
        "\"bodySize\": -1".to_owned(),
    ];
    let object = |members: Vec<String>| format!("{{{}}}", members.join(", "));
    let members = |parts: &mut Vec<String>| {
        if reversed {
            parts.reverse();
        }
        object(std::mem::take(parts))
    };
    let mut whole = vec![
        "\"startedDateTime\": \"2027-03-08T09:00:03.565Z\"".to_owned(),
        "\"time\": 9.7".to_owned(),
        format!("\"request\": {}", members(&mut request)),
        format!("\"response\": {}", members(&mut response)),
        "\"cache\": {}".to_owned(),
        "\"timings\": {\"send\": 1, \"wait\": 7.5, \"receive\": 1}".to_owned(),
        "\"serverIPAddress\": \"192.0.2.10\"".to_owned(),
    ];
    members(&mut whole)
}

pub(crate) fn entries(reversed: bool) -> Vec<String> {
    CASES.iter().map(|case| entry(case, reversed)).collect()
}

/// The request as it went over the wire.
fn request(case: &Case, end: &str) -> String {
    let mut text = format!("{} {} HTTP/1.1{end}Host: harbour.example{end}", case.method, case.path);
    if let Some((media, body)) = case.sent {
        let _ = write!(
            text,
            "Content-Type: {media}{end}Content-Length: {}{end}{end}{body}",
            body.len()
        );
    } else {
        text.push_str(end);
    }
    text
}

/// The response as it went over the wire: the last one in chunks, the second behind an interim one.
fn answer(case: &Case, end: &str) -> String {
    let mut text = String::new();
    if case.sent.is_some() {
        let _ = write!(text, "HTTP/1.1 100 Continue{end}{end}");
    }
    let _ = write!(text, "HTTP/1.1 {} {}{end}", case.status, case.phrase);
    for (name, value) in fields(case) {
        let _ = write!(text, "{name}: {value}{end}");
    }
    match case.told {
        Some((_, body)) if case.status == 404 => {
            let (one, other) = body.split_at(10);
            let _ = write!(text, "Transfer-Encoding: chunked{end}{end}");
            for chunk in [one, other] {
                let _ = write!(text, "{:x}{end}{chunk}{end}", chunk.len());
            }
            let _ = write!(text, "0{end}{end}");
        }
        Some((_, body)) => {
            let _ = write!(text, "Content-Length: {}{end}{end}{body}", body.len());
        }
        None => text.push_str(end),
    }
    text
}

pub(crate) fn requests(end: &str) -> String {
    CASES.iter().map(|case| request(case, end)).collect()
}

pub(crate) fn answers(end: &str) -> String {
    CASES.iter().map(|case| answer(case, end)).collect()
}

/// Each request with its response behind it.
pub(crate) fn turns(end: &str) -> String {
    CASES.iter().map(|case| request(case, end) + &answer(case, end)).collect()
}

/// A record of an archive.
fn record(kind: &str, id: usize, other: Option<usize>, case: &Case, block: &str) -> String {
    let other = other.map(|other| format!("WARC-Concurrent-To: <urn:uuid:{other}>\r\n"));
    format!(
        "WARC/1.0\r\nWARC-Type: {kind}\r\nWARC-Record-ID: <urn:uuid:{id}>\r\n{}\
         WARC-Target-URI: <https://harbour.example{}>\r\nWARC-Date: 2027-03-08T09:00:03Z\r\n\
         Content-Type: application/http; msgtype={kind}\r\nContent-Length: {}\r\n\r\n{block}\r\n\r\n",
        other.unwrap_or_default(),
        case.path,
        block.len()
    )
}

/// How the records of an archive are tied together.
#[derive(Clone, Copy)]
pub(crate) enum Tied {
    /// The response's record names that of the request, which comes after it.
    ByName,
    /// They follow one another and name nothing.
    ByOrder,
}

/// The records of an archive, one by one.
pub(crate) fn records(tied: Tied) -> Vec<String> {
    let info = "WARC/1.0\r\nWARC-Type: warcinfo\r\nContent-Type: application/warc-fields\r\nContent-Length: 17\r\n\r\nsoftware: quay\r\n\r\n\r\n\r\n";
    let mut records = vec![info.replace("17", "18")];
    for (at, case) in CASES.iter().enumerate() {
        // An archive holds what came in the end.
        let answer = answer(case, "\r\n");
        let answer = answer.strip_prefix("HTTP/1.1 100 Continue\r\n\r\n").unwrap_or(&answer);
        let (asked, told) = (2 * at, 2 * at + 1);
        match tied {
            Tied::ByName => {
                records.push(record("response", told, None, case, answer));
                records.push(record("request", asked, Some(told), case, &request(case, "\r\n")));
            }
            Tied::ByOrder => {
                records.push(record("request", asked, None, case, &request(case, "\r\n")));
                records.push(record("response", told, None, case, answer));
            }
        }
    }
    records
}
