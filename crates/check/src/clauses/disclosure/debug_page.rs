use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.debug-page",
    statement: "A response is no framework's debug page.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A debug page lists routes, settings and code to whoever asks for a path that is not there.",
    fix: "Switch off development mode, and give the framework an error handler of the service's own.",
    check,
    met: &[Example::met(
        "text that discloses nothing",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"The pages of the register are numbered; see route 12"}"#,
    )],
    broken: &[Example::broken(
        "a table of routes",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","status":404,"detail":"Using the URLconf defined in harbour.urls, these patterns were tried"}"#,
        &[("body /detail", "a table of routes: Using the URLconf defined in harbour.urls")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::DebugPage)
}
