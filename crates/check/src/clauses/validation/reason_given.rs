use serde_json::Value;

use super::input::is_about_input;
use crate::classify::{Classified, ParsedBody, ReportedField};
use crate::clauses::contracts::BARE;
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Recorded, Severity};
use faithful_clerk_model::json::pointer::{resolve, tokens};
use faithful_clerk_shape::{MismatchKind, compare};

pub(super) static CLAUSE: Clause = Clause {
    name: "validation.reason-given",
    statement: "Every invalid field comes with a reason.",
    basis: &[Basis::rfc(9457, "3")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "A field without a reason tells the caller where to look, but not what for.",
    fix: "Send the rule's text or its code with each field.",
    check,
    met: &[Example::met("a field and its reason", TOO_MANY_NIGHTS, NIGHTS_REFUSED)],
    broken: &[Example::broken(
        "a field, and no reason",
        TOO_MANY_NIGHTS,
        r#"HTTP/1.1 422 Unprocessable Content
Content-Type: application/json

{"message":"invalid","errors":[{"field":"nights"}]}"#,
        &[("body /errors/0", "only \"nights\"")],
    )
    .under(BARE)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let entries = classified.reported_fields();
    if entries.is_empty() || !is_about_input(classified) {
        return ClauseOutcome::NotApplicable;
    }
    // What a declared list lacks is `shape.declared`'s; a reason that is there and blank is not.
    let body = classified.body().json();
    let has_no_more = |entry: &ReportedField| {
        let item = tokens(&entry.entry).and_then(|steps| resolve(body?, &steps));
        item.and_then(Value::as_object).is_some_and(|item| item.len() < 2)
    };
    for entry in entries.iter().filter(|entry| entry.location.is_some()) {
        if entry.reason.is_none()
            && entry.code.is_none()
            && !(entry.is_pointer && has_no_more(entry))
            && !lacks_declared_member(entry, classified)
        {
            let name = entry.location.as_deref().unwrap_or_default();
            let got = Got::Only(Recorded::quoted(name));
            findings.add(Location::Pointer(entry.entry.clone()), Expected::Reason, got);
        }
    }
    ClauseOutcome::Met
}

/// Does the declared shape say that a member of the entry is missing? Then that is the finding.
fn lacks_declared_member(entry: &ReportedField, classified: &Classified<'_>) -> bool {
    let (body, shape) = (classified.body().json(), classified.expected_shape());
    let Some((body, shape)) = body.zip(shape) else { return false };
    let within = format!("{}/", entry.entry);
    compare(body, shape, &classified.contract.shapes).iter().any(|mismatch| {
        mismatch.kind == MismatchKind::Missing && mismatch.pointer.starts_with(&within)
    })
}
