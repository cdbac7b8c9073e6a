use super::told;
use crate::clause::{Basis, Clause, Example, Findings, Judged, Of};
use crate::disclosure::Inside;
use crate::finding::Weight;
use crate::place::Placed;

pub(super) static CLAUSE: Clause = Clause {
    name: "disclosure.stack-trace",
    statement: "An error answer holds no stack trace.",
    basis: &[Basis::rfc(9457, "5"), Basis::rfc(9457, "3.1.4")],
    weight: Weight::Breach,
    of: Of::Answers,
    reason: "A trace tells strangers what the service is made of, by file, version and line. To the \
             caller it says nothing.",
    mending: "Write the trace to the log under an id, and send the id. Look for a development mode \
              that is on, and for handlers that put the exception's text into the answer.",
    judge,
    kept: &[Example::kept(
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

fn judge(placed: &Placed<'_>, findings: &mut Findings) -> Judged {
    told::judge(placed, findings, Inside::StackTrace, "no stack trace")
}
