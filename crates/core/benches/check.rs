//! Reading and checking made-up traffic of several moulds; docs/speed.md has the figures.
//!
//! Machines drift by a factor of two within minutes, so everything is measured in rounds, next to a plain parse of the same
//! bytes, and what counts is the median of the ratios within a round. Processor time is what is compared: the second core
//! of a shared machine comes and goes.

#![allow(
    clippy::expect_used,
    clippy::print_stdout,
    clippy::disallowed_methods,
    missing_docs,
    reason = "a benchmark, no interface"
)]

mod plain;
mod timing;

use std::fmt::Write as _;
use std::num::NonZero;

use faithful_clerk_check::Check;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    ComparisonKind, ComparisonPlan, ComparisonSide as Compared, ComparisonSurvey, compare,
};
use faithful_clerk_insight::survey::{SurveyCollector, SurveyData};
use faithful_clerk_recording::{Batch, ReadOptions, open};
use faithful_clerk_recording::{Source, Traversal};
use faithful_clerk_schema::FileLoader;
use faithful_clerk_testkit::{DescribedService, Mixture, Mould, Traffic, TrafficFormat};
use serde_json::{Value, json};
use timing::{Cost, cost};

const CONTRACT: &str = include_str!("../../cli/demo/error-contract.toml");

/// The first round only warms up.
const ROUNDS: usize = 6;

/// Something that is measured: its name, and what it does.
type Job<'j> = (&'j str, Box<dyn Fn() -> u64 + 'j>);

