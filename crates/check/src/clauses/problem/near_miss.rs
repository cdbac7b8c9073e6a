use super::meant::{is_asked_for, misnamed};
use crate::classify::{Classified, ParsedBody};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Got, Severity};
use faithful_clerk_model::json::pointer::join;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.near-miss",
    statement: "No member has a name that is almost that of a standard member.",
    basis: &[Basis::rfc(9457, "3.1"), Basis::rfc(9457, "3.2")],
    severity: Severity::Warning,
    applies_to: AppliesTo::Problems,
    reason: "Consumers of problems look for the five standard names. `statusCode` or `message` is an extension that they ignore.",
    fix: "Rename the member; if both names are needed for a while, send both. If the name is intended, declare it as a member of the shape.",
    check,
    met: &[Example::met(
        "beside its standard member, it is an extension",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"detail\":\"Z-99\",\
                 \"message\":\"No berth Z-99\"}",
    )],
    broken: &[Example::broken(
        "a status and a detail under other names",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"statusCode\":404,\"message\":\"Z-99\"}",
        &[("body /statusCode", "`statusCode`"), ("body /message", "`message`")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if let ParsedBody::Unknown(_) = classified.body() {
        return ClauseOutcome::NotChecked;
    }
    for found in misnamed(classified) {
        let location = Location::Pointer(join("", found.name));
        let expected = Expected::Member(found.meant.to_owned());
        let finding = findings.add(location, expected, Got::Member(found.name.to_owned()));
        if is_asked_for(classified, found.meant) {
            finding.severity(Severity::Breach).because(Because::RequiredMember);
        }
    }
    ClauseOutcome::Met
}
