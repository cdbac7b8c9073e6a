use serde_json::Value;

use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::exchange::RequestBody;
use faithful_clerk_model::finding::{Expected, Got, Measured, Severity};
use faithful_clerk_model::json::pointer::{join, join_index};

pub(super) static CLAUSE: Clause = Clause {
    name: "body.short-echo",
    statement: "An error gives back little of the request.",
    basis: &[Basis::rfc(9457, "5")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "The caller has what it sent. Given back whole, it fills logs, and whatever it holds is stored there.",
    fix: "Name the field, and give back the value only where it is short.",
    check,
    met: &[Example::met(
        "no echo",
        LONG_NOTE,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":{"nights":["at most 28"]}}"#,
    )
    .under(BARE)],
    broken: &[Example::broken(
        "the body of the request",
        LONG_NOTE,
        LONG_ECHO,
        &[("body /input", "362 characters of what the request sent")],
    )
    .under(BARE)],
};

/// A longer echo is told, in characters.
const MOST: usize = 300;

const LONG_NOTE: &str = r#"POST /v1/reservations
Content-Type: application/json

{"vessel_id":"OB1234","nights":99,"note":"We come from the north with the tide, four of us and a dog, and shall be two hours late if the wind stays as it is. Please leave the gate of the outer quay open, and have somebody there with a trolley, as one of us cannot walk far. We need water and power for both nights, and would like to dine at eight on the first."}"#;
const LONG_ECHO: &str = r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":{"nights":["at most 28"]},"input":{"vessel_id":"OB1234","nights":99,"note":"We come from the north with the tide, four of us and a dog, and shall be two hours late if the wind stays as it is. Please leave the gate of the outer quay open, and have somebody there with a trolley, as one of us cannot walk far. We need water and power for both nights, and would like to dine at eight on the first."}}"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let RequestBody::Present(content) = &classified.exchange.request.body else {
        return ClauseOutcome::NotApplicable;
    };
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let Ok(sent) = content.decode() else { return ClauseOutcome::NotChecked };
    if sent.len() <= MOST {
        return ClauseOutcome::NotApplicable;
    }
    let text = String::from_utf8_lossy(&sent);
    let request = Sent { text: &text, value: serde_json::from_str(&text).ok() };
    if let Some((pointer, length)) = echo(body, String::new(), &request) {
        let expected = Expected::ShortEcho(Measured::count(MOST));
        findings.add(Location::Pointer(pointer), expected, Got::Echo(Measured::count(length)));
    }
    ClauseOutcome::Met
}

/// What the request sent.
struct Sent<'t> {
    text: &'t str,
    value: Option<Value>,
}

/// The first value that came out of the request and is long, and its length.
fn echo(value: &Value, at: String, sent: &Sent<'_>) -> Option<(String, usize)> {
    match value {
        Value::String(text) => {
            let length = text.chars().count();
            let is_sent = || {
                sent.text.contains(text.as_str())
                    || sent.value.as_ref().is_some_and(|v| holds(v, value))
            };
            (length > MOST && is_sent()).then_some((at, length))
        }
        Value::Array(_) | Value::Object(_)
            if sent.value.as_ref().is_some_and(|v| holds(v, value)) =>
        {
            let length = value.to_string().chars().count();
            (length > MOST).then_some((at, length))
        }
        Value::Array(items) => items
            .iter()
            .enumerate()
            .find_map(|(index, item)| echo(item, join_index(&at, index), sent)),
        Value::Object(members) => {
            members.iter().find_map(|(name, member)| echo(member, join(&at, name), sent))
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => None,
    }
}

/// Is it the value, or a member of it?
fn holds(value: &Value, part: &Value) -> bool {
    value == part
        || match value {
            Value::Array(items) => items.iter().any(|item| holds(item, part)),
            Value::Object(members) => members.values().any(|member| holds(member, part)),
            _ => false,
        }
}
