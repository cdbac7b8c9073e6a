//! What the clauses about disclosures share.

use crate::classify::{Classified, ParsedBody};
use crate::clauses::{ClauseOutcome, Findings};
use crate::disclosure::DisclosureKind;

/// Checks a response by one kind of disclosure.
pub(super) fn check(
    classified: &Classified<'_>,
    findings: &mut Findings,
    sort: DisclosureKind,
    expected: &str,
) -> ClauseOutcome {
    if !classified.is_checked_for_disclosure() {
        return ClauseOutcome::NotApplicable;
    }
    if let Some(told) = classified.disclosures().iter().find(|told| told.kind == sort) {
        let seen = match sort {
            // What it is must not be told a second time.
            DisclosureKind::Secret => format!("{}, masked", told.what),
            _ => format!("{}: {}", told.what, brief(&told.text)),
        };
        findings.add(told.location.clone(), expected, seen);
    }
    match classified.body() {
        ParsedBody::Unknown(_) => ClauseOutcome::NotChecked,
        ParsedBody::Empty => ClauseOutcome::NotApplicable,
        _ => ClauseOutcome::Met,
    }
}

fn brief(text: &str) -> String {
    const MOST: usize = 100;
    let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    match line.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", line.get(..end).unwrap_or_default()),
        None => line,
    }
}
