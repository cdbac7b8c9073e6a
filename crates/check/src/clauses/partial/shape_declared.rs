use serde_json::Value;

use super::inner::{FailedEntry, PartialFailures, at, failed, inner};
use crate::classify::Classified;
use crate::clauses::contracts::{ARRIVALS, BATCH};
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::json::JsonType;
use faithful_clerk_shape::compare;

pub(super) static CLAUSE: Clause = Clause {
    name: "partial.shape-declared",
    statement: "A failure inside a success has the declared shape.",
    basis: &[Basis::Contract("partial")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "Failures inside a success are easily overlooked; if each looks different, nobody handles them.",
    fix: "Write them with the same code that writes errors.",
    check,
    met: &[Example::met(
        "a failure as declared",
        ARRIVALS,
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":[{"id":"r-2","code":"unknown-reservation"}]}"#,
    )
    .under(BATCH)],
    broken: &[
        Example::broken(
            "a failure as a string",
            ARRIVALS,
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"}],"failures":["r-2 failed"]}"#,
            &[("body /failures/0", "string")],
        )
        .under(BATCH),
        Example::broken(
            "no array of failures",
            ARRIVALS,
            r#"HTTP/1.1 200 OK
Content-Type: application/json

{"recorded":[{"id":"r-1"},{"id":"r-2"}]}"#,
            &[("body /failures", "nothing")],
        )
        .under(BATCH),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let (partial, body) = match inner(classified) {
        PartialFailures::Found(partial, body) => (partial, body),
        PartialFailures::Unknown => return ClauseOutcome::NotChecked,
        PartialFailures::None => return ClauseOutcome::NotApplicable,
    };
    let place = |pointer: &str| Location::Pointer(pointer.to_owned());
    match at(body, &partial.failures) {
        None => {
            findings.add(place(&partial.failures), Expected::FailureArray, Got::Nothing);
            return ClauseOutcome::Met;
        }
        Some(Value::Array(_)) => {}
        Some(other) => {
            findings.add(
                place(&partial.failures),
                Expected::JsonType(JsonType::Array),
                Got::typed(other),
            );
            return ClauseOutcome::Met;
        }
    }
    let shapes = &classified.contract.shapes;
    let Some(shape) = partial.shape.and_then(|id| shapes.get(id)) else {
        return ClauseOutcome::Met;
    };
    for FailedEntry { pointer, item, .. } in failed(partial, body) {
        for mismatch in compare(item, shape, shapes) {
            let place = Location::Pointer(format!("{pointer}{}", mismatch.pointer));
            findings.add(place, mismatch.expected, mismatch.got);
        }
    }
    ClauseOutcome::Met
}
