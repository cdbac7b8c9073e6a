use crate::classify::{Classified, ParsedBody};
use crate::clauses::contracts::DEMANDING;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.code-declared",
    statement: "The code of a violation is one that the contract declares.",
    basis: &[Basis::Contract("validation-errors")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A program that acts on codes ignores one that it does not know.",
    fix: "Take the code from the contract's list, or add it there.",
    check,
    met: &[Example::met("a declared code", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r#"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"","code":"missing","detail":"vessel_id"},{"pointer":"/nights","code":"out_of_range"}]}"#).under(DEMANDING)],
    broken: &[Example::broken("another code", r#"POST /v1/reservations
Authorization: Bearer x
Content-Type: application/json

{"nights":99}"#, r#"HTTP/1.1 422 Unprocessable Content
X-Request-Id: 3f2a1c5e-7d64-4b0a-9a51-0c3a8d1f2b77
Content-Type: application/problem+json

{"title":"Unprocessable Content","errors":[{"pointer":"","code":"required","detail":"vessel_id"},{"pointer":"/nights","code":"out_of_range"}]}"#, &[("body /errors/0", "the code required")]).under(DEMANDING)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let codes = &classified.style().validation_errors.codes;
    if codes.is_empty() {
        return ClauseOutcome::NotApplicable;
    }
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields() {
        let Some(code) = &entry.code else { continue };
        outcome = ClauseOutcome::Met;
        if !codes.contains(code) {
            let expected = Expected::ViolationCode(codes.clone());
            let location = Location::Pointer(entry.entry.clone());
            findings.add(location, expected, Got::ViolationCode(code.clone()));
        }
    }
    outcome
}
