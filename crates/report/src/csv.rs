//! The findings of a check as CSV (RFC 4180): a line each, with the heads first.
//!
//! | column | what it is |
//! |---|---|
//! | `severity`, `clause`, `endpoint`, `location`, `expected`, `got`, `because`, `not_checked` | as in every other output |
//! | `count` | in how many exchanges |
//! | `first` | the first addresses, a space between two |
//! | `known` | `yes` if the ledger compared with has it |
//! | `fingerprint` | the same for the same finding in another recording |
//!
//! Findings that are only counted have a line without texts. A cell that a spreadsheet would take for a
//! formula starts with an apostrophe.

use ::csv::{Error, Terminator, WriterBuilder};

use crate::CheckReport;
use crate::escape::terminal;
use crate::groups::groups;

const HEADS: [&str; 12] = [
    "severity",
    "clause",
    "endpoint",
    "location",
    "expected",
    "got",
    "because",
    "not_checked",
    "count",
    "first",
    "known",
    "fingerprint",
];

/// The words of what a finding may have; nothing where it has none.
fn words<T: std::fmt::Display>(value: Option<&T>) -> String {
    value.map(T::to_string).unwrap_or_default()
}

/// The findings of a check.
///
/// # Errors
/// Only if the writer can't write what is text.
pub fn check(report: &CheckReport<'_>) -> Result<String, Error> {
    let mut writer = WriterBuilder::new().terminator(Terminator::CRLF).from_writer(Vec::new());
    writer.write_record(HEADS)?;
    for group in groups(report) {
        let sets = [(&group.new, "no"), (&group.known, "yes")];
        for (shown, known) in
            sets.into_iter().flat_map(|(set, known)| set.iter().map(move |s| (s, known)))
        {
            let (key, entry) = (shown.key, &shown.entry);
            writer.write_record([
                key.severity.name(),
                key.clause,
                &cell(&group.name),
                &cell(&key.location.to_string()),
                &cell(&key.expected.to_string()),
                &cell(&key.got.to_string()),
                &cell(&words(key.because.as_ref())),
                &cell(&words(key.not_checked.as_ref())),
                &entry.count.to_string(),
                &cell(&report.names().each(&entry.first).join(" ")),
                known,
                &shown.fingerprint,
            ])?;
        }
        for ((clause, weight), count) in &group.more {
            let (name, count) = (cell(&group.name), count.to_string());
            writer.write_record([
                weight.name(),
                clause,
                &name,
                "",
                "",
                "",
                "other texts, only counted",
                "",
                &count,
                "",
                "no",
                "",
            ])?;
        }
    }
    let bytes = writer.into_inner().map_err(|error| Error::from(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// A cell that no terminal and no spreadsheet does anything with.
fn cell(text: &str) -> String {
    let text = terminal(text);
    // Spreadsheets pass over spaces, and take wide signs for narrow ones.
    let signs = ['=', '+', '-', '@', '＝', '＋', '－', '＠', '﹢', '﹣', '﹦', '﹫', '−'];
    match text.trim_start().starts_with(signs) {
        true => format!("'{text}"),
        false => text.into_owned(),
    }
}
