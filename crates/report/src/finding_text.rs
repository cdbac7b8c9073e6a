//! The words of a finding, line by line, for every output that people read.

use faithful_clerk_check::clauses::{RuleSource, clause};
use faithful_clerk_check::ledger::{EndpointRow, FindingKey};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::Location;
use faithful_clerk_model::finding::{Because, Expected, Finding, Got, NotChecked};

/// The width of the column of labels, with the space behind it.
pub(crate) const LABEL_WIDTH: usize = 10;

/// Before the reason of a finding.
const BECAUSE: &str = "because";

/// What a finding says.
pub(crate) struct FindingText {
    /// `the status line`.
    pub(crate) location: String,
    /// What was expected, what is there and why, each behind its label.
    pub(crate) parts: Vec<LabelledText>,
    /// What could not be checked because of it.
    pub(crate) not_checked: Option<String>,
}

/// Where the rule stands that a finding is about, for programs.
pub(crate) fn source(
    key: &FindingKey,
    row: &EndpointRow,
    contract: &ErrorContract,
) -> Option<String> {
    let source = RuleSource::of(clause(key.clause)?, row, &key.expected, contract)?;
    Some(source.to_string())
}

/// A text behind a label.
pub(crate) struct LabelledText {
    pub(crate) label: &'static str,
    pub(crate) text: String,
}

/// What a finding is made of, wherever it comes from.
struct FindingParts<'f> {
    clause: &'static str,
    location: &'f Location,
    expected: &'f Expected,
    got: &'f Got,
    because: Option<&'f Because>,
    not_checked: Option<&'f NotChecked>,
}

impl FindingText {
    /// Of a finding in one exchange.
    pub(crate) fn of(finding: &Finding, row: &EndpointRow, contract: &ErrorContract) -> Self {
        let parts = FindingParts {
            clause: finding.clause,
            location: &finding.location,
            expected: &finding.expected,
            got: &finding.got,
            because: finding.because.as_ref(),
            not_checked: finding.not_checked.as_ref(),
        };
        parts.text(row, contract)
    }

    /// Of equal findings in several exchanges.
    pub(crate) fn of_key(key: &FindingKey, row: &EndpointRow, contract: &ErrorContract) -> Self {
        let parts = FindingParts {
            clause: key.clause,
            location: &key.location,
            expected: &key.expected,
            got: &key.got,
            because: key.because.as_ref(),
            not_checked: key.not_checked.as_ref(),
        };
        parts.text(row, contract)
    }

    /// The same, with something added to the reason.
    pub(crate) fn with_reasons(mut self, others: &str) -> Self {
        for part in self.parts.iter_mut().filter(|part| part.label == BECAUSE) {
            part.text = format!("{}, {others}", part.text);
        }
        self
    }

    /// All of it in one sentence: `at the status line: expected 400, got 500, because …`.
    pub(crate) fn sentence(&self) -> String {
        let parts: Vec<String> =
            self.parts.iter().map(|part| format!("{} {}", part.label, part.text)).collect();
        let not_checked = self.not_checked.as_ref();
        let not_checked = not_checked.map(|what| format!("; not checked: {what}"));
        format!("at {}: {}{}", self.location, parts.join(", "), not_checked.unwrap_or_default())
    }
}

impl FindingParts<'_> {
    fn text(&self, row: &EndpointRow, contract: &ErrorContract) -> FindingText {
        let mut parts = Vec::new();
        match self.expected.negation() {
            // What should not be there at all reads as what happened.
            Some(negation) => parts.push((negation.verb(), self.got.to_string())),
            None => {
                parts.push(("expected", self.expected.to_string()));
                parts.push(("got", self.got.to_string()));
            }
        }
        let source = clause(self.clause)
            .and_then(|clause| RuleSource::of(clause, row, self.expected, contract));
        let because = match (self.because, source) {
            (Some(because), Some(source)) => Some(format!("{because} ({source})")),
            (Some(because), None) => Some(because.to_string()),
            (None, source) => source.map(|source| source.to_string()),
        };
        parts.extend(because.map(|because| (BECAUSE, because)));
        FindingText {
            location: self.location.to_string(),
            parts: parts.into_iter().map(|(label, text)| LabelledText { label, text }).collect(),
            not_checked: self.not_checked.map(ToString::to_string),
        }
    }
}
