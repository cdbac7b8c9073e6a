use serde_json::Value;

use super::traces::{Trace, find};
use crate::address::Place;
use crate::clause::{Basis, Clause, Example, Expected, Findings, Judged, Of};
use crate::exchange::RequestBody;
use crate::finding::Weight;
use crate::json;
use crate::place::{AnswerBody, Placed};
use crate::pointer::{join, join_index};

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.stack-trace",
    statement: "An error answer holds no stack trace.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    weight: Weight::Breach,
    of: Of::Errors,
    reason: "A trace tells strangers what the service is made of, by file, version and line. To the \
             caller it says nothing.",
    mending: "Write the trace to the log under an id, and send the id. Look for a development mode \
              that is on, and for handlers that put the exception's text into the answer.",
    judge,
    kept: &[Example {
        shows: "words that only sound like a trace",
        request: "GET /v1/berths/Z-99",
        answer: "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":404,\
                 \"detail\":\"Nothing was found at line 12 of the berth plan (north.pdf:3)\"}",
        findings: &[],
    }],
    broken: &[Example {
        shows: "a Java trace in a member",
        request: "GET /v1/berths/Z-99",
        answer: "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":404,\
                     \"trace\":[\"example.harbour.Berths: none\",\
                     \"at example.harbour.Berths.find(Berths.java:42)\"]}",
        findings: &[Expected {
            place: "body /trace/1",
            seen: "a Java or Kotlin trace: at example.harbour.Berths.find(Berths.java:42)",
        }],
    }],
};

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    let words = match placed.body() {
        AnswerBody::Empty => return Judged::Outside,
        AnswerBody::Unknown(_) => return Judged::Unjudged,
        body => body.words().unwrap_or_default(),
    };
    let Some(trace) = find(&words) else { return Judged::Kept };
    if was_sent(placed, &trace.text) {
        return Judged::Kept;
    }
    let place = match placed.body() {
        AnswerBody::Json(value) => {
            Place::Pointer(pointer_to(value, String::new()).unwrap_or_default())
        }
        _ => Place::Body,
    };
    let Trace { language, text } = trace;
    findings.add(place, "no stack trace", format!("a {language} trace: {}", brief(&text)));
    Judged::Kept
}

/// What the caller sent and gets back is no disclosure.
fn was_sent(placed: &Placed<'_>, text: &str) -> bool {
    let RequestBody::Present(content) = &placed.exchange.request.body else { return false };
    content.decode().is_ok_and(|sent| {
        let sent = String::from_utf8_lossy(&sent);
        sent.contains(text) || json::Json::read(sent.as_bytes()).strings().contains(text)
    })
}

/// The first string that shows a trace by itself; a trace may also be spread over a list.
fn pointer_to(value: &Value, pointer: String) -> Option<String> {
    match value {
        Value::String(text) => find(text).map(|_| pointer),
        Value::Array(items) => {
            let mut inner = items.iter().enumerate();
            let found = inner.find_map(|(i, item)| pointer_to(item, join_index(&pointer, i)));
            found.or_else(|| find(&json::strings(value)).map(|_| pointer))
        }
        Value::Object(members) => {
            members.iter().find_map(|(name, member)| pointer_to(member, join(&pointer, name)))
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => None,
    }
}

fn brief(text: &str) -> String {
    const MOST: usize = 100;
    let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    match line.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", line.get(..end).unwrap_or_default()),
        None => line,
    }
}
