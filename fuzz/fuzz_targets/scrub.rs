//! A secret that a header tells, planted wherever any text has room for it: it never survives, what comes out can be read as
//! before, and a check finds the same.
#![no_main]

use std::collections::BTreeMap;
use std::io::Cursor;
use std::num::NonZero;
use std::sync::LazyLock;

use faithful_clerk_check::classify::{Classification, Credentials, classify};
use faithful_clerk_check::clauses::{HARBOUR, check_exchange};
use faithful_clerk_check::parse_contract;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{Format, ReadOptions, Source, Traversal, Unreadable, Visitor};
use faithful_clerk_scrub::{ScrubKey, Scrubber, collect, replace};
use libfuzzer_sys::fuzz_target;
use serde_json::{Value, json};

static CONTRACT: LazyLock<ErrorContract> =
    LazyLock::new(|| parse_contract(HARBOUR).contract.expect("the examples' contract parses"));

const SECRET: &str = "kR3vQ9xT2mB7nL5pW8sD4f";
const OPTIONS: ReadOptions = ReadOptions { format: Some(Format::JsonLines), map: None, max_exchange: 1 << 20, first: 1 };

/// What is found in the exchanges of a recording: clauses, and how often each.
#[derive(Default)]
struct Found {
    clauses: BTreeMap<String, u64>,
    unreadable: u64,
}

impl Visitor for Found {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if let Classification::Classified(classified) = classify(exchange, &CONTRACT, Credentials::Recorded) {
            for finding in &check_exchange(&classified).findings {
                // The location may have a name in it that is a secret.
                *self.clauses.entry(finding.clause.to_owned()).or_default() += 1;
            }
        }
    }

    fn on_unreadable(&mut self, _: Unreadable) {
        self.unreadable += 1;
    }
}

fn found(lines: &[u8]) -> Found {
    let mut found = Found::default();
    let traversal = Traversal { options: OPTIONS, ..Traversal::default() };
    traversal.visit_in_order(Source::of(lines), 0, &mut found);
    found
}

/// All strings of a document, and of those in strings.
fn strings(value: &Value, all: &mut String) {
    match value {
        Value::String(text) => {
            all.push_str(text);
            all.push('\n');
            if let Ok(inner @ (Value::Object(_) | Value::Array(_))) = serde_json::from_str::<Value>(text) {
                strings(&inner, all);
            }
        }
        Value::Array(items) => items.iter().for_each(|item| strings(item, all)),
        Value::Object(members) => members.iter().for_each(|(name, member)| {
            all.push_str(name);
            all.push('\n');
            strings(member, all);
        }),
        _ => {}
    }
}

fuzz_target!(|data: &str| {
    // A bell is where the secret stands, as a word of its own.
    let text = data.replace('\u{7}', &format!(" {SECRET} "));
    let mut parts = text.splitn(4, '\0');
    let [place, one, other, rest] = [(); 4].map(|()| parts.next().unwrap_or_default());
    let status = [200, 201, 400, 404, 422, 500][place.len() % 6];
    let inner = json!({"title": one, "errors": [{"pointer": other, "detail": rest}], one: other}).to_string();
    let body = if place.len() % 7 < 4 { inner } else { rest.to_owned() };
    let media = ["application/problem+json", "application/json", "text/plain"][place.len() % 3];
    let entry = json!({
        "comment": one,
        "request": {"method": "POST", "url": "https://harbour.example/v1/reservations", "headers": [
            {"name": "Authorization", "value": format!("Bearer {SECRET}")}, {"name": "X-Note", "value": other}],
            "postData": {"mimeType": "application/json", "text": json!({"boat": one, "note": rest}).to_string()}},
        "response": {"status": status, "headers": [{"name": "X-Other", "value": one}],
            "content": {"mimeType": media, "text": body}},
    });
    let line = format!("{entry}\n");
    let rules = SecretRules::default();
    let mut scrubber = Scrubber::new(&rules, ScrubKey::new(b"a key of sixteen characters"));
    let threads = NonZero::<usize>::MIN;
    let (mut first, mut copy) = (Vec::new(), Vec::new());
    collect(&mut scrubber, Source::of(line.as_bytes()), &OPTIONS, threads, &mut first).expect("memory can be written");
    scrubber.begin();
    let originals = (line.as_bytes(), Cursor::new(line.as_bytes()));
    replace(&mut scrubber, first.as_slice(), originals, threads, &mut copy).expect("memory can be written");
    let scrubbed = String::from_utf8(copy).expect("text stays text");
    let value: Value = serde_json::from_str(&scrubbed).expect("JSON stays JSON");
    let mut all = scrubbed.clone();
    strings(&value, &mut all);
    assert!(!all.contains(SECRET), "{line}\n{scrubbed}");
    let (before, after) = (found(line.as_bytes()), found(scrubbed.as_bytes()));
    // What is disclosed is hidden, and that may be all that was found.
    let clauses = |found: &Found| -> Vec<(String, u64)> {
        let kept = found.clauses.iter().filter(|(clause, _)| !clause.starts_with("disclosure."));
        kept.map(|(clause, count)| (clause.clone(), *count)).collect()
    };
    assert_eq!(before.unreadable, after.unreadable);
    assert_eq!(clauses(&before), clauses(&after), "{line}\n{scrubbed}");
});
