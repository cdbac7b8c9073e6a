//! The totals: what was not checked, in a line each, and last the sum in one.

use std::collections::BTreeMap;

use faithful_clerk_model::finding::Severity;

use super::counted;
use super::wrap::wrap;
use crate::escape::terminal;
use crate::{CheckReport, Theme};

pub(super) fn totals(report: &CheckReport<'_>, theme: Theme) -> String {
    let ledger = report.ledger;
    let mut text = String::new();
    let mut line = |line: String| text.push_str(&wrap(&line, 0, theme.width));
    if !ledger.excluded.is_empty() {
        line(format!("excluded: {}", reasons(&ledger.excluded)));
    }
    if !ledger.not_checked.is_empty() {
        line(format!("not checked, because it can't be known: {}", reasons(&ledger.not_checked)));
    }
    for words in bounds(report) {
        line(words);
    }
    if !ledger.without_credentials.is_empty() {
        let names: Vec<&str> =
            ledger.without_credentials.iter().map(|at| report.recording(*at)).collect();
        let names = terminal(&names.join(", ")).into_owned();
        line(format!(
            "missing-credentials was not checked: no request in {names} carries credentials"
        ));
    }
    if !text.is_empty() {
        text.push('\n');
    }
    text.push_str(&wrap(&sum(report, theme), 0, theme.width));
    if let Some(gate) = gate_words(report) {
        text.push_str(&wrap(&terminal(&gate), 0, theme.width));
    }
    text
}

/// Where clauses that compare exchanges stopped, a sentence each.
pub(crate) fn bounds(report: &CheckReport<'_>) -> Vec<String> {
    let bounds = report.ledger.bounds.iter();
    bounds.map(|(clause, bound)| format!("{clause} compared in part: {}", bound.words())).collect()
}

/// What a gate that is not the usual one makes of it.
pub(crate) fn gate_words(report: &CheckReport<'_>) -> Option<String> {
    if report.baseline.is_none() && report.gate.fail_on == Severity::Breach {
        return None;
    }
    let passing = report.gate.passing(report.contract, report.ledger);
    let least = match report.gate.fail_on {
        Severity::Breach => "breach",
        Severity::Warning => "warning or worse",
        Severity::Note => "note or worse",
    };
    let failing = passing.failing;
    let new = if report.baseline.is_some() { "new " } else { "" };
    let verdict = match failing {
        0 if report.ledger.checked == 0 => "had nothing to check",
        0 if report.ledger.unreadable.count > 0 => "passes in what could be read",
        0 => "passes",
        _ => "fails",
    };
    let mut text = format!(
        "the gate {verdict}: {} of severity {least}",
        counted(failing, &format!("{new}finding"))
    );
    if let Some(since) = report.baseline {
        let known = counted(passing.known, "finding");
        text.push_str(&format!("; {known} that {since} knows, only counted"));
    }
    Some(text)
}

/// The sum in one line, with what it comes to.
fn sum(report: &CheckReport<'_>, theme: Theme) -> String {
    format!("{}: {}", sum_words(report), verdict(report, theme))
}

/// The sum in one line.
pub(crate) fn sum_words(report: &CheckReport<'_>) -> String {
    let ledger = report.ledger;
    let aside: u64 = ledger.excluded.values().sum();
    let mut exchanges = vec![format!("{} checked", counted(ledger.checked, "exchange"))];
    if aside > 0 {
        exchanges.push(format!("{aside} excluded"));
    }
    if ledger.unreadable.count > 0 {
        exchanges.push(format!("{} unreadable", ledger.unreadable.count));
    }
    let severities: Vec<String> = [Severity::Breach, Severity::Warning, Severity::Note]
        .into_iter()
        .map(|severity| (severity, ledger.count(severity)))
        .filter(|(severity, count)| *severity == Severity::Breach || *count > 0)
        .map(|(severity, count)| counted(count, severity.name()))
        .collect();
    let waived = match report.waived() {
        0 => String::new(),
        waived => format!(", {waived} waived"),
    };
    let tried = ledger.clauses.iter().filter(|(_, tally)| tally.met + tally.broken > 0).count();
    let kept = ledger.clauses.iter().filter(|(_, t)| t.broken == 0 && t.met > 0).count();
    format!(
        "{}; {}{waived}; {kept} of {tried} clauses met",
        exchanges.join(", "),
        severities.join(", "),
    )
}

/// No pass is claimed that was not seen.
pub(crate) fn verdict(report: &CheckReport<'_>, theme: Theme) -> String {
    let ledger = report.ledger;
    if ledger.count(Severity::Breach) > 0 {
        format!("the contract is {}", theme.strong("broken"))
    } else if ledger.checked == 0 {
        theme.strong("nothing was checked")
    } else if ledger.unreadable.count > 0 {
        format!("the contract is {}", theme.strong("met in what could be read"))
    } else {
        format!("the contract is {}", theme.strong("met"))
    }
}

/// `2 of one reason, 1 of another`.
#[must_use]
pub fn reasons<R: AsRef<str>>(reasons: &BTreeMap<R, u64>) -> String {
    let words: Vec<String> =
        reasons.iter().map(|(reason, count)| format!("{count} ({})", reason.as_ref())).collect();
    words.join(", ")
}
