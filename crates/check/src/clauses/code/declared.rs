use std::ops::RangeInclusive;

use super::place::pointer;
use crate::classify::{Classified, ParsedBody, code_of, code_values};
use crate::clauses::contracts::ENVELOPE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::ApplicationCodes;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::scalar_text;

pub(super) static CLAUSE: Clause = Clause {
    name: "code.declared",
    statement: "An application code is one that the contract declares.",
    basis: &[Basis::Contract("codes")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "An undeclared code can't be looked up, and one outside the range may belong to another service.",
    fix: "Take the code from the catalogue, or add it there with its meaning.",
    check,
    met: &[Example::met(
        "a code from the catalogue",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":4004,"text":"no berth Z-99"}}"#,
    )
    .under(ENVELOPE)],
    broken: &[
        Example::broken(
            "a code outside the range",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":17,"text":"no berth Z-99"}}"#,
            &[("body /meta/code", "17")],
        )
        .under(ENVELOPE),
        Example::broken(
            "an undeclared code",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"code":4999,"text":"no berth Z-99"}}"#,
            &[("body /meta/code", "4999")],
        )
        .under(ENVELOPE),
        Example::broken(
            "no code",
            "GET /v1/berths/Z-99",
            r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"ok":false,"meta":{"status":404,"text":"no berth Z-99"}}"#,
            &[("body /meta/code", "nothing")],
        )
        .under(ENVELOPE),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(codes) = &classified.contract.codes else { return ClauseOutcome::NotApplicable };
    match classified.body() {
        ParsedBody::Json(_) => {}
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    }
    if code_of(classified).is_none() {
        // A fault that has no code has none to show; and what a declared shape asks for is
        // `shape.declared`'s.
        let asks = classified.expected_shape().filter(|shape| shape.name != "problem").is_some();
        if asks || classified.fault().is_some_and(|fault| fault.code.is_none()) {
            return ClauseOutcome::NotApplicable;
        }
        findings.add(Location::Pointer(pointer(classified)), Expected::Code, Got::Nothing);
        return ClauseOutcome::Met;
    }
    for found in code_values(classified) {
        if let Some(code) = found.value.and_then(scalar_text) {
            check_code(code, Location::Pointer(found.pointer), codes, findings);
        }
    }
    ClauseOutcome::Met
}

fn check_code(code: String, location: Location, codes: &ApplicationCodes, findings: &mut Findings) {
    let number = code.parse::<i64>().ok();
    let in_range = |range: &RangeInclusive<i64>| number.is_some_and(|code| range.contains(&code));
    if codes.range.as_ref().is_some_and(|range| !in_range(range)) {
        let range = codes.range.as_ref().map(|range| (*range.start(), *range.end()));
        let (least, most) = range.unwrap_or_default();
        findings.add(location, Expected::CodeInRange(least, most), Got::Code(code));
    } else if !codes.catalogue.is_empty()
        && !codes.catalogue.iter().any(|(known, _)| *known == code)
    {
        findings.add(location, Expected::DeclaredCode, Got::Code(code));
    }
}
