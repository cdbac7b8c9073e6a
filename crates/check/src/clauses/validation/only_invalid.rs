use super::input::is_about_input;
use crate::classify::{Classified, LocationForm, ParsedBody};
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Pointer, Severity};
use faithful_clerk_model::json::pointer::{resolve, tokens};
use faithful_clerk_shape::MOST_MISMATCHES;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.only-invalid",
    statement: "A validation error names no valid field.",
    basis: &[Basis::rfc(9457, "3"), Basis::Contract("body-members"), Basis::Contract("body")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A caller who changes a valid field may break it.",
    fix: "Report the field that the rule is about; if it is about several, report those that break it.",
    check,
    met: &[Example::met("only the invalid field", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken(
        "a valid field",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/vessel_id","detail":"is odd"}]}"#,
        &[("body /errors/1/pointer", "\"/vessel_id\"")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let situations = &classified.situations;
    let rules = classified.rules().body.as_ref();
    let (Some(rules), Some(body)) = (rules, &situations.body) else {
        return ClauseOutcome::NotApplicable;
    };
    if situations.invalid.is_empty() || !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    // Beyond so many places nobody knows which other ones are invalid.
    if situations.invalid.len() >= MOST_MISMATCHES {
        return ClauseOutcome::NotChecked;
    }
    let invalid: Vec<Vec<String>> =
        situations.invalid.iter().filter_map(|place| tokens(&place.pointer)).collect();
    let whole = classified.contract.validation_errors.root.as_deref();
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields() {
        let Some(first) = entry.steps.first().filter(|_| entry.location.is_some()) else {
            continue;
        };
        // Of a place that the rules do not know, nobody can say that it was in order; and a parameter is
        // not the body's.
        let known = rules.knows(first) && resolve(body, &entry.steps).is_some();
        if !known || entry.form == LocationForm::Parameter || entry.location.as_deref() == whole {
            continue;
        }
        outcome = ClauseOutcome::Met;
        let tells = |place: &Vec<String>| entry.is_at_or_below(place) || entry.is_above(place);
        if !invalid.iter().any(tells) {
            let invalid = situations.invalid.iter().map(|m| Pointer::new(&m.pointer)).collect();
            let got = Got::quoted(entry.location.as_deref().unwrap_or_default());
            let location = Location::Pointer(entry.pointer.clone());
            findings.add(location, Expected::InvalidLocation(invalid), got);
        }
    }
    outcome
}
