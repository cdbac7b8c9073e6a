//! Reading and checking recordings of made-up traffic: a fifth errors, 4 KB an exchange.
//!
//! The plain parse of the same bytes and the plain scan stand beside each figure, so that they can be
//! compared as ratios of one run; see docs/speed.md.

#![allow(clippy::expect_used, missing_docs, reason = "a benchmark, not an interface")]

mod plain;

use std::num::NonZero;
use std::time::Duration;

use criterion::measurement::WallTime;
use criterion::{BenchmarkGroup, Criterion, Throughput, criterion_group, criterion_main};
use faithful_clerk_core::compare::{Between, Plan, Side as Compared, compare};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{Check, Contract, Ledger, Pass, Source};
use faithful_clerk_traffic::{Form, Mixture, Traffic};

const CONTRACT: &str = include_str!("../../cli/demo/error-contract.toml");

fn contract() -> Contract {
    Contract::read(CONTRACT).contract.expect("the demo's contract is right")
}

fn threads(threads: usize) -> NonZero<usize> {
    NonZero::new(threads).expect("at least one thread")
}

fn check(contract: &Contract, recording: &str, count: usize) -> Ledger {
    let mut check = Check::new(contract);
    check.threads(threads(count));
    let ledger = check.recording(Source::of(recording.as_bytes()), 0);
    assert_eq!(ledger.losses.count, 0);
    ledger
}

/// A survey, and how many errors it counted.
fn survey(bare: &Contract, recording: &str, count: usize) -> u64 {
    let mut sum = Gathered::new(bare);
    for gathered in
        Pass::with(threads(count)).over(Source::of(recording.as_bytes()), 0, || Gathered::new(bare))
    {
        sum.add(gathered);
    }
    sum.conclude().errors
}

/// The recording compared with itself: everything is the same.
fn compared(bare: &Contract, contract: &Contract, recording: &str) -> u64 {
    let gathered = || {
        let mut sum = Gathered::new(bare);
        Pass::default().in_order(Source::of(recording.as_bytes()), 0, &mut sum);
        sum
    };
    let plan = Plan::of([gathered(), gathered()], Some(contract), Between::Times);
    let side = |at: usize| {
        let mut side = Compared::new(&plan, at);
        Pass::default().in_order(Source::of(recording.as_bytes()), 0, &mut side);
        side
    };
    let comparison = compare(&plan, side(0), side(1));
    assert_eq!(comparison.counts.same, comparison.counts.pairs());
    comparison.counts.pairs()
}

fn group<'c>(
    criterion: &'c mut Criterion,
    name: &str,
    bytes: usize,
) -> BenchmarkGroup<'c, WallTime> {
    let mut group = criterion.benchmark_group(name);
    group.sample_size(10).warm_up_time(Duration::from_millis(500));
    group.throughput(Throughput::Bytes(bytes as u64));
    group
}

/// The check of usual recordings, beside plain parses of the same bytes.
fn usual(criterion: &mut Criterion) {
    let contract = contract();
    for (name, form) in
        [("HAR", Form::Compact), ("pretty HAR", Form::Pretty), ("lines", Form::Lines)]
    {
        let recording = Traffic::new(form, Mixture::Usual, 500_000_000).all();
        let mut group = group(criterion, &format!("{name}, 500 MB"), recording.len());
        group.bench_function("plain scan", |b| b.iter(|| plain::scan(&recording)));
        group.bench_function("plain parse, borrowed, 1 thread", |b| {
            b.iter(|| plain::parse(&recording, form == Form::Lines));
        });
        for count in [1, 2] {
            group.bench_function(format!("check, {count} threads"), |b| {
                b.iter(|| check(&contract, &recording, count));
            });
        }
        group.finish();
    }
}

/// Recordings that are as bad for speed as recordings can be.
fn odd(criterion: &mut Criterion) {
    let contract = contract();
    for (name, mixture) in [
        ("nothing but errors", Mixture::Errors),
        ("always the same finding", Mixture::SameFinding),
        ("bodies of 1 MB", Mixture::Large),
        ("twenty levels of escapes", Mixture::Escaped),
    ] {
        let recording = Traffic::new(Form::Compact, mixture, 100_000_000).all();
        let mut group = group(criterion, &format!("{name}, 100 MB"), recording.len());
        group.bench_function("plain parse, borrowed, 1 thread", |b| {
            b.iter(|| plain::parse(&recording, false));
        });
        group.bench_function("check, 2 threads", |b| b.iter(|| check(&contract, &recording, 2)));
        group.finish();
    }
}

/// A contract of 300 endpoints and 2,000 faults costs little more than the demo's.
fn large_contract(criterion: &mut Criterion) {
    use std::fmt::Write as _;
    let mut text = CONTRACT.to_owned();
    for number in 0..2000 {
        let _ = write!(
            text,
            "\n[fault.other-{number}]\nstatus = {}\ntype = \"https://harbour.example/faults/other-{number}\"\ntitle = \"Other {number}\"\nanswers = [\"conflict\"]\n",
            409 + number % 3
        );
    }
    for number in 0..300 {
        let faults: Vec<String> =
            (0..7).map(|n| format!("\"other-{}\"", (number * 7 + n) % 2000)).collect();
        let _ = write!(
            text,
            "\n[endpoint.\"GET /yards/{number}/cranes/{{id}}\"]\nsuccess = [200]\nfaults = [{}]\n",
            faults.join(", ")
        );
    }
    let large = Contract::read(&text).contract.expect("the large contract is right");
    let recording = Traffic::new(Form::Compact, Mixture::Usual, 100_000_000).all();
    let mut group = group(criterion, "contracts, 100 MB", recording.len());
    for (name, contract) in [("the demo's", &contract()), ("300 endpoints, 2,000 faults", &large)] {
        group.bench_function(name, |b| b.iter(|| check(contract, &recording, 2)));
    }
    group.finish();
}

/// What else is done with a recording.
fn others(criterion: &mut Criterion) {
    let (bare, contract) = (Contract::default(), contract());
    let recording = Traffic::new(Form::Compact, Mixture::Usual, 50_000_000).all();
    let mut group = group(criterion, "other commands, 50 MB", recording.len());
    group.bench_function("plain parse, borrowed, 1 thread", |b| {
        b.iter(|| plain::parse(&recording, false));
    });
    group.bench_function("survey, 1 thread", |b| b.iter(|| survey(&bare, &recording, 1)));
    group.bench_function("survey, 2 threads", |b| b.iter(|| survey(&bare, &recording, 2)));
    group.bench_function("compare with itself, 1 thread", |b| {
        b.iter(|| compared(&bare, &contract, &recording));
    });
    group.finish();
}

criterion_group!(all, usual, odd, large_contract, others);
criterion_main!(all);
