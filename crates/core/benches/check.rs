//! Reading and checking made-up traffic: a fifth of it errors, 4 KB an exchange; see docs/speed.md.
//!
//! Machines drift by a factor of two within minutes, so each thing is measured in rounds, next to the plain
//! parse of the same bytes, and what counts is the median of the ratios within a round.

#![allow(
    clippy::expect_used,
    clippy::print_stdout,
    clippy::disallowed_methods,
    missing_docs,
    reason = "a benchmark, no interface"
)]

mod plain;

use std::fmt::Write as _;
use std::fs::File;
use std::hint::black_box;
use std::io::{Cursor, Read, Seek, Write as _};
use std::num::NonZero;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Instant;

use faithful_clerk_core::compare::{Between, Plan, Side as Compared, compare};
use faithful_clerk_core::recording::{Batch, Opening, open};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{Check, Contract, Pass, Source};
use faithful_clerk_traffic::{Form, Mixture, Traffic};
use tempfile::NamedTempFile;

/// The variable that names a built program; its check is then measured too, from its start to its end.
const PROGRAM: &str = "FCLERK";

const CONTRACT: &str = include_str!("../../cli/demo/error-contract.toml");

/// The first round only warms up.
const ROUNDS: usize = 7;

const TIMES: &str = "times as fast";

/// Something that is measured: its name, and what it does.
type Job<'j> = (&'j str, Box<dyn Fn() -> u64 + 'j>);

