//! What the clauses about disclosures share.

use crate::clause::{Findings, Judged};
use crate::disclosure::{Inside, is_looked_at};
use crate::place::{AnswerBody, Placed};

/// Judges an answer by one sort of disclosure.
pub(super) fn judge(
    placed: &Placed<'_>,
    findings: &mut Findings,
    sort: Inside,
    agreed: &str,
) -> Judged {
    if !is_looked_at(placed) {
        return Judged::Outside;
    }
    if let Some(told) = placed.disclosures().iter().find(|told| told.sort == sort) {
        let seen = match sort {
            // What it is must not be told a second time.
            Inside::Secret => format!("{}, masked", told.what),
            _ => format!("{}: {}", told.what, brief(&told.text)),
        };
        findings.add(told.place.clone(), agreed, seen);
    }
    match placed.body() {
        AnswerBody::Unknown(_) => Judged::Unjudged,
        AnswerBody::Empty => Judged::Outside,
        _ => Judged::Kept,
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
