use crate::classify::{Classified, ParsedBody};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, NotChecked, Severity};
use faithful_clerk_model::json::JsonType;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.is-object",
    statement: "A problem is a JSON object.",
    basis: &[Basis::rfc(9457, "3")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "Callers read the members of a problem. An array or a bare string has none.",
    fix: "Put an array of errors into an extension member of one problem.",
    check,
    met: &[Example::met("an object", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "an array of errors at the top",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 [{\"title\":\"There is no such berth\"}]",
        &[("the whole body", "array")],
    )],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    match classified.body() {
        ParsedBody::Json(value) if !value.is_object() => {
            findings
                .add(
                    Location::Pointer(String::new()),
                    Expected::Object,
                    Got::Type(JsonType::of(value)),
                )
                .not_checked(NotChecked::Members);
            ClauseOutcome::Met
        }
        ParsedBody::Json(_) => ClauseOutcome::Met,
        _ => ClauseOutcome::NotChecked,
    }
}
