//! Holds a contract to an agreement in prose: each sentence stands beside a line that says it, and is broken at least once.

use std::collections::BTreeSet;

use crate::judging::{classified, found_or_excluded};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::draft::expected_response;

/// An agreement in prose, and the contract that says the same.
pub(super) struct Agreement {
    /// The prose: each sentence is a line that begins with its number.
    pub(super) prose: &'static str,
    /// The contract: behind each line that says a sentence stands its number.
    pub(super) contract: &'static str,
}

/// An exchange that keeps the agreement.
#[derive(Clone)]
pub(super) struct Kept {
    pub(super) request: String,
    pub(super) response: String,
}

/// A sentence, an exchange that keeps it, what is changed in the exchange, and what is then found: clause and location.
pub(super) struct Broken<'k> {
    pub(super) sentence: u32,
    pub(super) of: &'k Kept,
    pub(super) changes: Vec<(String, String)>,
    pub(super) found: &'static [&'static str],
}

/// A sentence, and how an exchange that keeps it is changed so that it is broken.
pub(super) fn broken<'k>(
    sentence: u32,
    of: &'k Kept,
    changes: &[(&str, &str)],
    found: &'static [&'static str],
) -> Broken<'k> {
    let owned = |(from, to): &(&str, &str)| ((*from).to_owned(), (*to).to_owned());
    Broken { sentence, of, changes: changes.iter().map(owned).collect(), found }
}

/// What is found in the response that is drafted from the contract for an exchange; nothing where none is.
fn drafted_wrong(contract: &ErrorContract, one: &Kept) -> Option<String> {
    let (_, drafted) = classified(contract, &one.request, &one.response, expected_response);
    let drafted = drafted?;
    let body = drafted.body.as_ref().map(ToString::to_string).unwrap_or_default();
    let head: String =
        drafted.headers.iter().map(|(name, value)| format!("{name}: {value}\n")).collect();
    let response = format!("HTTP/1.1 {} X\n{head}\n{body}", drafted.status);
    let found = found_or_excluded(contract, &one.request, &response).unwrap_or_default();
    // Text that is no JSON is not drafted.
    let is_text = |clause: &str| drafted.body.is_none() && clause == "body.present";
    let found: Vec<String> = found
        .iter()
        .filter(|one| !is_text(one.clause))
        .map(|one| format!("{} {}: {}", one.clause, one.location, one.got))
        .collect();
    (!found.is_empty())
        .then(|| format!("drafted, and found {found:?}\n{}\n\n{response}", one.request))
}

impl Agreement {
    fn sentences(&self) -> BTreeSet<u32> {
        let number = |line: &str| line.split_once(". ").and_then(|(number, _)| number.parse().ok());
        self.prose.lines().filter_map(number).collect()
    }

    /// The sentences that a line of the contract stands beside.
    fn said(&self) -> BTreeSet<u32> {
        let comments = self.contract.lines().filter_map(|line| line.rsplit_once(" # "));
        let numbers = comments.flat_map(|(_, numbers)| numbers.split(", "));
        numbers.filter_map(|number| number.trim().parse().ok()).collect()
    }

    /// The contract, which has nothing wrong in it.
    pub(super) fn parsed(&self) -> ErrorContract {
        let parsed = faithful_clerk_check::parse_contract(self.contract);
        let told: Vec<String> = parsed
            .diagnostics
            .iter()
            .map(|one| format!("{:?} {}", one.line_and_column(self.contract), one.message))
            .collect();
        assert_eq!(told, [""; 0]);
        parsed.contract.unwrap()
    }

    /// Every exchange that keeps the agreement has no finding, each broken one exactly its own; and no sentence is left
    /// out.
    pub(super) fn holds(&self, kept: &[&Kept], all: &[Broken<'_>]) {
        let contract = self.parsed();
        let told = |request: &str, response: &str| -> Vec<String> {
            match found_or_excluded(&contract, request, response) {
                Err(_) => vec!["excluded".to_owned()],
                Ok(found) => {
                    found.iter().map(|one| format!("{} {}", one.clause, one.location)).collect()
                }
            }
        };
        let mut wrong = Vec::new();
        for one in kept {
            let found = told(&one.request, &one.response);
            if !found.is_empty() {
                wrong.push(format!(
                    "kept, and found {found:?}\n{}\n\n{}",
                    one.request, one.response
                ));
            }
        }
        for one in all {
            let (mut request, mut response) = (one.of.request.clone(), one.of.response.clone());
            for (from, to) in &one.changes {
                let is_in = request.contains(from) || response.contains(from);
                assert!(is_in, "{}: nothing to change: {from}", one.sentence);
                request = request.replace(from, to);
                response = response.replace(from, to);
            }
            let found = told(&request, &response);
            if found != one.found {
                wrong.push(format!(
                    "{}: found {found:?}, expected {:?}\n{request}\n\n{response}",
                    one.sentence, one.found
                ));
            }
        }
        for one in kept {
            wrong.extend(drafted_wrong(&contract, one));
        }
        assert!(wrong.is_empty(), "{}", wrong.join("\n────\n"));
        let sentences = self.sentences();
        let broken: BTreeSet<u32> = all.iter().map(|one| one.sentence).collect();
        assert_eq!(sentences, self.said(), "a sentence without a line, or a line without one");
        assert_eq!(sentences, broken, "a sentence that nobody breaks");
    }
}
