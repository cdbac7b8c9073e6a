//! Ledgers as files: what was saved and read again adds up as if it had never been away.

use faithful_clerk_check::Check;
use faithful_clerk_check::clauses::HARBOUR;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_check::ledger::{Baseline, LedgerError, LedgerSources, RestoredLedger};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_recording::{ReadOptions, Source};
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::recorded::make::{added_up, parts_between};

const PROBLEM: &str = "application/problem+json";

/// Exchanges of many kinds: kept, broken, compared with others, excluded, not checked, lost.
fn exchange(kind: u8, number: u32) -> Value {
    let entry = |method: &str, path: &str, status: u16, media: &str, body: &str| {
        json!({
            "request": {"method": method, "url": format!("https://harbour.example/v1{path}"),
                        "headers": [], "bodySize": 0},
            "response": {"status": status, "headers": [{"name": "Content-Type", "value": media}],
                         "content": {"size": body.len(), "text": body}},
        })
    };
    let problem = |title: &str| {
        json!({"type": "https://harbour.example/faults/no-such-berth", "title": title, "status": 404}).to_string()
    };
    match kind % 10 {
        0 => entry("GET", "/berths/A-3", 200, "application/json", "{}"),
        1 => entry("GET", "/berths/Z-99", 404, PROBLEM, &problem("There is no such berth")),
        2 => entry("GET", "/berths/Z-99", 404, PROBLEM, &problem(&format!("No berth {number}"))),
        3 => entry("GET", "/nowhere", 404, "text/html", "<h1>no</h1>"),
        4 => entry(
            "PUT",
            "/berths/A-3",
            405,
            PROBLEM,
            r#"{"title":"Method Not Allowed","status":405}"#,
        ),
        5 => json!({"request": {"method": "GET", "url": "https://fonts.example/x"}}),
        6 => json!({"request": number}),
        // Two kinds of errors of one type, for what is compared.
        7 => entry(
            "GET",
            "/berths/Z-99",
            404,
            PROBLEM,
            r#"{"type":"urn:odd","title":"Odd","at":"2027-01-01T00:00:00Z"}"#,
        ),
        8 => entry(
            "GET",
            "/berths/Z-99",
            404,
            PROBLEM,
            &format!(r#"{{"type":"urn:odd","title":"Odd {number}","at":7}}"#),
        ),
        _ => entry(
            "DELETE",
            "/reservations/R-1",
            401,
            PROBLEM,
            r#"{"title":"Unauthorized","status":401}"#,
        ),
    }
}

fn recording(sorts: &[u8]) -> String {
    let entries: Vec<Value> = sorts.iter().zip(0..).map(|(kind, at)| exchange(*kind, at)).collect();
    json!({"log": {"entries": entries}}).to_string()
}

fn contract() -> ErrorContract {
    let waiver = "\n[[waiver]]\nclause = \"media.declared\"\nendpoint = \"(unknown route)\"\nreason = \"x\"\nuntil = 2999-01-01\n";
    faithful_clerk_check::parse_contract(&format!("{HARBOUR}{waiver}")).contract.unwrap()
}

/// What a ledger of recordings of these names is of.
fn of(names: &[String]) -> LedgerSources {
    LedgerSources { recordings: names.to_vec(), ..LedgerSources::default() }
}

proptest! {
    #[test]
    fn shards_that_were_saved_add_up_to_the_whole(
        shards in prop::collection::vec(prop::collection::vec(any::<u8>(), 0..12), 1..5),
    ) {
        let contract = contract();
        let check = Check::new(&contract);
        let texts: Vec<String> = shards.iter().map(|sorts| recording(sorts)).collect();
        let names: Vec<String> = (0..texts.len()).map(|at| format!("{at}.har")).collect();
        let (mut whole, mut merged) = (Ledger::new(), Ledger::new());
        for (at, (text, name)) in texts.iter().zip(&names).enumerate() {
            let at = u32::try_from(at).unwrap();
            whole.add(check.recording(Source::of(text.as_bytes()), at));
            // Each shard by itself, on a machine that knows of no other.
            let alone = check.recording(Source::of(text.as_bytes()), 0);
            let saved = alone.save(&contract, &of(std::slice::from_ref(name))).unwrap();
            let restored = RestoredLedger::read(&saved, &contract, |_| at).unwrap();
            prop_assert_eq!(&restored.sources.recordings, std::slice::from_ref(name));
            merged.add(restored.ledger);
        }
        let sources = of(&names);
        prop_assert_eq!(whole.save(&contract, &sources).unwrap(), merged.save(&contract, &sources).unwrap());
        whole.conclude(&contract);
        merged.conclude(&contract);
        prop_assert_eq!(whole, merged);
    }

    #[test]
    fn no_text_makes_reading_a_ledger_fail_otherwise_than_by_refusing(text in ".{0,200}", at in 0_usize..4000) {
        let contract = contract();
        let _ = RestoredLedger::read(&text, &contract, |_| 0);
        let good = Check::new(&contract).recording(Source::of(recording(&[1, 2, 3, 7, 8]).as_bytes()), 0);
        let mut saved = good.save(&contract, &of(&["a.har".to_owned()])).unwrap();
        let at = at % saved.len();
        if saved.is_char_boundary(at) {
            saved.insert_str(at, &text);
            let _ = RestoredLedger::read(&saved, &contract, |_| u32::MAX);
            let _ = Baseline::read(&saved, &contract);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Any split of a recording, its parts added up in any order and in any tree, is the recording.
    #[test]
    fn parts_of_one_recording_add_up_to_it(
        sorts in prop::collection::vec(any::<u8>(), 0..24),
        cuts in prop::collection::btree_set(0_usize..24, 0..6),
        picks in prop::collection::vec(any::<usize>(), 12),
    ) {
        let contract = contract();
        // What can't be read is told with its byte, which is another in a part.
        let read = |kind: u8| if kind % 10 == 6 { 0 } else { kind };
        let entries: Vec<Value> = sorts.iter().zip(0..).map(|(kind, at)| exchange(read(*kind), at)).collect();
        let names = of(&["all.har".to_owned()]);
        let checked = |from: usize, to: usize| {
            let text = json!({"log": {"entries": &entries[from..to]}}).to_string();
            let first = from as u64 + 1;
            let mut check = Check::new(&contract);
            check.of_parts().opening(ReadOptions { first, ..ReadOptions::default() });
            check.recording(Source::of(text.as_bytes()), 0).save(&contract, &names).unwrap()
        };
        let added = |one: &str, other: &str| {
            let mut sum = Ledger::new();
            for text in [one, other] {
                sum.add(RestoredLedger::read(text, &contract, |_| 0).unwrap().ledger);
            }
            sum.save(&contract, &names).unwrap()
        };
        let whole = checked(0, entries.len());
        let parts = parts_between(cuts, entries.len()).into_iter();
        let parts: Vec<String> = parts.map(|(from, to)| checked(from, to)).collect();
        let sum = added_up(parts, &picks, |one, other| added(&one, &other));
        prop_assert_eq!(&sum, &whole);
    }
}

#[test]
fn a_baseline_knows_what_is_found_by_comparing() {
    let contract = contract();
    let check = Check::new(&contract);
    let odd = |sorts: &[u8]| check.recording(Source::of(recording(sorts).as_bytes()), 0);
    let names = ["a.har".to_owned()];
    let ledger = odd(&[7, 7, 8]);
    let saved = ledger.save(&contract, &of(&names)).unwrap();
    let baseline = Baseline::read(&saved, &contract).unwrap();
    let gate = |ledger: &Ledger| {
        let gate =
            faithful_clerk_check::gate::Gate { baseline: Some(&baseline), ..Default::default() };
        gate.passing(&contract, ledger)
    };
    let mut again = odd(&[7, 7, 7, 8, 0]);
    again.conclude(&contract);
    let passing = gate(&again);
    assert_eq!((passing.failing, passing.new.values().sum::<u64>()), (0, 0), "{passing:?}");
    assert!(passing.known > 2);
    // A 405 without Allow is another finding.
    let mut other = odd(&[7, 4]);
    other.conclude(&contract);
    assert!(gate(&other).failing > 0);
}

#[test]
fn the_digest_tells_contracts_apart() {
    let one = contract();
    let text = Ledger::new().save(&one, &of(&[])).unwrap();
    let other = faithful_clerk_check::parse_contract(HARBOUR).contract.unwrap();
    let refused = RestoredLedger::read(&text, &other, |_| 0).unwrap_err();
    assert_eq!(refused, LedgerError::OtherContract);
    assert!(!Baseline::read(&text, &other).unwrap().same_contract);
    assert!(Baseline::read(&text, &one).unwrap().same_contract);
}
