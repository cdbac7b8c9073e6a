use super::meant::nearly;
use crate::classify::Classified;
use crate::clauses::example::NO_SUCH_BERTH;
use crate::clauses::{AppliesTo, Basis, Clause, ClauseOutcome, Example, Findings};
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, FaultText, Got, Severity};
use faithful_clerk_model::json::MemberLookup as _;

use faithful_clerk_model::status::phrase;
use serde_json::Value;

pub(super) static CLAUSE: Clause = Clause {
    name: "problem.title-declared",
    statement: "The title is the one that the contract declares for the fault.",
    basis: &[Basis::Contract("title"), Basis::rfc(9457, "3.1.3"), Basis::rfc(9457, "4.2.1")],
    severity: Severity::Breach,
    applies_to: AppliesTo::Problems,
    reason: "The title names the problem type and is always the same; people search for it. What happened this time belongs in `detail`.",
    fix: "Keep title and type together in one list, and move what varies into `detail`.",
    check,
    met: &[Example::met("the declared title", "GET /v1/berths/Z-99", NO_SUCH_BERTH)],
    broken: &[Example::broken(
        "the occurrence written into the title",
        "GET /v1/berths/Z-99",
        "HTTP/1.1 404 Not Found\nContent-Type: application/problem+json\n\n\
                 {\"type\":\"https://harbour.example/faults/no-such-berth\",\
                 \"title\":\"There is no berth Z-99\",\"status\":404}",
        &[("body /title", "\"There is no berth Z-99\"")],
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
    let Some(title @ Value::String(text)) = members.member("title") else {
        return ClauseOutcome::NotApplicable;
    };
    let titles: Vec<_> = classified.faults.iter().map(|fault| fault.title.as_deref()).collect();
    if titles.is_empty() || titles.contains(&None) {
        return ClauseOutcome::NotApplicable;
    }
    // Which of its languages was due is `language.negotiated`'s.
    let mut translated = classified.faults.iter().flat_map(|fault| &fault.titles);
    if titles.contains(&Some(text)) || translated.any(|(_, title)| title == text) {
        return ClauseOutcome::Met;
    }
    // Without a type and with the status's own phrase it is the generic problem, and consistently
    // so: that is one finding, at the type.
    let is_generic = members.member("type").is_none_or(|uri| uri == "about:blank")
        && classified.status().and_then(phrase) == Some(text)
        && classified.faults.iter().all(|fault| fault.type_uri.is_some());
    if is_generic {
        return ClauseOutcome::NotApplicable;
    }
    let expected = classified.faults.iter().filter_map(|fault| {
        let text = format!("\"{}\"", fault.title.as_ref()?);
        Some(FaultText { text, fault: fault.name.clone() })
    });
    let found = findings.add(
        Location::Pointer("/title".to_owned()),
        Expected::FaultText(expected.collect()),
        Got::value(title),
    );
    let near = classified.fault().and_then(|fault| nearly(fault.title.as_deref()?, text));
    if let Some(near) = near {
        found.because(Because::Lookalike(near));
    }
    ClauseOutcome::Met
}
