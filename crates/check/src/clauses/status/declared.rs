use crate::classify::{Classified, StatusVerdict, code_of};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::Severity;

pub(super) static CLAUSE: Clause = Clause {
    name: "status.declared",
    statement: "The status is one that the contract declares for this endpoint and this fault.",
    basis: &[Basis::Contract("success"), Basis::Contract("faults"), Basis::rfc(9457, "4")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Responses,
    reason: "Callers write code for declared responses. An undeclared one ends in their catch-all, whatever it meant.",
    fix: "Respond with a declared fault; or, if the response is right, declare it.",
    check,
    met: &[Example::met("a declared fault", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[
        Example::broken(
            "a status that no fault of the endpoint has",
            "GET /v1/berths/A-3",
            "HTTP/1.1 403 Forbidden\nContent-Type: application/problem+json\n\n\
                     {\"title\":\"Forbidden\",\"status\":403}",
            &[("the status line", "403")],
        ),
        Example::broken(
            "a success that is not declared",
            "GET /v1/berths/A-3",
            "HTTP/1.1 202 Accepted\nContent-Type: application/json\n\n{}",
            &[("the status line", "202")],
        ),
        Example::broken(
            "a declared type with another status",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 400 Bad Request\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                     \"title\":\"There is no such berth\",\"status\":400}",
            &[("the status line", "400")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let expected = match &classified.verdict {
        StatusVerdict::OtherSuccess => {
            let declared =
                classified.endpoint().map_or(&[][..], |endpoint| endpoint.rules.success());
            format!("a success of {}", listed(declared))
        }
        StatusVerdict::OtherStatus(fault) => {
            let by_code = fault.code.is_some() && code_of(classified) == fault.code;
            let what = if by_code && fault.type_uri.is_none() { "code" } else { "type" };
            format!(
                "{}, because the body's {what} is that of the fault {}",
                fault.status, fault.name
            )
        }
        StatusVerdict::Undeclared(statuses) if statuses.is_empty() => "no error at all".to_owned(),
        StatusVerdict::Undeclared(statuses) => format!("an error of {}", listed(statuses)),
        StatusVerdict::NotChecked(_) => return ClauseOutcome::NotApplicable,
        _ => return ClauseOutcome::Met,
    };
    let status = classified.status().unwrap_or_default();
    findings.add(Location::StatusLine, expected, status.to_string());
    ClauseOutcome::Met
}

/// `400, 404 or 409`.
fn listed(statuses: &[u16]) -> String {
    let words: Vec<String> = statuses.iter().map(u16::to_string).collect();
    match words.split_last() {
        None => String::new(),
        Some((last, [])) => last.clone(),
        Some((last, rest)) => format!("{} or {last}", rest.join(", ")),
    }
}
