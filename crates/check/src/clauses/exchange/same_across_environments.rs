use crate::classify::{Classified, ParsedBody};
use crate::clauses::comparing::{outline_of, request_of};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "exchange.same-across-environments",
    statement: "The same request gets the same error in every environment.",
    basis: &[Basis::rfc(9457, "3.1.1")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Errors,
    reason: "An error that differs between development and production is tested in one form and met in another.",
    fix: "Use one error configuration in all environments. Check for a development mode that adds members, pages or traces.",
    check,
    met: &[Example::met("the same error in both environments", "GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Recorded-As: development
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404}"#).beside(&[("GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Recorded-As: production
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404}"#)])],
    broken: &[Example::broken("an extra member in development", "GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Recorded-As: development
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"hint":"look at the plan"}"#, &[("the status line", "404 application/problem+json {hint: string, status: number, title: string, type: string}, in development")]).beside(&[("GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Recorded-As: production
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404}"#)])],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(environment) = classified.environment else { return ClauseOutcome::NotApplicable };
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    let media = classified.media().map(str::to_owned);
    let status = classified.status().unwrap_or_default();
    let value = ObservedValue::Response(status, media, outline_of(classified.body()));
    findings.compare_parts(environment, request_of(classified), value, Location::StatusLine);
    ClauseOutcome::NotApplicable
}
