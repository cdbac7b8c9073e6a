//! HAR files are read by leaps where that can be, and whatever stands in them, that shows in nothing.

use std::io::Cursor;
use std::num::NonZero;

use faithful_clerk_core::{Check, Contract, Ledger, Opening, Source};
use proptest::prelude::*;

use super::corpus::entries;
use super::look::{Seen, read};
use super::whole::gzip;

/// So many entries that there are several batches.
const COUNT: usize = 1200;

fn har(between: &str, all: &[String]) -> String {
    format!("{{\"log\": {{\"entries\": [{}], \"version\": \"1.2\"}}}}", all.join(between))
}

fn many() -> Vec<String> {
    entries(false).into_iter().cycle().take(COUNT).collect()
}

/// As a stream, in which nobody leaps.
fn surely(bytes: &[u8]) -> Seen {
    read(Source::of(bytes), Opening::default(), 1)
}

/// As a file.
fn leaping(bytes: &[u8], threads: usize) -> Seen {
    read(Source::file(Cursor::new(bytes)), Opening::default(), threads)
}

#[test]
fn a_file_is_read_as_a_stream_is() {
    for between in [",", ", ", ",\r\n\t", " , "] {
        let bytes = har(between, &many()).into_bytes();
        let sure = surely(&bytes);
        assert_eq!((sure.lines.len(), sure.losses.len()), (COUNT, 0));
        for threads in [1, 8] {
            assert_eq!(leaping(&bytes, threads), sure, "{between:?}");
        }
    }
}

/// Text in which something is broken or odd, far behind the point from which on leaps are made.
#[test]
fn what_is_broken_or_odd_is_told_as_in_a_stream() {
    let all = many();
    let whole = har(",", &all);
    let first = all[0].split_inclusive(':').next().unwrap();
    // The member name that all entries begin with.
    assert!(all.iter().all(|entry| entry.starts_with(first)), "{first}");
    let odd = |change: &dyn Fn(&mut String)| {
        let mut all = many();
        change(&mut all[900]);
        har(",", &all)
    };
    let cases: Vec<(&str, String)> = vec![
        ("no bracket at the end", odd(&|entry| _ = entry.pop())),
        ("a bracket too many", odd(&|entry| entry.push('}'))),
        ("a list that ends too early", odd(&|entry| entry.push(']'))),
        ("no quotation mark", odd(&|entry| _ = entry.remove(entry.find("\"url\"").unwrap()))),
        ("another first member", odd(&|entry| entry.insert_str(1, "\"_id\": 7, "))),
        ("white space before it", odd(&|entry| entry.insert_str(0, "\n  "))),
        ("something before it", odd(&|entry| entry.insert_str(0, "17, \"x\", "))),
        ("nothing but a word", odd(&|entry| *entry = "null".to_owned())),
        ("a colon before it", odd(&|entry| entry.insert(0, ':'))),
        ("two entries within it", {
            let within = format!("\"_near\": [{},{}], ", all[1], all[2]);
            odd(&|entry| entry.insert_str(1, &within))
                .replace("{\"_near\"", &format!("{first} 1, \"_near\""))
        }),
        ("two entries within a string of it", {
            let within = format!("[{},{}]", all[1], all[2]);
            let text = serde_json::to_string(&within).unwrap();
            odd(&|entry| {
                entry.pop();
                entry.push_str(&format!(", \"_near\": {text}}}"));
            })
        }),
        (
            "larger than a batch",
            odd(&|entry| {
                entry.pop();
                entry.push_str(&format!(", \"_pad\": \"{}\"}}", " ".repeat(600_000)));
            }),
        ),
        ("cut", whole[..whole.len() * 3 / 4].to_owned()),
        ("cut behind an entry", whole[..whole.len() - 22].to_owned()),
        ("something behind the end", format!("{whole} {{}}")),
    ];
    for (name, text) in cases {
        let sure = surely(text.as_bytes());
        assert!(sure.lines.len() >= COUNT / 2, "{name}");
        for threads in [1, 8] {
            assert_eq!(leaping(text.as_bytes(), threads), sure, "{name}");
        }
        assert_eq!(leaping(&gzip(text.as_bytes()), 2), sure, "{name}, packed");
    }
}

/// What a pass has seen where its leaps led astray is forgotten, credentials too.
#[test]
fn entries_that_are_none_leave_nothing_behind() {
    let text = r#"
        contract = 1
        servers = ["https://harbour.example/v1"]
        [fault.no-credentials]
        status = 401
        answers = ["credentials-missing"]
        [endpoint."GET /berths"]
        needs = "credentials"
        success = [200]
        faults = ["no-credentials"]
    "#;
    let read = Contract::read(text);
    let contract = read.contract.unwrap_or_else(|| panic!("{:?}", read.mistakes));
    let mut all = vec![many().swap_remove(0); COUNT];
    let credentials = r#"{"name": "Authorization", "value": "Bearer x"}"#;
    let within = all[0].replacen("\"headers\": [", &format!("\"headers\": [{credentials}"), 1);
    assert!(within.contains(credentials), "{within}");
    let within_alone = within.clone();
    let within = format!("\"_near\": [{within},{within}]}}");
    all[900].pop();
    all[900].push_str(&format!(", {within}"));
    let text = har(",", &all);
    let check = |source: Source<'_>, threads: usize| -> Ledger {
        let mut check = Check::new(&contract);
        check.threads(NonZero::new(threads).unwrap());
        check.recording(source, 0)
    };
    let sure = check(Source::of(text.as_bytes()), 1);
    assert_eq!((sure.losses.count, sure.judged), (0, COUNT as u64));
    // With credentials anywhere, requests without would be wrong.
    let with = har(",", &[within_alone, all[0].clone()]);
    assert_ne!(check(Source::of(with.as_bytes()), 1).findings, Default::default());
    assert_eq!(sure.findings, Default::default());
    for threads in [1, 4] {
        assert_eq!(check(Source::file(Cursor::new(&text)), threads), sure);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn any_other_bytes_anywhere_are_told_as_in_a_stream(
        places in prop::collection::vec((0usize..10_000, prop::sample::select(b"{}[]\",:0a \\\xff".to_vec()), 0..3), 1..4),
        threads in 1usize..3,
    ) {
        let mut bytes = har(",", &many()).into_bytes();
        for (share, byte, how) in places {
            let at = bytes.len() * share / 10_000;
            match how {
                0 => bytes[at] = byte,
                1 => bytes.insert(at, byte),
                _ => _ = bytes.remove(at),
            }
        }
        prop_assert_eq!(leaping(&bytes, threads), surely(&bytes));
    }
}
