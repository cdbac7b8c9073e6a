use crate::classify::{Classified, ParsedBody, StatusVerdict};
use crate::clauses::contracts::DEMANDING;
use crate::clauses::shape::compare_with_documented;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Severity};
use faithful_clerk_model::media::{falls_under, is_json};
use faithful_clerk_shape::compare;

pub(super) static CLAUSE: Clause = Clause {
    name: "success.shape-declared",
    statement: "A success has the declared shape.",
    basis: &[Basis::Contract("success-shape"), Basis::Contract("openapi")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Successes,
    reason: "A change that fixes an error must not break the responses that were right.",
    fix: "Compare success responses before and after each change to the layer that writes them.",
    check,
    met: &[Example::met(
        "the declared envelope",
        "GET /v1/berths/A-3",
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"data":{"id":"A-3"}}"#,
    )
    .under(DEMANDING)],
    broken: &[Example::broken(
        "another envelope",
        "GET /v1/berths/A-3",
        r#"HTTP/1.1 200 OK
Content-Type: application/json

{"result":{"id":"A-3"}}"#,
        &[("body /data", "nothing")],
    )
    .under(DEMANDING)],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let shapes = &classified.contract.shapes;
    let shape = classified.rules().success_shape.and_then(|id| shapes.get(id));
    // A success with an error inside is another finding, and the same root.
    if classified.embedded_error().is_some() {
        return ClauseOutcome::NotApplicable;
    }
    // What is no JSON by the contract has no members.
    let produces = classified.rules().produces.iter().flatten();
    let media = classified.media().filter(|media| !is_json(media));
    if media.is_some_and(|media| produces.into_iter().any(|range| falls_under(media, range))) {
        return ClauseOutcome::NotApplicable;
    }
    let is_plain =
        matches!(classified.verdict, StatusVerdict::Served) && classified.status() != Some(304);
    if !is_plain {
        return ClauseOutcome::NotApplicable;
    }
    let Some(shape) = shape else { return by_description(classified, findings) };
    let body = match classified.body() {
        ParsedBody::Json(body) => body,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        other => {
            let expected = Expected::JsonOfShape(shape.name.clone());
            findings.add(Location::Body, expected, Got::Body(other.form()));
            return ClauseOutcome::Met;
        }
    };
    for mismatch in compare(body, shape, shapes) {
        findings.add(Location::Pointer(mismatch.pointer), mismatch.expected, mismatch.got);
    }
    ClauseOutcome::Met
}

/// Where the contract declares no shape, it is the one that a description documents.
fn by_description(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    if classified.documented_schema().is_none() {
        return ClauseOutcome::NotApplicable;
    }
    match classified.body() {
        ParsedBody::Json(body) => compare_with_documented(classified, body, findings),
        ParsedBody::Unknown(_) => ClauseOutcome::NotChecked,
        // That it is no JSON is `media.matches-body`'s.
        _ => ClauseOutcome::NotApplicable,
    }
}
