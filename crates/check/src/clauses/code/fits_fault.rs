use super::place::pointer;
use crate::classify::{Classified, ParsedBody, code_of, code_values};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, FaultText, Got, Severity};
use faithful_clerk_model::json::scalar_text;

pub(super) static CLAUSE: Clause = Clause {
    name: "code.fits-fault",
    statement: "An application code comes with the fault that it stands for.",
    basis: &[Basis::Contract("codes"), Basis::Contract("code")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A code that stands for two errors identifies neither.",
    fix: "Keep code, status and type in one table, and always take all three from it.",
    check,
    met: &[Example::met("the code of the fault", "GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","code":4004}"#).under(CODED)],
    broken: &[Example::broken("the code of another fault", "GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth","code":4017}"#, &[("body /code", "4017")]).under(CODED), Example::broken("no code", "GET /v1/berths/Z-99", r#"HTTP/1.1 404 Not Found
Content-Type: application/problem+json

{"type":"https://harbour.example/faults/no-such-berth","title":"There is no such berth"}"#, &[("body /code", "nothing")]).under(CODED)],
};

/// Types and codes.
const CODED: &str = r#"contract = 1
servers = ["https://harbour.example/v1"]
[error]
shape = "problem"
[fault.no-such-berth]
status = 404
type = "https://harbour.example/faults/no-such-berth"
title = "There is no such berth"
code = 4004
when = ["resource-not-found"]
[fault.berth-taken]
status = 409
type = "https://harbour.example/faults/berth-taken"
title = "The berth is taken"
code = 4017
[endpoint."GET /berths/{id}"]
faults = ["no-such-berth", "berth-taken"]
"#;

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    // What was recognised by its code has it; and where there is a catalogue, `code.declared` asks for
    // one.
    let fault = classified.fault().filter(|fault| fault.code.is_some());
    let Some(fault) = fault else { return ClauseOutcome::NotApplicable };
    match classified.body() {
        ParsedBody::Json(body) if body.is_object() => {}
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        _ => return ClauseOutcome::NotApplicable,
    }
    let values = code_values(classified);
    // Of a list of errors, one has to be the fault that the response is.
    if values.iter().any(|one| one.value.and_then(scalar_text) == fault.code) {
        return ClauseOutcome::Met;
    }
    let code = code_of(classified);
    let catalogue = classified.contract.codes.as_ref().map(|codes| &codes.catalogue);
    let in_catalogue = |catalogue: &Vec<(String, _)>| {
        catalogue.iter().any(|(known, _)| Some(known) == code.as_ref())
    };
    if catalogue.is_some_and(|catalogue| !in_catalogue(catalogue)) {
        return ClauseOutcome::NotApplicable;
    }
    let text = fault.code.clone().unwrap_or_default();
    let location = Location::Pointer(pointer(classified));
    let expected = Expected::FaultText(vec![FaultText { text, fault: fault.name.clone() }]);
    findings.add(location, expected, code.map_or(Got::Nothing, Got::Code));
    ClauseOutcome::Met
}
