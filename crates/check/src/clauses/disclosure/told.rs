//! What the clauses about disclosures share.

use crate::classify::{Classified, ParsedBody};
use crate::clauses::{ClauseOutcome, Findings};
use crate::disclosure::DisclosureKind;
use faithful_clerk_model::finding::{Expected, Got, Recorded};
use faithful_clerk_model::snippet::snippet;

/// Checks a response by one kind of disclosure.
pub(super) fn check(
    classified: &Classified<'_>,
    findings: &mut Findings,
    kind: DisclosureKind,
) -> ClauseOutcome {
    if !classified.is_checked_for_disclosure() {
        return ClauseOutcome::NotApplicable;
    }
    if let Some(told) = classified.disclosures().iter().find(|told| told.kind == kind) {
        let what = told.what.to_owned();
        let got = match kind {
            // What it is must not be told a second time.
            DisclosureKind::Secret => Got::Secret(what),
            _ => Got::Disclosure(what, Recorded::text(brief(&told.text))),
        };
        findings.add(told.location.clone(), Expected::NoDisclosure(kind), got);
    }
    match classified.body() {
        ParsedBody::Unknown(_) => ClauseOutcome::NotChecked,
        ParsedBody::Empty => ClauseOutcome::NotApplicable,
        _ => ClauseOutcome::Met,
    }
}

fn brief(text: &str) -> String {
    let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    snippet(&line, 100).into_owned()
}
