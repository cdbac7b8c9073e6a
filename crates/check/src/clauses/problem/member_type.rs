use crate::classify::Classified;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::JsonType;
use serde_json::Value;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.member-type",
    statement: "The standard members of a problem have their standard JSON types.",
    basis: &[Basis::rfc(9457, "3.1"), Basis::rfc(9457, "3.1.2")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "Consumers ignore a member of the wrong JSON type, so sending it is pointless.",
    fix: "Send `status` as a number and the other four as strings. Leave out a member that has nothing to say; null is not a string.",
    check,
    met: &[Example::met(
        "a number and strings",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":404,\"detail\":\"Z-99\"}",
    )],
    broken: &[Example::broken(
        "a status as a string, and an empty detail as null",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no such berth\",\"status\":\"404\",\"detail\":null}",
        &[("body /status", "string \"404\""), ("body /detail", "null")],
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
    for (name, value) in members {
        let (right, expected) = match name.as_str() {
            "type" | "instance" => (value.is_string(), Expected::UriString),
            "title" | "detail" => (value.is_string(), Expected::JsonType(JsonType::String)),
            "status" => (is_status(value), Expected::StatusNumber),
            _ => continue,
        };
        if !right {
            findings.add(Location::Pointer(format!("/{name}")), expected, Got::typed(value));
        }
    }
    ClauseOutcome::Met
}

fn is_status(value: &Value) -> bool {
    value.as_f64().is_some_and(|status| status.fract() == 0.0 && (100.0..600.0).contains(&status))
}
