use super::complete::{RequiredLocation, invalid};
use super::input::{is_about_input, mentions};
use crate::classify::{Classified, ParsedBody, ReportedField};
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::snippet::snippet;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.location-given",
    statement: "A violation names its field in the member that is there for it.",
    basis: &[Basis::rfc(9457, "3"), Basis::Contract("shape")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A form shows a violation at its field. One that names the field in words alone is shown nowhere.",
    fix: "Fill the member for the field wherever the rule is about one.",
    check,
    met: &[Example::met("the field in its member", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken(
        "one violation names its field, and the next one only speaks of it",
        "POST /v1/reservations\nContent-Type: application/json\n\n{\"vessel_id\":\"x\",\"nights\":99}",
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"vessel_id","message":"is odd"},{"message":"nights has to be at most 28"}]}"#,
        &[("body /errors/1", "it is named in words alone: \"nights has to be at most 28\"")],
    )
    .under(crate::clauses::contracts::BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let entries = classified.reported_fields();
    // Another violation of the response shows that there is a member for fields.
    // The empty pointer names the body as a whole, or the parent of what is missing in it.
    let names = |entry: &ReportedField| {
        entry.location.as_ref().is_some_and(|at| entry.is_pointer || !at.is_empty())
    };
    if !entries.iter().any(names) {
        return ClauseOutcome::NotApplicable;
    }
    let invalid = invalid(classified);
    for entry in entries.iter().filter(|entry| !names(entry)) {
        let is_named = |location: &&RequiredLocation<'_>| {
            location.name().is_some_and(|name| mentions(&entry.words, &name))
        };
        if let Some(location) = invalid.iter().find(is_named) {
            let words = format!("\"{}\"", snippet(entry.words.trim(), 80));
            let at = Location::Pointer(entry.entry.clone());
            let got = Got::FieldInWords(Recorded::text(words));
            findings.add(at, Expected::FieldInMember(location.field()), got);
        }
    }
    ClauseOutcome::Met
}
