use serde_json::Value;

use crate::classify::{Classified, ParsedBody, envelope_values};
use crate::clauses::contracts::{ENVELOPE, JSON_API};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_model::json::scalar_text;

pub(super) static CLAUSE: Clause = Clause {
    name: "status.body-agrees",
    statement: "The status in a body is that of the status line.",
    basis: &[Basis::rfc(9457, "5"), Basis::Contract("envelope")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "With two different numbers, some callers trust the one and some the other.",
    fix: "Set both from one value, where the response is written.",
    check,
    met: &[Example::met(
        "the same status twice",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
    )
    .under(ENVELOPE)],
    broken: &[
        Example::broken(
            "another status in the envelope",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":400,"code":4004,"text":"no berth Z-99"}}"#,
            &[("body /meta/status", "400")],
        )
        .under(ENVELOPE),
        Example::broken(
            "another status in an error object",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/vnd.api+json

{"errors":[{"status":"400","title":"There is no such berth"}]}"#,
            &[("body /errors/0/status", "400")],
        )
        .under(JSON_API),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let reads = classified.style().envelope.status.as_ref();
    let is_api = classified.expected_shape().is_some_and(|shape| shape.is_json_api);
    if reads.is_none() && !is_api {
        return ClauseOutcome::NotApplicable;
    }
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let line = classified.status().unwrap_or_default();
    let mut told: Vec<(String, String)> = Vec::new();
    if let Some(steps) = reads {
        let found = envelope_values(classified, steps);
        // Several errors may have several statuses, of which the response has the one that fits all best.
        if let [one] = &*found {
            told.extend(one.value.and_then(scalar_text).map(|text| (one.pointer.clone(), text)));
        }
    }
    let is_api = is_api && reads.is_none();
    let errors = body.member("errors").and_then(Value::as_array).filter(|_| is_api);
    // JSON:API 1.1, 'Error Objects': each may have its own; where there is but one, it is the response's.
    if let Some([error]) = errors.map(Vec::as_slice) {
        let status = error.member("status").and_then(scalar_text);
        told.extend(status.map(|status| ("/errors/0/status".to_owned(), status)));
    }
    if told.is_empty() {
        return ClauseOutcome::NotApplicable;
    }
    for (pointer, status) in told {
        if status != line.to_string() {
            let got = Got::Text(Recorded::text(status));
            findings.add(Location::Pointer(pointer), Expected::StatusLine(line), got);
        }
    }
    ClauseOutcome::Met
}
