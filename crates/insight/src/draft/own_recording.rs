//! What a drafted contract finds wrong with the recording that it was drafted from: each is a question.

use std::collections::BTreeMap;

use faithful_clerk_check::ledger::{FindingKey, FindingOccurrences, Ledger};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_model::finding::Severity;

use super::write::{Draft, commented, cut};

/// So many endpoints are named in one question.
const MOST_NAMED: usize = 3;

/// What one clause finds.
#[derive(Default)]
struct Contradiction<'l> {
    seen: FindingOccurrences,
    first: Option<&'l FindingKey>,
    endpoints: Vec<String>,
}

impl Draft {
    /// Adds what a check of the draft against its own recording found. `contract` is the draft as it is understood,
    /// `ledger` the sum of the check, `names` the recordings' names.
    pub fn ask_about(
        &mut self,
        ledger: &Ledger,
        contract: &ErrorContract,
        names: RecordingNames<'_>,
    ) {
        let mut by_clause: BTreeMap<(Severity, &str), Contradiction<'_>> = BTreeMap::new();
        for ((row, clause), findings) in &ledger.findings {
            let weighs = |key: &FindingKey| key.severity != Severity::Note;
            for (key, seen) in findings.kept.iter().filter(|(key, _)| weighs(key)) {
                let sum = by_clause.entry((key.severity, clause)).or_default();
                sum.seen.merge(seen);
                sum.first.get_or_insert(key);
                sum.name(row.name(contract));
            }
            for (severity, count) in &findings.more {
                if *severity != Severity::Note {
                    let sum = by_clause.entry((*severity, clause)).or_default();
                    sum.seen.count += count;
                    sum.name(row.name(contract));
                }
            }
        }
        if by_clause.is_empty() {
            return;
        }
        self.text.push_str("\n# ── what the recording contradicts ──\n");
        self.text.push_str(&commented(
            "A check of the recording with this contract finds the following. Correct the service, or the contract.",
        ));
        for ((severity, clause), contradiction) in by_clause {
            let question = contradiction.question(severity, clause, names);
            self.text.push_str(&commented(&format!("decide: {question}")));
            self.decide.push(question);
        }
    }
}

impl Contradiction<'_> {
    fn name(&mut self, endpoint: String) {
        if self.endpoints.last() != Some(&endpoint) {
            self.endpoints.push(endpoint);
        }
    }

    fn question(&self, severity: Severity, clause: &str, names: RecordingNames<'_>) -> String {
        let count = match (self.seen.count, severity) {
            (1, Severity::Breach) => "1 breach".to_owned(),
            (count, Severity::Breach) => format!("{count} breaches"),
            (1, _) => "1 warning".to_owned(),
            (count, _) => format!("{count} warnings"),
        };
        let more = match self.endpoints.len().saturating_sub(MOST_NAMED) {
            0 => String::new(),
            more => format!(" and {more} more"),
        };
        let named: Vec<&str> = self.endpoints.iter().take(MOST_NAMED).map(String::as_str).collect();
        let first = self.first.map(|key| {
            let (expected, got) = (key.expected.to_string(), key.got.to_string());
            let (expected, got) = (cut(&expected), cut(&got));
            format!("; the first, at {}: expected {expected}, got {got}", key.location)
        });
        format!(
            "{count} of `{clause}`, at {}{more} ({}){}",
            named.join(", "),
            names.list(self.seen.count, &self.seen.first),
            first.unwrap_or_default()
        )
    }
}
