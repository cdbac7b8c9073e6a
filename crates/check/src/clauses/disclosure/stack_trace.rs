use super::told;
use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.stack-trace",
    statement: "An error response discloses no stack trace.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "A trace shows strangers what the service is made of, by file, version and line. To the caller it means nothing.",
    fix: "Log the trace under an id, and send the id. Check for development mode, and for handlers that put the exception's text into the response.",
    check,
    met: &[Example::met(
        "words that only sound like a trace",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":404,\
                 \"detail\":\"Nothing was found at line 12 of the berth plan (north.pdf:3)\"}",
    )],
    broken: &[Example::broken(
        "a Java trace in a member",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":404,\
                     \"trace\":[\"example.harbour.Berths: none\",\
                     \"at example.harbour.Berths.find(Berths.java:42)\"]}",
        &[(
            "body /trace/1",
            "a Java or Kotlin trace: at example.harbour.Berths.find(Berths.java:42)",
        )],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    told::check(classified, findings, DisclosureKind::StackTrace)
}
