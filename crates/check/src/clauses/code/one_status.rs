use super::place::undeclared;
use crate::classify::Classified;
use crate::clauses::contracts::BARE;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};

pub(super) static CLAUSE: Clause = Clause {
    name: "code.one-status",
    statement: "An application code comes with one status.",
    basis: &[Basis::rfc(9110, "15")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "If a code has several statuses, callers who check the code and callers who check the status behave differently.",
    fix: "Keep code and status in one table, and always take both from it.",
    check,
    met: &[Example::met(
        "one status twice",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"NO_BERTH","message":"no berth Z-99"}"#,
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/vessels/Z-98",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"NO_BERTH","message":"no berth Z-98"}"#,
    )])],
    broken: &[Example::broken(
        "another status for the same code",
        "DELETE /v1/berths/Z-99",
        r#"HTTP/1.1 409 Conflict
Content-Type: application/json

{"code":"NO_BERTH","message":"no berth Z-99"}"#,
        &[("the status line", "409")],
    )
    .under(BARE)
    .beside(&[(
        "GET /v1/vessels/Z-98",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/json

{"code":"NO_BERTH","message":"no berth Z-98"}"#,
    )])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some((code, _)) = undeclared(classified) else { return ClauseOutcome::NotApplicable };
    let status = classified.status().unwrap_or_default();
    findings.compare(Subject::Code(code), ObservedValue::Status(status), Location::StatusLine);
    ClauseOutcome::NotApplicable
}
