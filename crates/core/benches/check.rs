//! Reading and checking a recording of 100 MB: `before.har` of the demo, repeated.
//!
//! It stands for a recording in which a third of the answers are errors, which is more than usual. The
//! plain parse of the same bytes and the plain scan stand beside it, so that figures can be compared as
//! ratios of one run; see docs/speed.md.

#![allow(clippy::expect_used, missing_docs, reason = "a benchmark, not an interface")]

use std::borrow::Cow;
use std::num::NonZero;

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use faithful_clerk_core::compare::{Between, Plan, Side as Compared, compare};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{Check, Contract, Ledger, Pass, Weight};
use serde::Deserialize;

const CONTRACT: &str = include_str!("../../cli/demo/error-contract.toml");
const BEFORE: &str = include_str!("../../cli/demo/before.har");
const SIZE: usize = 100_000_000;

/// What `before.har` has, by the table in the command line's tests.
const BREACHES: u64 = 33;

/// The demo's recording, compact, its entries repeated; and how often.
fn recording() -> (String, u64) {
    let har: serde_json::Value = serde_json::from_str(BEFORE).expect("the demo is JSON");
    let entries = har["log"]["entries"].as_array().expect("the demo is HAR");
    let round: Vec<String> = entries.iter().map(serde_json::Value::to_string).collect();
    let round = round.join(",");
    let times = SIZE / round.len();
    let all = vec![round; times].join(",");
    (format!(r#"{{"log":{{"version":"1.2","entries":[{all}]}}}}"#), times as u64)
}

#[derive(Deserialize)]
struct Har<'a> {
    #[serde(borrow)]
    log: Log<'a>,
}

#[derive(Deserialize)]
struct Log<'a> {
    #[serde(borrow)]
    entries: Vec<Entry<'a>>,
}

#[derive(Deserialize)]
struct Entry<'a> {
    #[serde(borrow)]
    request: Side<'a>,
    #[serde(borrow)]
    response: Side<'a>,
}

#[derive(Deserialize)]
struct Side<'a> {
    #[serde(borrow, default)]
    url: Cow<'a, str>,
    #[serde(borrow)]
    headers: Vec<Field<'a>>,
    #[serde(borrow)]
    content: Option<Content<'a>>,
}

#[derive(Deserialize)]
struct Field<'a> {
    #[serde(borrow)]
    name: Cow<'a, str>,
    #[serde(borrow)]
    value: Cow<'a, str>,
}

#[derive(Deserialize)]
struct Content<'a> {
    #[serde(borrow, default)]
    text: Cow<'a, str>,
}

/// The whole file into borrowed structs, and a sum over all of it so that nothing is left out.
fn plain_parse(har: &str) -> usize {
    let har: Har<'_> = serde_json::from_str(har).expect("the recording is HAR");
    let side = |side: &Side<'_>| {
        let fields: usize = side.headers.iter().map(|f| f.name.len() + f.value.len()).sum();
        fields + side.url.len() + side.content.as_ref().map_or(0, |content| content.text.len())
    };
    har.log.entries.iter().map(|entry| side(&entry.request) + side(&entry.response)).sum()
}

fn check(contract: &Contract, har: &str, threads: usize, times: u64) -> Ledger {
    let mut check = Check::new(contract);
    check.threads(NonZero::new(threads).expect("at least one thread"));
    let ledger = check.har(har.as_bytes(), 0);
    assert_eq!((ledger.count(Weight::Breach), ledger.losses.count), (BREACHES * times, 0));
    ledger
}

/// A survey, and how many errors it counted.
fn survey(bare: &Contract, har: &str, threads: usize) -> u64 {
    let pass = Pass::with(NonZero::new(threads).expect("at least one thread"));
    let mut sum = Gathered::new(bare);
    for gathered in pass.har(har.as_bytes(), 0, || Gathered::new(bare)) {
        sum.add(gathered);
    }
    sum.conclude().errors
}

/// The recording compared with itself: everything is the same.
fn compared(bare: &Contract, contract: &Contract, har: &str) -> u64 {
    let gathered = || {
        let mut sum = Gathered::new(bare);
        Pass::default().in_order(har.as_bytes(), 0, &mut sum);
        sum
    };
    let plan = Plan::of([gathered(), gathered()], Some(contract), Between::Times);
    let side = |at: usize| {
        let mut side = Compared::new(&plan, at);
        Pass::default().in_order(har.as_bytes(), 0, &mut side);
        side
    };
    let comparison = compare(&plan, side(0), side(1));
    assert_eq!(comparison.counts.same, comparison.counts.pairs());
    comparison.counts.pairs()
}

fn benches(criterion: &mut Criterion) {
    let contract = Contract::read(CONTRACT).contract.expect("the demo's contract is right");
    let (har, times) = recording();
    let mut group = criterion.benchmark_group("100 MB");
    group.sample_size(10).throughput(Throughput::Bytes(har.len() as u64));
    group.bench_function("plain scan", |b| {
        b.iter(|| memchr::memchr_iter(b'\n', std::hint::black_box(har.as_bytes())).count());
    });
    group.bench_function("plain parse, borrowed, 1 thread", |b| b.iter(|| plain_parse(&har)));
    group.bench_function("check, 1 thread", |b| b.iter(|| check(&contract, &har, 1, times)));
    group.bench_function("check, 2 threads", |b| b.iter(|| check(&contract, &har, 2, times)));
    let bare = Contract::default();
    group.bench_function("survey, 1 thread", |b| b.iter(|| survey(&bare, &har, 1)));
    group.bench_function("survey, 2 threads", |b| b.iter(|| survey(&bare, &har, 2)));
    group.bench_function("compare with itself, 1 thread", |b| {
        b.iter(|| compared(&bare, &contract, &har));
    });
    group.finish();
}

criterion_group!(all, benches);
criterion_main!(all);
