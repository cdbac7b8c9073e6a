use serde_json::Value;

use crate::classify::Classified;
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};
use faithful_clerk_model::headers::is_http_date;
use faithful_clerk_model::json::folded;
use faithful_clerk_model::json::pointer::join;
use faithful_clerk_shape::{is_date, is_date_time};

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.one-time-format",
    statement: "Timestamps have one format in all errors.",
    basis: &[Basis::rfc(3339, "5.6")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "A time without an offset is ambiguous, and a number may be seconds or milliseconds.",
    fix: "Write all timestamps in RFC 3339 format, such as 2031-04-05T06:07:08Z.",
    check,
    met: &[Example::met(
        "one format twice",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no vessel","at":"2031-04-05T06:07:08Z"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth","at":"2031-04-05T06:07:09Z"}"#,
    )])],
    broken: &[Example::broken(
        "another format",
        "GET /v1/vessels/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no vessel","timestamp":1933135628000}"#,
        &[("body /timestamp", "a number")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"no berth","at":"2031-04-05T06:07:09Z"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else { return ClauseOutcome::NotApplicable };
    for (name, value) in members {
        if classified.expected_shape().is_some_and(|shape| shape.member(name).is_some()) {
            continue;
        }
        if let Some(format) = format(name, value) {
            let value = ObservedValue::Style(format.to_owned());
            findings.compare(Subject::Timestamps, value, Location::Pointer(join("", name)));
        }
    }
    ClauseOutcome::NotApplicable
}

/// The format of a point in time; of a number only its name tells that it is one.
fn format(name: &str, value: &Value) -> Option<&'static str> {
    let is_time = || {
        let plain = folded(name);
        ["timestamp", "time", "date", "at"].iter().any(|ending| plain.ends_with(ending))
            && !plain.ends_with("format")
            && !plain.ends_with("stat")
    };
    match value {
        Value::Number(number) if is_time() => {
            number.as_f64().filter(|number| *number > 1e9).map(|_| "a number")
        }
        // The shortest and the longest of all forms.
        Value::String(text) if !(16..=40).contains(&text.len()) => None,
        Value::String(text) if is_date_time(text) => Some("RFC 3339"),
        Value::String(text) if is_http_date(text) => Some("an HTTP date"),
        Value::String(text) => {
            let date = text.get(..10).is_some_and(is_date);
            let time = text.get(10..).is_some_and(|rest| rest.len() >= 6 && rest.contains(':'));
            (date && time).then_some("without an offset")
        }
        _ => None,
    }
}
