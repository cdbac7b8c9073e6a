use serde_json::Value;

use crate::address::Location;
use crate::clause::contracts::BARE;
use crate::clause::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clause::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::finding::Severity;
use crate::place::{Classified, LocationForm, ParsedBody};
use crate::pointer::is_pointer;

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.pointer-syntax",
    statement: "A pointer is written as RFC 6901 has it.",
    basis: &[Basis::rfc(6901, "3"), Basis::rfc(6901, "4"), Basis::rfc(6901, "6")],
    weight: Severity::Breach,
    of: AppliesTo::Errors,
    reason: "What is no pointer leads nowhere, and the message of the field is lost.",
    mending: "Begin with a slash, write ~0 for ~ and ~1 for /, and percent-encode in a \
             fragment.",
    judge,
    kept: &[Example::kept("a pointer", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken("a name where a pointer was agreed", TOO_MANY_NIGHTS, r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/invalid-request","title":"The request is not valid","status":422,"errors":[{"pointer":"nights","detail":"at most 28"}]}"#, &[("body /errors/0/pointer", "\"nights\"")]), Example::broken("a tilde that escapes nothing", TOO_MANY_NIGHTS, r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"errors":[{"field":"/nights~x","message":"at most 28"},{"field":"/nights","message":"at most 28"}]}"#, &[("body /errors/0/field", "\"/nights~x\"")]).under(BARE)],
};

fn judge(placed: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = placed.body() {
        return ClauseOutcome::Unjudged;
    }
    let mut judged = ClauseOutcome::Outside;
    for entry in placed.entries() {
        let Some(location) = &entry.location else { continue };
        let is_meant = entry.is_pointer
            || matches!(entry.form, LocationForm::Pointer | LocationForm::Fragment);
        // A lone `#` is a name in some services, and an empty text is one, too.
        if !is_meant || (!entry.is_pointer && location.len() < 2) {
            continue;
        }
        judged = ClauseOutcome::Kept;
        if !is_pointer(location) {
            let seen = Value::from(location.as_str()).to_string();
            findings.add(Location::Pointer(entry.at.clone()), "a JSON Pointer", seen);
        }
    }
    judged
}