/// Does all jobs in rounds, and prints the median time of each, its speed, and how many times as fast it is as
/// the first ones are, which are named for that.
fn measure<const N: usize>(title: &str, bytes: usize, than: [&str; N], jobs: &[Job<'_>]) {
    let mut times = vec![Vec::new(); jobs.len()];
    for _ in 0..ROUNDS {
        for ((_, run), times) in jobs.iter().zip(&mut times) {
            let start = Instant::now();
            black_box(run());
            times.push(start.elapsed().as_secs_f64());
        }
    }
    let median = |mut values: Vec<f64>| {
        values.sort_by(f64::total_cmp);
        values.get(values.len() / 2).copied().unwrap_or_default()
    };
    println!("\n| {title} | time | MB/s | {} |", than.join(" | "));
    println!("|---|--:|--:|{}", "--:|".repeat(N));
    let warm = |at: usize| times.get(at).into_iter().flatten().skip(1).copied();
    for (at, (name, _)) in jobs.iter().enumerate() {
        let time = median(warm(at).collect());
        let ratio = |one| median(warm(one).zip(warm(at)).map(|(one, this)| one / this).collect());
        let ratios: Vec<String> = (0..N).map(|one| format!("{:.2}", ratio(one))).collect();
        #[allow(clippy::cast_precision_loss, reason = "a file of 2^52 bytes is not measured")]
        let speed = bytes as f64 / 1e6 / time;
        println!("| {name} | {:.0} ms | {speed:.0} | {} |", time * 1000.0, ratios.join(" | "));
    }
}

fn contract() -> Contract {
    Contract::read(CONTRACT).contract.expect("the demo's contract is right")
}

fn threads(threads: usize) -> NonZero<usize> {
    NonZero::new(threads).expect("at least one thread")
}

/// Checks a file, or a text in memory as if it were one.
fn check(contract: &Contract, file: impl Read + Seek + Send, count: usize) -> u64 {
    let mut check = Check::new(contract);
    check.threads(threads(count));
    let ledger = check.recording(Source::file(file), 0);
    assert_eq!(ledger.losses.count, 0);
    ledger.judged
}

/// A check by a program as it was built, which has to find something.
fn run(program: &Path, file: &Path) -> u64 {
    let contract = concat!(env!("CARGO_MANIFEST_DIR"), "/../cli/demo/error-contract.toml");
    let mut command = Command::new(program);
    command.args(["check", "--threads", "2", "--contract", contract]).arg(file);
    let status = command.stdout(Stdio::null()).stderr(Stdio::null()).status();
    assert_eq!(status.expect("a program").code(), Some(1));
    1
}

/// Does the same on two threads, which shows what the second processor is worth just then.
fn twice(work: impl Fn() -> u64 + Sync) -> u64 {
    std::thread::scope(|scope| {
        let other = scope.spawn(&work);
        work() + other.join().unwrap_or_default()
    })
}

/// Cuts a recording into its exchanges, and reads each if that is asked for.
fn cut(recording: &str, reads: bool) -> u64 {
    let opening = Opening { leaps: true, ..Opening::default() };
    let mut cutter = open(Source::of(recording.as_bytes()), 0, opening);
    let (mut batch, mut count) = (Batch::default(), 0);
    while cutter.next(&mut batch) {
        for piece in batch.pieces() {
            count += u64::from(!reads || batch.exchange(piece, 0).is_ok());
        }
    }
    count
}

/// A survey, and how many errors it counted.
fn survey(bare: &Contract, recording: &str, count: usize) -> u64 {
    let pass = Pass::with(threads(count));
    let all = pass.over(Source::file(Cursor::new(recording)), 0, || || Gathered::new(bare));
    let mut sum = Gathered::new(bare);
    all.into_iter().for_each(|gathered| sum.add(gathered));
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

/// The check of usual recordings.
fn usual() {
    let contract = contract();
    let program = std::env::var_os(PROGRAM);
    for (name, form) in [
        ("HAR, 500 MB", Form::Compact),
        ("pretty HAR, 500 MB", Form::Pretty),
        ("lines, 500 MB", Form::Lines),
    ] {
        let recording = Traffic::new(form, Mixture::Usual, 500_000_000).all();
        let mut file = NamedTempFile::new().expect("a file");
        file.write_all(recording.as_bytes()).expect("room for it");
        let is_lines = form == Form::Lines;
        let opened = || File::open(file.path()).expect("the file");
        let mut jobs: Vec<Job<'_>> = vec![
            (
                "plain parse of the file, 1 thread",
                Box::new(|| plain::parse_file(file.path(), is_lines)),
            ),
            ("plain parse of text in memory", Box::new(|| plain::parse(&recording, is_lines))),
            (
                "two of these at once, each all of it",
                Box::new(|| twice(|| plain::parse(&recording, is_lines))),
            ),
            ("plain scan of text: lines counted", Box::new(|| plain::scan(&recording))),
            ("text cut into exchanges, 1 thread", Box::new(|| cut(&recording, false))),
            ("text cut and read, 1 thread", Box::new(|| cut(&recording, true))),
            ("check of the file, 1 thread", Box::new(|| check(&contract, opened(), 1))),
            ("check of the file, 2 threads", Box::new(|| check(&contract, opened(), 2))),
            ("check of text in memory", Box::new(|| check(&contract, Cursor::new(&recording), 2))),
        ];
        if let Some(program) = &program {
            jobs.push(("the program's check", Box::new(|| run(Path::new(program), file.path()))));
        }
        let than = ["times the parse of the file", "of the text"];
        measure(name, recording.len(), than, &jobs);
    }
}

/// Recordings that are as bad for speed as recordings can be.
fn odd() {
    let contract = contract();
    for (name, mixture) in [
        ("usual, 100 MB", Mixture::Usual),
        ("nothing but errors, 100 MB", Mixture::Errors),
        ("always the same finding, 100 MB", Mixture::SameFinding),
        ("bodies of 1 MB, 100 MB", Mixture::Large),
        ("twenty levels of escapes, 100 MB", Mixture::Escaped),
    ] {
        let recording = Traffic::new(Form::Compact, mixture, 100_000_000).all();
        let jobs: [Job<'_>; 2] = [
            ("plain parse, borrowed, 1 thread", Box::new(|| plain::parse(&recording, false))),
            ("check, 2 threads", Box::new(|| check(&contract, Cursor::new(&recording), 2))),
        ];
        measure(name, recording.len(), [TIMES], &jobs);
    }
}

/// A contract of 300 endpoints and 2,000 faults costs little more than the demo's.
fn large_contract() {
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
    let small = contract();
    let recording = Traffic::new(Form::Compact, Mixture::Usual, 200_000_000).all();
    let jobs: [Job<'_>; 2] = [
        ("the demo's contract", Box::new(|| check(&small, Cursor::new(&recording), 2))),
        ("300 endpoints, 2,000 faults", Box::new(|| check(&large, Cursor::new(&recording), 2))),
    ];
    measure("contracts, 200 MB", recording.len(), [TIMES], &jobs);
}

/// What else is done with a recording.
fn others() {
    let (bare, contract) = (Contract::default(), contract());
    let recording = Traffic::new(Form::Compact, Mixture::Usual, 50_000_000).all();
    let jobs: [Job<'_>; 4] = [
        ("plain parse, borrowed, 1 thread", Box::new(|| plain::parse(&recording, false))),
        ("survey, 1 thread", Box::new(|| survey(&bare, &recording, 1))),
        ("survey, 2 threads", Box::new(|| survey(&bare, &recording, 2))),
        ("compared with itself, 1 thread", Box::new(|| compared(&bare, &contract, &recording))),
    ];
    measure("other commands, 50 MB", recording.len(), [TIMES], &jobs);
}

fn main() {
    usual();
    odd();
    large_contract();
    others();
}
