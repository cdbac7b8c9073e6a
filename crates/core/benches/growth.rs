//! What grows with what: the work for n of something, and for four times as many. Where the ratio is about four, time grows as the
//! input does; docs/speed.md has the figures. And scrubbing beside a plain parse.

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
use std::io::Cursor;
use std::num::NonZero;

use faithful_clerk_check::{Check, parse_contract_with_files};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    ComparisonKind, ComparisonPlan, ComparisonSide, ComparisonSurvey, compare,
};
use faithful_clerk_insight::survey::SurveyCollector;
use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{ReadOptions, Source, Traversal};
use faithful_clerk_schema::FileLoader;
use faithful_clerk_scrub::{ScrubKey, Scrubber, collect, replace};
use faithful_clerk_testkit::{Mixture, Mould, Traffic, TrafficFormat};
use serde_json::{Value, json};
use timing::cost;

const ROUNDS: usize = 3;

/// The least processor time of some runs.
fn least(job: &dyn Fn() -> u64) -> f64 {
    (0..ROUNDS).map(|_| cost(job).processor).fold(f64::INFINITY, f64::min)
}

fn scrubbed(recording: &str, threads: usize) -> u64 {
    let (rules, options) = (SecretRules::default(), ReadOptions::default());
    let mut scrubber = Scrubber::new(&rules, ScrubKey::new(b"a key of sixteen characters"));
    let threads = NonZero::new(threads).expect("more than none");
    let bytes = recording.as_bytes();
    let mut first_copy = Vec::new();
    collect(&mut scrubber, Source::of(bytes), &options, threads, &mut first_copy)
        .expect("memory can be written");
    scrubber.begin();
    let (originals, mut sink) = ((bytes, Cursor::new(bytes)), std::io::sink());
    replace(&mut scrubber, first_copy.as_slice(), originals, threads, &mut sink)
        .expect("memory can be read");
    scrubber.report().replaced.values().sum()
}

/// An entry of HAR as a line.
fn line(url: &str, status: u16, headers: &Value, body: &str) -> String {
    let request = json!({"method": "GET", "url": url, "headers": headers});
    let content = json!({"mimeType": "application/json", "size": body.len(), "text": body});
    let response = json!({"status": status, "headers": [], "content": content});
    format!("{}\n", json!({"request": request, "response": response}))
}

/// Letters and digits that depend on a number.
fn token(number: usize, length: usize) -> String {
    let mut state = number as u64 + 1;
    let mut next = || {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
        let digit = u32::try_from(state >> 33).unwrap_or_default() % 36;
        char::from_digit(digit, 36).unwrap_or('0')
    };
    (0..length).map(|_| next()).collect()
}

fn lines(count: usize, each: impl Fn(usize) -> String) -> String {
    (0..count).map(each).collect()
}

/// The files that a contract names: every name is this one.
#[derive(Debug)]
struct OneFile(String);

impl FileLoader for OneFile {
    fn read(&self, _: &str) -> Result<Vec<u8>, String> {
        Ok(self.0.clone().into_bytes())
    }
}

fn parsed(contract: &str, file: &str) -> u64 {
    parse_contract_with_files(contract, &OneFile(file.to_owned())).diagnostics.len() as u64
}

fn checked(contract: &ErrorContract, recording: &str) -> u64 {
    let mut check = Check::new(contract);
    check.threads(NonZero::<usize>::MIN);
    check.recording(Source::of(recording.as_bytes()), 0).checked
}

fn surveyed(recording: &str) -> u64 {
    let bare = ErrorContract::default();
    let traversal = Traversal::default();
    let mut survey = SurveyCollector::new(&bare);
    traversal.visit_in_order(Source::of(recording.as_bytes()), 0, &mut survey);
    survey.data.conclude().errors
}

fn compared(recording: &str) -> u64 {
    let traversal = Traversal::default();
    let bare = ErrorContract::default();
    let survey = || {
        let mut survey = ComparisonSurvey::new(&bare);
        traversal.visit_in_order(Source::of(recording.as_bytes()), 0, &mut survey);
        survey
    };
    let plan = ComparisonPlan::of([survey(), survey()], None, ComparisonKind::Versions);
    let side = |at| {
        let mut side = ComparisonSide::new(&plan, at);
        traversal.visit_in_order(Source::of(recording.as_bytes()), 0, &mut side);
        side
    };
    compare(&plan, side(0), side(1)).counts.pairs()
}

/// Paths of a description, each with an operation.
fn description(paths: usize) -> String {
    let path = |n: usize| {
        let answers = json!({"200": {"description": "found"}, "404": {"description": "none"}});
        (format!("/quays{}/{{id}}/berths{n}", n % 100), json!({"get": {"responses": answers}}))
    };
    let paths: serde_json::Map<String, Value> = (0..paths).map(path).collect();
    let info = json!({"title": "Quays", "version": "1"});
    json!({"openapi": "3.1.0", "info": info, "paths": paths}).to_string()
}

fn faults(count: usize, is_wrong: bool) -> String {
    let mut text = "contract = 1\nservers = [\"/\"]\n".to_owned();
    for n in 0..count {
        let key = if is_wrong { "statis" } else { "status" };
        let _ = writeln!(text, "[fault.f{n}]\n{key} = 422\ncode = \"f{n}\"");
    }
    text
}

/// Aliases of aliases, each of ten of the one before.
fn aliases(count: usize) -> String {
    let mut text =
        "openapi: 3.1.0\ninfo: {title: Quays, version: \"1\"}\npaths: {}\nx-0: &a0 [quay]\n"
            .to_owned();
    for n in 1..=count {
        let _ = writeln!(text, "x-{n}: &a{n} [*a{}, *a{}]", n - 1, n - 1);
    }
    text
}

