use serde_json::Value;

use super::place::pointer;
use crate::classify::{Classified, ParsedBody, code_value};
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "code.no-lookalike",
    statement: "An application code does not look like a different HTTP status.",
    basis: &[Basis::rfc(9457, "5")],
    severity: Severity::Note,
    applies_to: AppliesTo::Errors,
    reason: "People and programs alike read a 201 or a 301 in an error body as a status.",
    fix: "Take codes from a range of their own, above 999 or with letters.",
    check,
    met: &[Example::met(
        "a code in a range of its own",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":4004,"message":"no berth Z-99"}"#,
    )
    .under(BARE)],
    broken: &[Example::broken(
        "a code that looks like a status",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":201,"message":"no berth Z-99"}"#,
        &[("body /code", "201")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let code = code_value(classified).and_then(Value::as_u64);
    let Some(code) = code.and_then(|code| u16::try_from(code).ok()) else {
        return ClauseOutcome::NotApplicable;
    };
    let line = classified.status().unwrap_or_default();
    // Where codes are declared, that one has to be declared is `code.declared`'s.
    let is_declared =
        classified.contract.codes.as_ref().is_some_and(|codes| !codes.catalogue.is_empty());
    if !is_declared && code != line && faithful_clerk_model::status::is_registered(code) {
        let location = Location::Pointer(pointer(classified));
        findings.add(location, Expected::CodeUnlikeStatus(line), Got::Code(code.to_string()));
    }
    ClauseOutcome::Met
}
