use serde_json::Value;

use super::texts::{Text, texts};
use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::snippet::snippet;

pub(super) static CLAUSE: Clause = Clause {
    name: "body.no-json-in-string",
    statement: "No string in an error body is JSON.",
    basis: &[Basis::rfc(9457, "3.2"), Basis::rfc(8259, "3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A caller has to parse twice, and nothing says where.",
    fix: "Put the value into the body as it is. It was turned into text once too often, often as an exception's message.",
    check,
    met: &[Example::met("values as they are", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "an array as text",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"message":"[{\"berth\":\"Z-99\",\"reason\":\"is not in the register\"}]"}"#,
        &[(
            "body /message",
            "JSON inside a string: [{\"berth\":\"Z-99\",\"reason\":\"is not in the register\"}]",
        )],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    };
    let is_json = |text: &&Text<'_>| {
        text.value.trim_start().starts_with(['{', '[']) && holds_something(text.value)
    };
    // The first of them: what follows is likely the same.
    if let Some(found) = texts(classified, body).iter().find(is_json) {
        let got = Got::JsonInString(Recorded::text(snippet(found.value, 80)));
        findings.add(Location::Pointer(found.pointer.clone()), Expected::ValueItself, got);
    }
    ClauseOutcome::Met
}

/// Is it an object with a member, or an array with an object in it? `[A-Z]`, `{id}` and `[1]` may be anything.
fn holds_something(text: &str) -> bool {
    match serde_json::from_str::<Value>(text) {
        Ok(Value::Object(members)) => !members.is_empty(),
        Ok(Value::Array(items)) => items.iter().any(Value::is_object),
        _ => false,
    }
}