/// Runs all jobs in rounds, and prints what each took and the ratios to the first.
fn measure(title: &str, bytes: usize, jobs: &[Job<'_>]) {
    let mut costs = vec![Vec::new(); jobs.len()];
    for _ in 0..ROUNDS {
        for ((_, job), costs) in jobs.iter().zip(&mut costs) {
            costs.push(cost(job));
        }
    }
    let median = |mut values: Vec<f64>| {
        values.sort_by(f64::total_cmp);
        values.get(values.len() / 2).copied().unwrap_or_default()
    };
    println!("\n| {title} | processor | elapsed | MB/s | of the processor time | of the time |");
    println!("|---|--:|--:|--:|--:|--:|");
    let warm = |at: usize| costs.get(at).into_iter().flatten().skip(1).copied();
    for (at, (name, _)) in jobs.iter().enumerate() {
        let of = |pick: fn(Cost) -> f64| {
            let ratios = warm(0).zip(warm(at)).map(|(first, this)| pick(this) / pick(first));
            (median(warm(at).map(pick).collect()), median(ratios.collect()))
        };
        let (processor, processor_ratio) = of(|cost| cost.processor);
        let (elapsed, elapsed_ratio) = of(|cost| cost.elapsed);
        #[allow(clippy::cast_precision_loss, reason = "a file of 2^52 bytes is not measured")]
        let speed = bytes as f64 / 1e6 / elapsed;
        println!(
            "| {name} | {:.0} ms | {:.0} ms | {speed:.0} | {processor_ratio:.2} | {elapsed_ratio:.2} |",
            processor * 1000.0,
            elapsed * 1000.0,
        );
    }
}

fn contract() -> ErrorContract {
    faithful_clerk_check::parse_contract(CONTRACT).contract.expect("the demo's contract is right")
}

fn check(contract: &ErrorContract, recording: &str, threads: usize) -> u64 {
    let mut check = Check::new(contract);
    check.threads(NonZero::new(threads).expect("at least one thread"));
    let ledger = check.recording(Source::of(recording.as_bytes()), 0);
    assert_eq!(ledger.unreadable.count, 0);
    ledger.checked
}

/// Does the same on two threads, which shows what the second processor is worth just then.
fn twice(work: impl Fn() -> u64 + Sync) -> u64 {
    std::thread::scope(|scope| {
        let other = scope.spawn(&work);
        work() + other.join().unwrap_or_default()
    })
}

/// Splits a recording into its exchanges, and parses each if that is asked for.
fn split(recording: &str, parses: bool) -> u64 {
    let mut splitter = open(Source::of(recording.as_bytes()), 0, &ReadOptions::default());
    let (mut batch, mut count) = (Batch::default(), 0);
    while splitter.next(&mut batch) {
        for entry in batch.entries() {
            count += u64::from(!parses || batch.exchange(entry, 0).is_ok());
        }
    }
    count
}

/// A survey, and how many errors it counted.
fn survey(bare: &ErrorContract, recording: &str, threads: usize) -> u64 {
    let threads = NonZero::new(threads).expect("at least one thread");
    let all = Traversal::with(threads)
        .visit_parallel(Source::of(recording.as_bytes()), 0, || SurveyCollector::new(bare));
    let mut sum = SurveyData::default();
    all.into_iter().for_each(|gathered| sum.add(gathered.data));
    sum.conclude().errors
}

/// The recording compared with itself: everything is the same.
fn compared(bare: &ErrorContract, contract: &ErrorContract, recording: &str) -> u64 {
    let gathered = || {
        let mut sum = ComparisonSurvey::new(bare);
        Traversal::default().visit_in_order(Source::of(recording.as_bytes()), 0, &mut sum);
        sum
    };
    let plan =
        ComparisonPlan::of([gathered(), gathered()], Some(contract), ComparisonKind::Versions);
    let side = |at: usize| {
        let mut side = Compared::new(&plan, at);
        Traversal::default().visit_in_order(Source::of(recording.as_bytes()), 0, &mut side);
        side
    };
    let comparison = compare(&plan, side(0), side(1));
    assert_eq!(comparison.counts.unchanged, comparison.counts.pairs());
    comparison.counts.pairs()
}

/// The check of recordings as different software writes them.
fn moulds() {
    let contract = contract();
    for (name, form, mould, mixture) in [
        ("a gateway, compact", TrafficFormat::Compact, Mould::Gateway, Mixture::Usual),
        ("developer tools, pretty", TrafficFormat::Pretty, Mould::DevTools, Mixture::Usual),
        ("a proxy, bodies in base64", TrafficFormat::Compact, Mould::Proxy, Mixture::Usual),
        ("a gateway, pretty", TrafficFormat::Pretty, Mould::Gateway, Mixture::Usual),
        ("every entry different", TrafficFormat::Compact, Mould::Ragged, Mixture::Usual),
        ("errors that never repeat", TrafficFormat::Compact, Mould::Gateway, Mixture::Unique),
        ("a gateway, JSON Lines", TrafficFormat::Lines, Mould::Gateway, Mixture::Usual),
    ] {
        let recording = Traffic::new(form, mixture, 100_000_000).mould(mould).all();
        let is_lines = form == TrafficFormat::Lines;
        let jobs: Vec<Job<'_>> = vec![
            ("plain parse, 1 thread", Box::new(|| plain::parse(&recording, is_lines))),
            ("two plain parses at once", Box::new(|| twice(|| plain::parse(&recording, is_lines)))),
            ("split into entries, 1 thread", Box::new(|| split(&recording, false))),
            ("split and parsed, 1 thread", Box::new(|| split(&recording, true))),
            ("check, 1 thread", Box::new(|| check(&contract, &recording, 1))),
            ("check, 2 threads", Box::new(|| check(&contract, &recording, 2))),
        ];
        measure(&format!("{name}, 100 MB"), recording.len(), &jobs);
    }
}

/// Recordings that are as bad for speed as recordings can be.
fn extremes() {
    let contract = contract();
    for (name, mixture) in [
        ("nothing but errors", Mixture::Errors),
        ("always the same finding", Mixture::SameFinding),
        ("bodies of 1 MB", Mixture::Large),
        ("twenty levels of escapes", Mixture::Escaped),
    ] {
        let recording = Traffic::new(TrafficFormat::Compact, mixture, 50_000_000).all();
        let jobs: [Job<'_>; 2] = [
            ("plain parse, 1 thread", Box::new(|| plain::parse(&recording, false))),
            ("check, 1 thread", Box::new(|| check(&contract, &recording, 1))),
        ];
        measure(&format!("{name}, 50 MB"), recording.len(), &jobs);
    }
}

