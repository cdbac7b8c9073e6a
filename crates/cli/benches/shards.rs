//! What parts cost beside one run: a part of 25 MB beside its share of 100 MB, ledgers merged by their number, and lines that
//! a map reads beside those that need none. docs/scale.md has the figures. The built program is run, starting it included.

#![allow(
    clippy::expect_used,
    clippy::print_stdout,
    clippy::disallowed_methods,
    missing_docs,
    reason = "a benchmark, no interface"
)]

use std::io::Read as _;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Instant;

use faithful_clerk_testkit::{Mixture, Mould, Traffic, TrafficFormat};

const ROUNDS: usize = 7;
const PARTS: usize = 4;
const MEGABYTES: usize = 25;

/// A map of lines that are entries of HAR.
const MAP: &str = r#"[request]
method  = "/request/method"
url     = "/request/url"
headers = "/request/headers"
body    = "/request/postData/text"
[response]
status  = "/response/status"
headers = "/response/headers"
body    = { at = "/response/content/text", base64 = "/response/content/encoding" }
[time]
duration = { at = "/time", unit = "ms" }
"#;

/// Runs the program in a folder, and gives how many seconds it took.
fn run(folder: &Path, call: &str) -> f64 {
    let start = Instant::now();
    let mut command = Command::new(env!("CARGO_BIN_EXE_fclerk"));
    command.current_dir(folder).args(call.split_whitespace()).stderr(Stdio::null());
    let output = command.output().expect("the program runs");
    assert!(matches!(output.status.code(), Some(0 | 1)), "{call}: {:?}", output.status);
    start.elapsed().as_secs_f64()
}

/// The least of some runs of each call, taken in turns, since a machine's speed drifts.
fn least(folder: &Path, calls: &[String]) -> Vec<f64> {
    let mut least = vec![f64::INFINITY; calls.len()];
    for _ in 0..ROUNDS {
        for (least, call) in least.iter_mut().zip(calls) {
            *least = least.min(run(folder, call));
        }
    }
    least
}

fn main() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let folder = folder.path();
    run(folder, "demo --files-only --output .");
    std::fs::write(folder.join("map.toml"), MAP).expect("the folder can be written to");
    for (name, mould) in
        [("gateway", Mould::Gateway), ("proxy", Mould::Proxy), ("devtools", Mould::DevTools)]
    {
        let mut whole = Vec::new();
        for part in 0..PARTS {
            let traffic = Traffic::new(TrafficFormat::Lines, Mixture::Usual, MEGABYTES * 1_000_000);
            let mut text = Vec::new();
            let mut traffic = traffic.seeded(part as u64 + 1).mould(mould);
            traffic.read_to_end(&mut text).expect("made-up traffic");
            std::fs::write(folder.join(format!("part-{part}")), &text).expect("room for 25 MB");
            whole.extend(text);
        }
        std::fs::write(folder.join("whole"), whole).expect("room for 100 MB");
        let check = |of: &str| format!("check {of} --from jsonl --ledger --threads 1");
        let mapped = "check whole --map map.toml --ledger --threads 1".to_owned();
        let mut calls = vec![check("whole"), mapped];
        calls.extend((0..PARTS).map(|part| check(&format!("part-{part}"))));
        if let [one, mapped, parts @ ..] = least(folder, &calls).as_slice() {
            println!(
                "{name:>8}: {PARTS} parts of {MEGABYTES} MB take {:.3} of one run ({one:.2} s); with a map it takes {:.2}",
                parts.iter().sum::<f64>() / one,
                mapped / one
            );
        }
    }
    let lines = std::fs::read_to_string(folder.join("part-0")).expect("it was written");
    let mut lines = lines.lines().cycle();
    for (name, count) in [("few", 1250), ("many", 5000)] {
        std::fs::create_dir(folder.join(name)).expect("a new folder");
        for part in 0..count {
            let text: Vec<&str> = lines.by_ref().take(2).collect();
            std::fs::write(folder.join("lines"), text.join("\n")).expect("room for two lines");
            let call = format!(
                "check lines --from jsonl --report ledger={name}/{part} -q --name part-{part}"
            );
            run(folder, &call);
        }
    }
    let merge = |name: &str| format!("merge {name} --allow-duplicates --ledger");
    if let [few, many] = least(folder, &[merge("few"), merge("many")]).as_slice() {
        println!(
            "merging 5,000 ledgers takes {:.2} of merging 1,250 ({few:.2} and {many:.2} s)",
            many / few
        );
    }
}
