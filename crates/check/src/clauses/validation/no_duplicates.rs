use super::input::is_about_input;
use crate::classify::{Classified, ParsedBody, ReportedField};
use crate::clauses::example::TOO_MANY_NIGHTS;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::DuplicateRule;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Pointer, Severity};
use faithful_clerk_model::json::pointer::{resolve, tokens};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.no-duplicates",
    statement: "No violation is reported twice.",
    basis: &[Basis::Contract("validation-errors"), Basis::rfc(9457, "3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A reader looks for the difference between two identical messages.",
    fix: "Look for a rule that is declared twice, or a validator that runs twice.",
    check,
    met: &[Example::met(
        "two rules of one field",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/nights","detail":"a multiple of 2"}]}"#,
    )],
    broken: &[Example::broken(
        "one rule twice",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"/nights","detail":"at most 28"},{"pointer":"/nights","detail":"at most 28"}]}"#,
        &[("body /errors/1", "the same as /errors/0")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let entries = classified.reported_fields();
    if entries.is_empty() || !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    let body = classified.body().json();
    // The same only if all of both is: its location, its reason, its code, and whatever else there is.
    let all = |entry: &ReportedField| {
        let own = tokens(&entry.entry).and_then(|steps| resolve(body?, &steps));
        (entry.location.clone(), own)
    };
    let rule = classified.style().validation_errors.duplicates;
    let is_same_by_rule = |one: &ReportedField, other: &ReportedField| {
        let is_at_one = one.location.is_some() && one.steps == other.steps;
        match rule {
            DuplicateRule::Identical => false,
            DuplicateRule::ByRule => is_at_one && one.code.is_some() && one.code == other.code,
            DuplicateRule::ByLocation => is_at_one,
        }
    };
    for (at, entry) in entries.iter().enumerate() {
        let earlier = entries.iter().take(at).find(|earlier| is_same_by_rule(earlier, entry));
        if let Some(earlier) = earlier {
            let expected = match rule {
                DuplicateRule::ByLocation => Expected::OneViolationPerLocation,
                DuplicateRule::ByRule | DuplicateRule::Identical => {
                    Expected::OneViolationPerLocationAndCode
                }
            };
            let got = Got::SameAs(Pointer::new(&earlier.entry));
            let found = findings.add(Location::Pointer(entry.entry.clone()), expected, got);
            found.severity(Severity::Breach);
            continue;
        }
        // An entry that gives neither a code nor a reason can't be told from another one of its field.
        if entry.code.is_none() && entry.reason.is_none() {
            continue;
        }
        let same =
            |earlier: &&ReportedField| earlier.entry != entry.entry && all(earlier) == all(entry);
        let earlier = entries.iter().take(at).find(same);
        if let Some(earlier) = earlier {
            let got = Got::SameAs(Pointer::new(&earlier.entry));
            let location = Location::Pointer(entry.entry.clone());
            findings.add(location, Expected::UniqueViolation, got);
        }
    }
    ClauseOutcome::Met
}
