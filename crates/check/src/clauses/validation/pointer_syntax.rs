use crate::classify::{Classified, LocationForm, ParsedBody};
use crate::clauses::contracts::BARE;
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::pointer::is_pointer;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.pointer-syntax",
    statement: "A pointer follows the syntax of RFC 6901.",
    basis: &[Basis::rfc(6901, "3"), Basis::rfc(6901, "4"), Basis::rfc(6901, "6")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "An invalid pointer resolves to nothing, and the field's message is lost.",
    fix: "Start with a slash, write ~0 for ~ and ~1 for /, and percent-encode in a fragment.",
    check,
    met: &[Example::met("a pointer", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken("a name where a pointer was declared", TOO_MANY_NIGHTS, r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"nights","detail":"at most 28"}]}"#, &[("body /errors/0/pointer", "\"nights\"")]), Example::broken("a tilde that escapes nothing", TOO_MANY_NIGHTS, r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights~x","message":"at most 28"},{"field":"/nights","message":"at most 28"}]}"#, &[("body /errors/0/field", "\"/nights~x\"")]).under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let mut outcome = ClauseOutcome::NotApplicable;
    for entry in classified.reported_fields() {
        let Some(location) = &entry.location else { continue };
        let is_meant = entry.is_pointer
            || matches!(entry.form, LocationForm::Pointer | LocationForm::Fragment);
        // A lone `#` is a name in some services, and an empty text is one, too.
        if !is_meant || (!entry.is_pointer && location.len() < 2) {
            continue;
        }
        outcome = ClauseOutcome::Met;
        if !is_pointer(location) {
            let got = Got::quoted(location);
            findings.add(Location::Pointer(entry.pointer.clone()), Expected::JsonPointer, got);
        }
    }
    outcome
}