/// A contract of 300 endpoints and 2,000 faults costs little more than the demo's.
fn large_contract() {
    let mut text = CONTRACT.to_owned();
    for number in 0..2000 {
        let _ = write!(
            text,
            "\n[fault.other-{number}]\nstatus = {}\ntype = \"https://harbour.example/faults/other-{number}\"\ntitle = \"Other {number}\"\n when = [\"conflict\"]\n",
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
    let large =
        faithful_clerk_check::parse_contract(&text).contract.expect("the large contract is right");
    let small = contract();
    let recording = Traffic::new(TrafficFormat::Compact, Mixture::Usual, 100_000_000).all();
    let jobs: [Job<'_>; 2] = [
        ("the demo's contract", Box::new(|| check(&small, &recording, 1))),
        ("300 endpoints, 2,000 faults", Box::new(|| check(&large, &recording, 1))),
    ];
    measure("contracts, 100 MB", recording.len(), &jobs);
}

/// What else is done with a recording. A comparison reads two, so its ratio is to be halved.
fn others() {
    let (bare, contract) = (ErrorContract::default(), contract());
    for (name, mould) in [
        ("a gateway", Mould::Gateway),
        ("developer tools", Mould::DevTools),
        ("a proxy, bodies in base64", Mould::Proxy),
        ("every entry different", Mould::Ragged),
    ] {
        let traffic = Traffic::new(TrafficFormat::Compact, Mixture::Usual, 100_000_000);
        let recording = traffic.mould(mould).all();
        let jobs: [Job<'_>; 4] = [
            ("plain parse, 1 thread", Box::new(|| plain::parse(&recording, false))),
            ("survey, 1 thread", Box::new(|| survey(&bare, &recording, 1))),
            ("survey, 2 threads", Box::new(|| survey(&bare, &recording, 2))),
            ("compared with itself, 1 thread", Box::new(|| compared(&bare, &contract, &recording))),
        ];
        measure(&format!("{name}, 100 MB"), recording.len(), &jobs);
    }
}

/// The file that a contract names.
#[derive(Debug)]
struct OneFile(Vec<u8>);

impl FileLoader for OneFile {
    fn read(&self, _: &str) -> Result<Vec<u8>, String> {
        Ok(self.0.clone())
    }
}

/// A large description, read for the check of some exchanges.
fn descriptions() {
    let service = DescribedService::large();
    let text = format!("{:#}", service.description());
    let file = OneFile(text.clone().into_bytes());
    let lines: String = service
        .exchanges()
        .iter()
        .take(3)
        .map(|one| {
            let (method, url, status, body) = (one.method, &one.url, one.status, &one.body);
            let request = json!({"method": method, "url": url, "headers": []});
            let media = json!({"name": "Content-Type", "value": one.media});
            let content = json!({"text": body, "size": body.len()});
            let response = json!({"status": status, "headers": [media], "content": content});
            format!("{}\n", json!({"request": request, "response": response}))
        })
        .collect();
    let described = || {
        let contract = "contract = 1\nopenapi = \"openapi.json\"\n";
        let parsed = faithful_clerk_check::parse_contract_with_files(contract, &file);
        parsed.contract.expect("the large description is right")
    };
    let jobs: [Job<'_>; 3] = [
        (
            "plain parse, 1 thread",
            Box::new(|| {
                serde_json::from_str::<Value>(&text).map_or(0, |value| u64::from(value.is_object()))
            }),
        ),
        ("read as a contract", Box::new(|| described().endpoints.len() as u64)),
        ("the same, and three exchanges checked", Box::new(|| check(&described(), &lines, 1))),
    ];
    measure("a description of 1,200 operations, 13 MB", text.len(), &jobs);
}

fn main() {
    let only = std::env::args().skip(1).find(|argument| !argument.starts_with('-'));
    let parts: [(&str, fn()); 5] = [
        ("moulds", moulds),
        ("extremes", extremes),
        ("contracts", large_contract),
        ("others", others),
        ("descriptions", descriptions),
    ];
    for (name, part) in parts {
        if only.as_deref().is_none_or(|only| only == name) {
            part();
        }
    }
}
