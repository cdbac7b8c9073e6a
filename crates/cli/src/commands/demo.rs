//! `fclerk demo`: a made-up harbour, and what one would do with it, in order: its service as it was is probed and
//! checked, fixed, probed again, and compared.

use std::collections::BTreeMap;
use std::fs;
use std::net::Ipv4Addr;
use std::path::Path;
use std::time::Duration;

use faithful_clerk_harbour::{Edition, TOKEN, serve};
use faithful_clerk_insight::probe::{PlanBounds, ProbePlan};
use faithful_clerk_live::{KeptValues, SendSettings};
use faithful_clerk_report::text;
use tokio::net::TcpListener;
use tokio::runtime::Runtime;

use super::probe::sent;
use super::tour::{Tour, TourRecording};
use crate::exit::{Completion, Failure};
use crate::flags::{DEMO_PORT, DemoArgs, OutputSettings};
use crate::output::{print_error, print_result, write_new, write_over};

/// The files of the demo. They are in the binary, so it needs nothing else.
const FILES: [(&str, &str); 3] = [
    ("error-contract.toml", include_str!("../../demo/error-contract.toml")),
    ("before.har", include_str!("../../demo/before.har")),
    ("after.har", include_str!("../../demo/after.har")),
];

/// The recordings that are made on the way; they are made anew each time.
const PROBED: [&str; 2] = ["probe-before.jsonl", "probe-after.jsonl"];

/// A berth that there is.
const BERTH: &str = "A-3";

/// What the tour lays out: a berth that is not there, and the service fell over it.
const CLOSE: &str = "case unknown-berth";

/// The harbour answers at once, or never.
const DEADLINE: Duration = Duration::from_millis(400);

pub(crate) fn run(args: &DemoArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    if let Some(state) = args.serve {
        return super::serve::run(state, args.port, args.per_second);
    }
    write(&args.output)?;
    let folder = args.output.display().to_string();
    if args.files_only {
        print_error(&format!("the harbour's contract and its recordings are in {folder}"));
        return Ok(Completion::Kept);
    }
    let (contract_name, text) = FILES[0];
    let parsed = faithful_clerk_check::parse_contract(text);
    let contract =
        parsed.contract.ok_or_else(|| Failure::Call(format!("{contract_name} has mistakes")))?;
    let prose = |words: &str| text::paragraph(words, settings.stdout);
    print_result(&prose(&format!("This takes a few seconds; its files are in {folder}/.")))?;
    print_result(&format!("\n{}", prose(HARBOUR)))?;
    let values = BTreeMap::from([("berth_id".to_owned(), BERTH.to_owned())]);
    let plan = ProbePlan::of(&contract, &values, PlanBounds::default());
    let before = probed(Edition::Before, &plan)?;
    let after = probed(Edition::After, &plan)?;
    for (name, text) in PROBED.iter().zip([&before, &after]) {
        write_over(&args.output.join(name), text)?;
    }
    let [before, after] = [(PROBED[0], &before), (PROBED[1], &after)]
        .map(|(name, text)| TourRecording { name, text });
    let is_close = |line: &str| {
        let entry: serde_json::Value = serde_json::from_str(line).unwrap_or_default();
        entry["comment"] == CLOSE
    };
    let close = before.text.lines().position(is_close).unwrap_or_default() as u64 + 1;
    let tour = Tour { contract: &contract, settings };
    let probe = |save: &str| {
        format!(
            "probe --base-url http://127.0.0.1:{DEMO_PORT}/v1 --allow-writes --set berth_id={BERTH} --timeout 1 --output {save}"
        )
    };
    let steps = [
        (
            probe(before.name),
            "send every request that must be refused",
            prose(&told(&plan, "The responses are recorded.")),
        ),
        (
            format!("survey --contract {contract_name} {}", before.name),
            "see what its errors look like",
            tour.survey(before),
        ),
        (format!("check {}", before.name), "check them against the contract", tour.check(before)),
        (
            format!("show {}#{close}", before.name),
            "read one of them closely",
            tour.show(before, close),
        ),
        (
            probe(after.name),
            "the service was fixed: probe it again",
            prose(&told(&plan, "The same requests as before, so that the two can be compared.")),
        ),
        (format!("check {}", after.name), "check it again", tour.check(after)),
        (
            format!("compare {} {}", before.name, after.name),
            "compare each response with the one before",
            format!("{}\n{}", tour.compare(before, after), prose(LET_IN)),
        ),
        (
            "compare before.har after.har".to_owned(),
            "and in a day of ordinary traffic, did a success break?",
            tour.compare(
                TourRecording { name: FILES[1].0, text: FILES[1].1 },
                TourRecording { name: FILES[2].0, text: FILES[2].1 },
            ),
        ),
        (
            format!("coverage {}", after.name),
            "see which situations are not covered yet",
            tour.coverage(after),
        ),
    ];
    for (number, (command, asks, result)) in (1..).zip(&steps) {
        print_result(&format!("\n── {number}. {asks} ──\n\n$ fclerk {command}\n\n{result}"))?;
    }
    let commands = steps.iter().map(|(command, ..)| command.as_str());
    print_result(&suggestions(&settings.program, &folder, commands))?;
    print_result(&prose(THEN))?;
    Ok(Completion::Kept)
}

