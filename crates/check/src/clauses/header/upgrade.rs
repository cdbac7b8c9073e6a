use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};

pub(super) static CLAUSE: Clause = Clause {
    name: "header.upgrade",
    statement: "A 426 says which protocol to upgrade to.",
    basis: &[Basis::rfc(9110, "15.5.22")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "The response means 'not with this protocol', and is of no use without the one that \
             would do.",
    fix: "Send Upgrade with the supported protocols.",
    check,
    met: &[Example::met(
        "the protocol",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 426 Upgrade Required
Upgrade: HTTP/2.0
Content-Type: application/json

{"message":"Use HTTP/2"}"#,
    )
    .under(OLD)],
    broken: &[Example::broken(
        "no protocol",
        "GET /v1/berths/Z-99",
        r#"HTTP/1.1 426 Upgrade Required
Content-Type: application/json

{"message":"Use another protocol"}"#,
        &[("header Upgrade", "no such header")],
    )
    .under(OLD)],
};

/// An old protocol is refused.
const OLD: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[fault.old-protocol]
status = 426
[endpoint."GET /berths/{id}"]
faults = ["old-protocol"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(response) = classified.response().filter(|response| response.status == 426) else {
        return ClauseOutcome::NotApplicable;
    };
    if response.headers.get("upgrade").is_none_or(|value| value.trim().is_empty()) {
        findings.add(Location::header("Upgrade"), Expected::SupportedProtocols, Got::NoHeader);
    }
    ClauseOutcome::Met
}
