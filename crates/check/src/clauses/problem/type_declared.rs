use super::meant::{misnamed, nearly};
use crate::classify::{Classified, resolved};
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_contract::Fault;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, FaultText, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;
use faithful_clerk_shape::is_uri_reference;
use serde_json::Value;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.type-declared",
    statement: "The problem type is the one that the contract declares for the fault.",
    basis: &[Basis::Contract("type"), Basis::rfc(9457, "3.1.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "Programs identify a problem by its type. With another one, or none, the caller's code for this fault never runs.",
    fix: "Keep the types in one list in the service, and always take them from there.",
    check,
    met: &[Example::met("the declared type", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[
        Example::broken(
            "a type that is nearly the declared one",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     {\"type\":\"https://harbour.example/faults/no-such-berth/\",\
                     \"title\":\"There is no such berth\",\"status\":404}",
            &[("body /type", "https://harbour.example/faults/no-such-berth/")],
        ),
        Example::broken(
            "no type, so the generic problem of its status",
            "GET /v1/berths/Z-99",
            "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                     {\"title\":\"Not Found\",\"status\":404}",
            &[("body /type", "nothing, which is about:blank")],
        ),
    ],
};

fn check(classified: &Classified<'_>, findings: &mut Findings) -> ClauseOutcome {
    let Some(members) = classified.members() else {
        return if classified.body().json().is_some() {
            ClauseOutcome::NotApplicable
        } else {
            ClauseOutcome::NotChecked
        };
    };
    // Where nothing is declared about problems, nothing is about their types.
    let speaks = |fault: &&Fault| {
        fault.type_uri.is_some()
            || fault.title.is_some()
            || classified.expected_shape().is_some_and(|shape| shape.is_problem)
    };
    if classified.faults.is_empty() || !classified.faults.iter().all(speaks) {
        return ClauseOutcome::NotApplicable;
    }
    let seen = match members.member("type") {
        // What is no URI is `problem.type-is-uri`'s.
        Some(Value::String(uri)) if !is_uri_reference(uri) => return ClauseOutcome::NotApplicable,
        Some(Value::String(uri)) if uri != "about:blank" => Some(uri.as_str()),
        None | Some(Value::String(_)) => None,
        // Any other kind is `problem.member-type`'s.
        Some(_) => return ClauseOutcome::NotApplicable,
    };
    if classified.faults.iter().any(|fault| fault.any_type) {
        return ClauseOutcome::Met;
    }
    let base = classified.exchange.request.url.as_ref();
    let fits = |fault: &&Fault| match (&fault.type_uri, seen) {
        (Some(agreed), Some(seen)) => resolved(base, agreed) == resolved(base, seen),
        (agreed, seen) => agreed.is_none() && seen.is_none(),
    };
    if classified.faults.iter().any(fits) {
        return ClauseOutcome::Met;
    }
    // What is missing under another media type follows from that; a misnamed type is there.
    let is_meant = || misnamed(classified).iter().any(|other| other.meant == "type");
    if seen.is_none() && (!classified.has_expected_media() || is_meant()) {
        return ClauseOutcome::NotApplicable;
    }
    let expected =
        Expected::FaultText(classified.faults.iter().map(|fault| declared(fault)).collect());
    let got = match (seen, members.member("type").is_some()) {
        (Some(uri), _) => Got::Uri(uri.to_owned()),
        (None, true) => Got::Uri("about:blank".to_owned()),
        (None, false) => Got::NoType,
    };
    let found = findings.add(Location::Pointer("/type".to_owned()), expected, got);
    let near = classified.fault().and_then(|fault| nearly(fault.type_uri.as_deref()?, seen?));
    if let Some(near) = near {
        found.because(Because::Lookalike(near));
    }
    ClauseOutcome::Met
}

/// The type that a fault declares.
fn declared(fault: &Fault) -> FaultText {
    let text = fault.type_uri.clone().unwrap_or_else(|| "about:blank".to_owned());
    FaultText { text, fault: fault.name.clone() }
}