const HARBOUR: &str = "Saltmarsh Harbour lets berths. Its service runs inside this program: first as it was, then with its errors fixed. Each step below is one command that you would run, with its output shortened.";

const THEN: &str = "Now change a line of error-contract.toml and check again. `fclerk explain CLAUSE` says what a clause asks, and why. `fclerk draft before.har` writes a contract from that recording alone.";

const LET_IN: &str = "One of those that were fixed: a wrong token used to be let in. No request shows that its token is wrong; the probe writes down what it meant by each, so every later command knows.";

/// What was planned, and sent.
fn told(plan: &ProbePlan, more: &str) -> String {
    let writes = plan.requests.iter().filter(|planned| planned.can_write()).count();
    format!(
        "{} requests, planned from the contract alone: malformed JSON, a missing member, each rule broken in turn, no token, a method that is not allowed, an unknown id. {writes} of them could change data if the service accepted them. {more}",
        plan.requests.len()
    )
}

/// Serves the harbour on loopback, sends it all that is planned, and gives the recording.
fn probed(state: Edition, plan: &ProbePlan) -> Result<String, Failure> {
    let fail = |error: std::io::Error| {
        Failure::Call(format!("can't serve the harbour on 127.0.0.1: {error}"))
    };
    let runtime = Runtime::new().map_err(Failure::Output)?;
    let listener = runtime.block_on(async {
        // The usual port; any other, if it is in use.
        match TcpListener::bind((Ipv4Addr::LOCALHOST, DEMO_PORT)).await {
            Ok(listener) => Ok(listener),
            Err(_) => TcpListener::bind((Ipv4Addr::LOCALHOST, 0)).await,
        }
    });
    let listener = listener.map_err(fail)?;
    let port = listener.local_addr().map_err(fail)?.port();
    let base = format!("http://127.0.0.1:{port}/v1");
    runtime.spawn(serve(listener, state, None, std::future::pending()));
    let settings = SendSettings {
        run: super::probe::new_run()?,
        base,
        credentials: vec![("Authorization".to_owned(), format!("Bearer {TOKEN}"))],
        timeout: DEADLINE,
        parallel: 1,
        per_second: 10_000,
        most_failures: usize::MAX,
    };
    let mut recording = String::new();
    sent(settings, plan, KeptValues::default(), |entry| {
        recording.push_str(entry);
        recording.push('\n');
    })?;
    // Requests that never get a response are not waited for.
    runtime.shutdown_background();
    Ok(recording)
}

/// The same in full, for a shell, in a folder of its own below that of the demo's files.
fn suggestions<'s>(program: &str, folder: &str, commands: impl Iterator<Item = &'s str>) -> String {
    let mut text = format!(
        "\nThe same in full, in a shell:\n  mkdir {folder}/again && cd {folder}/again\n  export HARBOUR_TOKEN={TOKEN}\n"
    );
    let mut is_served = false;
    for command in commands {
        if command.starts_with("probe ") {
            let state = if is_served { "after" } else { "before" };
            if is_served {
                text.push_str("  kill $!; wait\n");
            }
            text.push_str(&format!("  {program} demo --serve {state} &\n  sleep 2\n"));
            is_served = true;
        }
        let words =
            command.split(' ').map(|word| match FILES.iter().any(|(name, _)| *name == word) {
                true => format!("../{word}"),
                false => word.to_owned(),
            });
        text.push_str(&format!("  {program} {}\n", words.collect::<Vec<_>>().join(" ")));
    }
    text.push_str("  kill $!; wait\n\n");
    text
}

/// Writes the files, each whole or not at all. A file that was changed is not written over.
fn write(folder: &Path) -> Result<(), Failure> {
    let fail = |path: &Path, error: &std::io::Error| {
        Failure::Call(format!("can't write {}: {error}", path.display()))
    };
    fs::create_dir_all(folder).map_err(|error| fail(folder, &error))?;
    let mut kept = Vec::new();
    for (name, text) in FILES {
        let path = folder.join(name);
        match fs::read(&path) {
            Ok(there) if there == text.as_bytes() => {}
            Ok(_) => kept.push(path),
            Err(_) => write_new(&path, text)?,
        }
    }
    for path in kept {
        print_error(&format!("{} was changed since; not overwritten", path.display()));
    }
    Ok(())
}
