use serde_json::Value;

use crate::classify::{Classified, ParsedBody, ReportedField};
use crate::clauses::contracts::SHAPED;
use crate::clauses::example::{NIGHTS_REFUSED, TOO_MANY_NIGHTS};
use crate::clauses::shape::compare_with_documented;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Expected, Got, Measured, NotChecked, Severity};
use faithful_clerk_model::json::pointer::tokens;
use faithful_clerk_model::media::is_json;
use faithful_clerk_shape::{
    MOST_MISMATCHES, Mismatch, MismatchKind, compare_with_headers, is_uri_reference,
};

pub(super) static CLAUSE: Clause = Clause {
    name: "shape.declared",
    statement: "The body of an error has the shape that the contract declares for it.",
    basis: &[Basis::Contract("shape"), Basis::Contract("members"), Basis::Contract("openapi")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Errors,
    reason: "A caller's code reads members by name and JSON type. A member that is a string here and an array there breaks it unexpectedly.",
    fix: "Create every error of a kind in one place. If the service is right, correct the shape.",
    check,
    met: &[Example::met(
        "the array of invalid fields, as declared",
        TOO_MANY_NIGHTS,
        NIGHTS_REFUSED,
    )],
    broken: &[
        Example::broken(
            "entries that lack a declared member: one finding for all of them",
            "POST /v1/reservations\nAuthorization: Bearer x\nContent-Type: application/json\n\n\
                      {\"vessel_id\":\"x\",\"nights\":99}",
            "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/invalid-request\",\
                     \"title\":\"The request is not valid\",\"status\":422,\
                     \"errors\":[{\"pointer\":\"/vessel_id\"},{\"pointer\":\"/nights\"}]}",
            &[("body /errors/0/detail", "nothing; the same at 1 more location of the array")],
        ),
        Example::broken(
            "a string where an array was declared",
            TOO_MANY_NIGHTS,
            "HTTP/1.1 422 Unprocessable Content\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/invalid-request\",\
                     \"title\":\"The request is not valid\",\"status\":422,\
                     \"errors\":\"nights: at most 28\"}",
            &[("body /errors", "string \"nights: at most 28\"")],
        ),
        Example::broken(
            "a page where a shape was declared, and no media type",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: text/html\n\n<h1>Not Found</h1>",
            &[("the body", "HTML")],
        )
        .under(SHAPED),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let value = match classified.body() {
        ParsedBody::Json(value) => value,
        ParsedBody::Unknown(_) => return ClauseOutcome::NotChecked,
        ParsedBody::Empty => return ClauseOutcome::NotApplicable,
        ParsedBody::BrokenJson { .. } | ParsedBody::Html(_) | ParsedBody::Text(_) => {
            return no_json(classified, findings);
        }
    };
    let Some(shape) = classified.expected_shape().filter(|_| !classified.faults.is_empty()) else {
        return compare_with_documented(classified, value, findings);
    };
    // That a problem is an object is `problem.is-object`'s.
    if shape.is_problem && !value.is_object() {
        return ClauseOutcome::NotApplicable;
    }
    let header = |name: &str| classified.header_value(name);
    let mismatches = compare_with_headers(value, shape, &classified.contract.shapes, &header);
    let own: Vec<&Mismatch> =
        mismatches.iter().filter(|m| is_own(classified, shape.is_problem, m)).collect();
    let mut told: Vec<(Vec<String>, MismatchKind)> = Vec::new();
    for mismatch in &own {
        let form = (form(&mismatch.pointer), mismatch.kind);
        if told.contains(&form) {
            continue;
        }
        let alike = own.iter().filter(|m| (self::form(&m.pointer), m.kind) == form).count() - 1;
        let location = Location::Pointer(mismatch.pointer.clone());
        // The comparison stops at some number, and then nobody knows how many more there are.
        let at_least = mismatches.len() >= MOST_MISMATCHES;
        let got = match alike {
            0 => mismatch.got.clone(),
            more => Got::AndMore(Box::new(mismatch.got.clone()), Measured::count(more), at_least),
        };
        let found = findings.add(location, mismatch.expected.clone(), got);
        if mismatch.kind == MismatchKind::Extra {
            found.severity(Severity::Note);
        }
        told.push(form);
    }
    ClauseOutcome::Met
}

/// A body that is no JSON at all has no shape. Where a media type was declared or said that should have told, that
/// is the finding, and not this.
fn no_json(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(shape) = classified.expected_shape() else { return ClauseOutcome::NotApplicable };
    if classified.expected_media().is_some() || classified.media().is_some_and(is_json) {
        return ClauseOutcome::NotApplicable;
    }
    let expected = Expected::JsonOfShape(shape.name.clone());
    let got = Got::Body(classified.body().form());
    findings.add(Location::Body, expected, got).not_checked(NotChecked::Members);
    ClauseOutcome::Met
}

/// Is this mismatch for this clause to tell, and not a consequence of something else?
fn is_own(classified: &Classified<'_>, is_problem: bool, mismatch: &Mismatch) -> bool {
    // Under another media type it is another kind of body, and that is the finding.
    let follows = mismatch.kind == MismatchKind::Missing || mismatch.pointer.is_empty();
    if follows && !classified.has_expected_media() {
        return false;
    }
    // What is no pointer is `validation.pointer-syntax`'s.
    let is_location = |entry: &ReportedField| entry.is_pointer && entry.pointer == mismatch.pointer;
    if mismatch.kind == MismatchKind::Form && classified.reported_fields().iter().any(is_location) {
        return false;
    }
    // What is no URI has clauses of its own.
    let is_uri = || {
        let value = classified.body().json().and_then(|body| body.pointer(&mismatch.pointer));
        value.and_then(Value::as_str).is_some_and(is_uri_reference)
    };
    let by_type = || classified.faults.iter().all(|fault| fault.type_uri.is_some());
    // The standard members have clauses of their own for everything but a contract's finer rules.
    !is_problem
        || match mismatch.pointer.as_str() {
            "/status" => false,
            "/type" => mismatch.kind.is_of_the_value() && !by_type() && is_uri(),
            "/instance" => mismatch.kind.is_of_the_value() && is_uri(),
            "/title" | "/detail" => mismatch.kind.is_of_the_value(),
            _ => true,
        }
}

/// A place with its list indexes taken out, so that items of one list are alike.
fn form(pointer: &str) -> Vec<String> {
    let steps = tokens(pointer).unwrap_or_default();
    let is_index = |step: &str| step.bytes().all(|byte| byte.is_ascii_digit());
    steps.into_iter().map(|step| if is_index(&step) { "*".to_owned() } else { step }).collect()
}
