use super::meant::{STANDARD, is_asked_for, misnamed};
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.required-members",
    statement: "A problem has the standard members that the contract requires.",
    basis: &[Basis::Contract("title"), Basis::Contract("shape"), Basis::rfc(9457, "3.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "In the standard every member is optional; what callers of this service can rely on is what its contract requires.",
    fix: "Fill the members where problems are created, not in each handler.",
    check,
    met: &[Example::met(
        "the title that the fault declares is there",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\"}",
    )],
    broken: &[Example::broken(
        "the title that the fault declares is missing",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\"status\":404}",
        &[("body /title", "nothing")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    // Under another media type, or for the wrong fault, what is missing follows from that.
    if classified.faults.is_empty() || !classified.has_expected_media() {
        return ClauseOutcome::NotApplicable;
    }
    let is_meant = |name| misnamed(classified).iter().any(|other| other.meant == name);
    // A missing type is `about:blank`, and so `problem.type-declared`'s.
    for name in STANDARD.into_iter().filter(|name| *name != "type") {
        if members.member(name).is_none() && is_asked_for(classified, name) && !is_meant(name) {
            let expected = match (name, classified.fault().and_then(|fault| fault.title.as_ref())) {
                ("title", Some(title)) => Expected::Title(title.clone()),
                _ => Expected::MemberThere,
            };
            findings.add(Location::Pointer(format!("/{name}")), expected, Got::Nothing);
        }
    }
    ClauseOutcome::Met
}
