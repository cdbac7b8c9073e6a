use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{ObservedValue, Severity, Subject};

pub(super) static CLAUSE: Clause = Clause {
    name: "status.one-for-fault",
    statement: "A fault with several statuses has one of them everywhere.",
    basis: &[Basis::Contract("status"), Basis::rfc(9457, "4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A caller that handles 422 for one endpoint does not handle 400 for the next.",
    fix: "Choose one status for the fault, and set it in one place.",
    check,
    met: &[Example::met("one status twice", TWO_NIGHTS, REFUSED_422)
        .under(EITHER)
        .beside(&[(TWO_NIGHTS, REFUSED_422)])],
    broken: &[Example::broken(
        "422 here, and 400 elsewhere",
        TWO_NIGHTS,
        REFUSED_422,
        &[("the status line", "422")],
    )
    .under(EITHER)
    .beside(&[(OTHER, REFUSED_400), (OTHER, REFUSED_400)])],
};

const EITHER: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]

[fault.invalid]
status = [400, 422]
when = ["invalid-body"]

[everywhere]
faults = ["invalid"]

[endpoint."POST /reservations"]
body-members = { nights = "integer from 1 to 28" }

[endpoint."POST /arrivals"]
body-members = { nights = "integer from 1 to 28" }
"#;

const TWO_NIGHTS: &str = "POST /v1/reservations\nContent-Type: application/json\n\n{\"nights\":99}";
const OTHER: &str = "POST /v1/arrivals\nContent-Type: application/json\n\n{\"nights\":99}";
const REFUSED_422: &str = "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/json\n\n\
    {\"errors\":{\"nights\":[\"at most 28\"]}}";
const REFUSED_400: &str = "HTTP/1.1 400 Bad Request\nContent-Type: application/json\n\n\
    {\"errors\":{\"nights\":[\"at most 28\"]}}";

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (Some(fault), Some(status)) = (classified.fault(), classified.status()) else {
        return ClauseOutcome::NotApplicable;
    };
    if !fault.other_statuses.is_empty() {
        let subject = Subject::FaultAnywhere(fault.name.clone());
        findings.compare(subject, ObservedValue::Status(status), Location::StatusLine);
    }
    ClauseOutcome::NotApplicable
}
