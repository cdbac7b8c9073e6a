//! One test over the whole catalogue: the texts of every clause, and its examples.

use std::collections::BTreeSet;
use std::path::Path;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::{Basis, catalogue};
use faithful_clerk_check::clauses::{Example, check_exchange, exchange};
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::{DiagnosticSeverity, ErrorContract};

fn contract(example: &Example) -> ErrorContract {
    let text = example.contract;
    let description = example.description.unwrap_or_default();
    let folder = crate::description::folder(&[("quay.openapi.json", description)]);
    let parsed = faithful_clerk_check::parse_contract_with_files(text, &folder);
    let mistakes: Vec<_> =
        parsed.diagnostics.iter().filter(|m| m.severity == DiagnosticSeverity::Error).collect();
    assert!(mistakes.is_empty(), "{mistakes:#?}\n{text}");
    parsed.contract.expect("the contract of the examples has no mistakes")
}

/// Everything that is found in an example's exchanges, and the clauses that were kept.
fn judged(example: &Example) -> (Vec<(&'static str, String, String)>, Vec<&'static str>) {
    let contract = contract(example);
    let mut ledger = Ledger::new();
    for exchange in &example.exchanges() {
        match classify(exchange, &contract, Credentials::Recorded) {
            Classification::Excluded(reason) => panic!("{}: excluded, {reason}", example.shows),
            Classification::Classified(mut classified) => {
                // A response says by a header of its own in which environment it was recorded.
                let response = classified.response();
                classified.environment = response.and_then(|r| r.headers.get("recorded-as"));
                let result = check_exchange(&classified);
                ledger.enter(&classified, result);
            }
        }
    }
    ledger.conclude(&contract);
    let found = ledger.findings.iter().flat_map(|((_, name), entries)| {
        let keys = entries.kept.keys();
        keys.map(|key| (*name, key.location.to_string(), key.got.to_string()))
    });
    let mut found: Vec<_> = found.collect();
    found.sort();
    let kept = ledger.clauses.iter().filter(|(_, tally)| tally.met > 0).map(|(name, _)| name);
    (found, kept.collect())
}

/// A broken example gives exactly its findings, and no other clause's; a kept one gives none at all.
#[test]
fn every_example_gives_exactly_what_it_says() {
    let mut wrong = Vec::new();
    for clause in catalogue() {
        for example in clause.met.iter().chain(clause.broken) {
            let (found, kept) = judged(example);
            let mut expected: Vec<_> = example
                .findings
                .iter()
                .map(|(location, seen)| (clause.name, (*location).to_owned(), (*seen).to_owned()))
                .collect();
            expected.sort();
            if found != expected {
                wrong.push(format!(
                    "{}, {}:\n  found    {found:?}\n  expected {expected:?}",
                    clause.name, example.shows
                ));
            }
            if example.findings.is_empty() && !kept.contains(&clause.name) {
                wrong.push(format!("{}, {}: does not speak of it", clause.name, example.shows));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// All examples one after the other, several times, so that most bodies came before and many are given up for others.
#[test]
fn every_clause_has_what_its_readers_need() {
    for clause in catalogue() {
        let name = clause.name;
        let (family, holds) = name.split_once('.').expect("family.what-holds");
        assert!(
            family.bytes().chain(holds.bytes()).all(|b| b.is_ascii_alphanumeric() || b == b'-')
        );
        assert!(clause.statement.ends_with('.') && clause.statement.len() < 100, "{name}");
        assert!(!clause.basis.is_empty(), "{name}");
        assert!(clause.reason.ends_with('.') && clause.fix.ends_with('.'), "{name}");
        assert!(!clause.met.is_empty() && !clause.broken.is_empty(), "{name}");
        assert!(clause.met.iter().all(|example| example.findings.is_empty()), "{name}");
        assert!(clause.broken.iter().all(|example| !example.findings.is_empty()), "{name}");
    }
}

#[test]
fn names_are_unique_and_sorted() {
    let names: Vec<&str> = catalogue().map(|clause| clause.name).collect();
    assert!(names.is_sorted(), "{names:?}");
    assert_eq!(names.iter().collect::<BTreeSet<_>>().len(), names.len());
}

/// Every file under `src/clauses/FAMILY/` that declares a clause is in the catalogue.
#[test]
fn the_files_are_the_catalogue() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../check/src/clauses");
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
    for clause in catalogue() {
        for example in clause.met.iter().chain(clause.broken) {
            let contract = contract(example);
            for end in 0..example.response.len() {
                let Some(answer) = example.response.get(..end) else { continue };
                let exchange = exchange(1, example.request, answer);
                if let Classification::Classified(classified) =
                    classify(&exchange, &contract, Credentials::Recorded)
                {
                    let _ = check_exchange(&classified);
                }
            }
        }
    }
}

#[test]
fn a_clause_that_rests_on_the_contract_names_a_key_or_a_type_that_there_is() {
    let known: Vec<&str> = faithful_clerk_contract::contract_keys()
        .chain(faithful_clerk_shape::type_names())
        .collect();
    for clause in catalogue() {
        for basis in clause.basis {
            if let Basis::Contract(key) = basis {
                assert!(known.contains(key), "{}: `{key}`", clause.name);
            }
        }
    }
}