/// What is measured: its name, how many at first, and the work for a number of them.
type Growth<'g> = (&'g str, usize, Box<dyn Fn(usize) -> Box<dyn Fn() -> u64> + 'g>);

fn growths() -> Vec<Growth<'static>> {
    let none = || json!([]);
    let with_file = |make: fn(usize) -> String| {
        move |n: usize| -> Box<dyn Fn() -> u64> {
            let file = make(n);
            Box::new(move || parsed("contract = 1\nopenapi = \"api.yaml\"\n", &file))
        }
    };
    vec![
        (
            "scrub: megabytes of a gateway's traffic",
            5,
            Box::new(|n| {
                let traffic = Traffic::new(TrafficFormat::Compact, Mixture::Usual, n * 1_000_000);
                let recording = traffic.mould(Mould::Gateway).all();
                Box::new(move || scrubbed(&recording, 1))
            }),
        ),
        (
            "scrub: different tokens",
            10_000,
            Box::new(|n| {
                let headers = |n| json!([{"name": "Authorization", "value": format!("Bearer {}", token(n, 40))}]);
                let recording = lines(n, |n| line("https://h.example/a", 200, &headers(n), "{}"));
                Box::new(move || scrubbed(&recording, 1))
            }),
        ),
        (
            "scrub: bytes of one token",
            1_000_000,
            Box::new(move |n| {
                let body = json!({"token": token(1, n)}).to_string();
                let recording = line("https://h.example/a", 200, &none(), &body);
                Box::new(move || scrubbed(&recording, 1))
            }),
        ),
        (
            "survey: segments of one path",
            10_000,
            Box::new(move |n| {
                let url = format!("https://h.example{}", "/a".repeat(n));
                let recording = line(&url, 404, &none(), "{}");
                Box::new(move || surveyed(&recording))
            }),
        ),
        (
            "compare: different bodies",
            10_000,
            Box::new(move |n| {
                let recording = lines(n, |n| {
                    line(
                        &format!("https://h.example/a/{n}"),
                        200,
                        &none(),
                        &format!("{{\"k{}\": 1}}", token(n, 9)),
                    )
                });
                Box::new(move || compared(&recording))
            }),
        ),
        ("a description: paths", 2_500, Box::new(with_file(description))),
        ("a description: aliases of aliases", 2_000, Box::new(with_file(aliases))),
        (
            "a contract: faults",
            10_000,
            Box::new(|n| {
                let text = faults(n, false);
                Box::new(move || parsed(&text, ""))
            }),
        ),
        (
            "a contract: mistakes",
            2_500,
            Box::new(|n| {
                let text = faults(n, true);
                Box::new(move || parsed(&text, ""))
            }),
        ),
        (
            "check: members of one error",
            50_000,
            Box::new(move |n| {
                let members: serde_json::Map<String, Value> =
                    (0..n).map(|n| (format!("m{n}"), json!("is wrong"))).collect();
                let body =
                    json!({"title": "Invalid", "status": 422, "errors": members}).to_string();
                let recording = line("https://h.example/a", 422, &none(), &body);
                let contract = parse_contract_with_files(
                    "contract = 1\nservers = [\"/\"]\n[error]\nmedia = \"application/json\"\n",
                    &OneFile(String::new()),
                );
                let contract = contract.contract.expect("this contract is right");
                Box::new(move || checked(&contract, &recording))
            }),
        ),
    ]
}

/// Scrubbing, beside a plain parse of the same bytes.
fn beside_a_plain_parse() {
    println!(
        "\n| traffic, 50 MB | plain parse | scrub, 1 thread | of the plain parse | 2 threads, elapsed, of the plain parse's |"
    );
    println!("|---|--:|--:|--:|--:|");
    for (name, mould) in [
        ("a gateway", Mould::Gateway),
        ("developer tools", Mould::DevTools),
        ("a proxy, bodies in base64", Mould::Proxy),
        ("every entry different", Mould::Ragged),
    ] {
        let traffic = Traffic::new(TrafficFormat::Compact, Mixture::Usual, 50_000_000);
        let recording = traffic.mould(mould).all();
        let plain = least(&|| plain::parse(&recording, false));
        let one = least(&|| scrubbed(&recording, 1));
        let two = (0..ROUNDS).map(|_| cost(&|| scrubbed(&recording, 2)).elapsed);
        let two = two.fold(f64::INFINITY, f64::min);
        println!(
            "| {name} | {:.0} ms | {:.0} ms | {:.1} | {:.1} |",
            plain * 1e3,
            one * 1e3,
            one / plain,
            two / plain
        );
    }
}

fn main() {
    let only = std::env::args().skip(1).find(|argument| !argument.starts_with('-'));
    let is_meant = |name: &str| only.as_ref().is_none_or(|only| name.contains(only.as_str()));
    println!("| what grows | n | at n | at 4n | ratio |\n|---|--:|--:|--:|--:|");
    for (name, n, work) in growths() {
        if is_meant(name) {
            let [few, many] = [n, 4 * n].map(|n| least(&*work(n)));
            println!(
                "| {name} | {n} | {:.1} ms | {:.1} ms | {:.1} |",
                few * 1e3,
                many * 1e3,
                many / few
            );
        }
    }
    if is_meant("scrub beside a plain parse") {
        beside_a_plain_parse();
    }
}
