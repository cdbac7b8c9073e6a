//! One test over the whole catalogue: the texts of every clause, and its examples.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "a test that cannot go on has failed"
)]

use std::collections::BTreeSet;
use std::path::Path;

use faithful_clerk_core::clause::{HARBOUR, Judgement, judge};
use faithful_clerk_core::place::{Credentials, Placing, place};
use faithful_clerk_core::{Contract, Gravity, catalogue};

fn harbour() -> Contract {
    let reading = Contract::read(HARBOUR);
    assert!(
        reading.mistakes.iter().all(|mistake| mistake.gravity == Gravity::Notice),
        "{:#?}",
        reading.mistakes
    );
    reading.contract.expect("the contract of the examples has no mistakes")
}

fn judged(contract: &Contract, example: &faithful_clerk_core::clause::Example) -> Judgement {
    let exchange = example.exchange();
    match place(&exchange, contract, Credentials::Recorded) {
        Placing::Aside(reason) => panic!("{}: set aside, {reason}", example.shows),
        Placing::Placed(placed) => judge(&placed),
    }
}

/// A broken example gives exactly its findings, and no other clause's; a kept one gives none at all.
#[test]
fn every_example_gives_exactly_what_it_says() {
    let contract = harbour();
    let mut wrong = Vec::new();
    for clause in catalogue() {
        for example in clause.kept.iter().chain(clause.broken) {
            let judgement = judged(&contract, example);
            let found: Vec<_> = judgement
                .findings
                .iter()
                .map(|finding| (finding.clause, finding.place.to_string(), finding.seen.as_str()))
                .collect();
            let expected: Vec<_> = example
                .findings
                .iter()
                .map(|expected| (clause.name, expected.place.to_owned(), expected.seen))
                .collect();
            if found != expected {
                wrong.push(format!(
                    "{}, {}:\n  found    {found:?}\n  expected {expected:?}",
                    clause.name, example.shows
                ));
            }
            if example.findings.is_empty() && !judgement.kept.contains(&clause.name) {
                wrong.push(format!("{}, {}: does not speak of it", clause.name, example.shows));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_clause_has_what_its_readers_need() {
    for clause in catalogue() {
        let name = clause.name;
        let (family, holds) = name.split_once('.').expect("family.what-holds");
        assert!(family.bytes().chain(holds.bytes()).all(|b| b.is_ascii_lowercase() || b == b'-'));
        assert!(clause.statement.ends_with('.') && clause.statement.len() < 100, "{name}");
        assert!(!clause.basis.is_empty(), "{name}");
        assert!(clause.reason.ends_with('.') && clause.mending.ends_with('.'), "{name}");
        assert!(!clause.kept.is_empty() && !clause.broken.is_empty(), "{name}");
        assert!(clause.kept.iter().all(|example| example.findings.is_empty()), "{name}");
        assert!(clause.broken.iter().all(|example| !example.findings.is_empty()), "{name}");
    }
}

#[test]
fn names_are_unique_and_sorted() {
    let names: Vec<&str> = catalogue().map(|clause| clause.name).collect();
    assert!(names.is_sorted(), "{names:?}");
    assert_eq!(names.iter().collect::<BTreeSet<_>>().len(), names.len());
}

/// Every file under `src/clause/FAMILY/` that declares a clause is in the catalogue.
#[test]
fn the_files_are_the_catalogue() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("src/clause");
    let mut files = BTreeSet::new();
    for family in std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()) {
        let is_clause = |path: &Path| {
            let text = std::fs::read_to_string(path).unwrap();
            text.contains("static CLAUSE: Clause")
        };
        for file in std::fs::read_dir(&family).into_iter().flatten() {
            let file = file.unwrap().path();
            if is_clause(&file) {
                let stem = file.file_stem().unwrap().to_str().unwrap().replace('_', "-");
                let family = family.file_name().unwrap().to_str().unwrap();
                files.insert(format!("{family}.{stem}"));
            }
        }
    }
    let names: BTreeSet<String> = catalogue().map(|clause| clause.name.to_owned()).collect();
    assert_eq!(files, names);
}

/// A recording that was cut anywhere makes no clause panic.
#[test]
fn an_answer_cut_at_any_byte_is_judged_without_panic() {
    let contract = harbour();
    for clause in catalogue() {
        for example in clause.kept.iter().chain(clause.broken) {
            for end in 0..example.answer.len() {
                let Some(answer) = example.answer.get(..end) else { continue };
                // Leaked so that it lives as long as an example does; a few kilobytes in a test.
                let answer: &'static str = Box::leak(answer.to_owned().into_boxed_str());
                let cut = faithful_clerk_core::clause::Example {
                    shows: example.shows,
                    request: example.request,
                    answer,
                    findings: &[],
                };
                let exchange = cut.exchange();
                if let Placing::Placed(placed) = place(&exchange, &contract, Credentials::Recorded)
                {
                    let _ = judge(&placed);
                }
            }
        }
    }
}
