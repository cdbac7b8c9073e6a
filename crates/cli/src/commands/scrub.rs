//! `fclerk scrub`: a copy of recordings without their secrets.

use std::fs::File;
use std::io::{BufReader, BufWriter};
use std::num::NonZero;
use std::path::{Path, PathBuf};

use faithful_clerk_model::secret::{RandomForm, SecretRules};
use faithful_clerk_recording::{Source, unpack};
use faithful_clerk_report::text::counted;
use faithful_clerk_scrub::{PlaceCounts, ScrubKey, ScrubReport, Scrubber, collect, replace};
use indicatif::ProgressBar;
use tempfile::NamedTempFile;

use crate::blanks::print_blanks;
use crate::contracts::contract_if_any;
use crate::exit::{Completion, Failure};
use crate::flags::{OutputSettings, ScrubArgs};
use crate::inputs::{Input, inputs};
use crate::output::{OutputTarget, Readers, print_error};
use crate::recordings::threads;
use crate::temporary::temporary;

/// So much of a file is read or written at once.
const BUFFER: usize = 256 << 10;

/// So many places of what was left are named.
const MOST_LEFT: usize = 20;

pub(crate) fn run(args: &ScrubArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let contract = contract_if_any(args.contract.as_deref(), settings.stderr)?
        .map(|expected| expected.contract);
    let none = SecretRules::default();
    let rules = contract.as_ref().map_or(&none, |contract| &contract.secret);
    if args.opened.map.is_some() {
        let why = "what a map reads can't be scrubbed in its own form; convert it first: `fclerk convert --map FILE --to jsonl`";
        return Err(Failure::Call(why.to_owned()));
    }
    let (inputs, wrong) = inputs(&args.recordings, args.opened.from);
    for message in &wrong {
        print_error(message);
    }
    // Of a pair, each file is scrubbed by itself.
    let inputs: Vec<Input> = inputs.into_iter().flat_map(Input::each).collect();
    if inputs.is_empty() {
        return Err(Failure::Said);
    }
    let targets = targets(&inputs, args.output.as_deref())?;
    let key = key(args.key_env.as_deref())?;
    let mut scrubber = Scrubber::new(rules, key).personal(args.personal);
    let (opening, threads) = (args.opened.opening(), threads(args.threads));
    let mut read = Vec::new();
    for input in &inputs {
        let original = copied(input)?;
        let first_copy = temporary_file()?;
        let mut writer = BufWriter::with_capacity(BUFFER, &first_copy);
        let source = Source::of(again(&original)?);
        collect(&mut scrubber, source, &opening, threads, &mut writer).map_err(Failure::Output)?;
        drop(writer);
        read.push((original, first_copy));
    }
    scrubber.begin();
    let mut reports = Vec::new();
    for ((read, input), target) in read.iter().zip(&inputs).zip(&targets) {
        let report = write(&mut scrubber, read, target.as_deref(), threads)?;
        reports.push((input.name(), report));
    }
    let is_one = reports.len() == 1;
    let is_blanked = reports.iter().any(|(_, report)| !report.blanks.is_empty());
    for (name, report) in &reports {
        if !is_one {
            print_error(&format!("{name}:"));
        }
        print_report(report);
    }
    Ok(match (wrong.is_empty(), is_blanked) {
        (false, _) => Completion::CallWrong,
        (true, true) => Completion::NotAllRead,
        (true, false) => Completion::Kept,
    })
}

/// Where each recording goes: one into the file or standard output, several into a folder.
fn targets(inputs: &[Input], into: Option<&Path>) -> Result<Vec<Option<PathBuf>>, Failure> {
    let Some(into) = into else {
        return match inputs {
            [_] => Ok(vec![None]),
            _ => Err(Failure::Call(
                "several recordings need a folder: use --output FOLDER".to_owned(),
            )),
        };
    };
    if inputs.len() == 1 && !into.is_dir() {
        return Ok(vec![Some(into.to_owned())]);
    }
    std::fs::create_dir_all(into)
        .map_err(|error| Failure::Call(format!("{}: {error}", into.display())))?;
    let named = |input: &Input| match input {
        Input::Standard => into.join("standard-input"),
        Input::File(path) | Input::Pair(path, _) => into.join(path.file_name().unwrap_or_default()),
    };
    let targets: Vec<PathBuf> = inputs.iter().map(named).collect();
    for (at, target) in targets.iter().enumerate() {
        if targets.get(..at).is_some_and(|before| before.contains(target)) {
            let message = format!("two recordings would be written to {}", target.display());
            return Err(Failure::Call(message));
        }
    }
    Ok(targets.into_iter().map(Some).collect())
}

/// The key of the marks: from the environment, so that marks are the same the next time; else of chance.
pub(super) fn key(from: Option<&str>) -> Result<ScrubKey, Failure> {
    if let Some(name) = from {
        return match std::env::var(name) {
            Ok(value) if value.len() >= 16 => Ok(ScrubKey::new(value)),
            Ok(_) => Err(Failure::Call(format!("the key in {name} is shorter than 16 characters"))),
            Err(_) => Err(Failure::Call(format!("the environment variable {name} is not set"))),
        };
    }
    let mut bytes = [0; 32];
    getrandom::fill(&mut bytes)
        .map_err(|error| Failure::Call(format!("the system's random source failed: {error}")))?;
    Ok(ScrubKey::new(bytes))
}

/// The bytes of a recording in a file of their own, unpacked.
fn copied(input: &Input) -> Result<NamedTempFile, Failure> {
    let fail = |error: std::io::Error| Failure::Call(format!("{}: {error}", input.name()));
    let source = input.open(&ProgressBar::hidden()).map_err(fail)?;
    let mut copy = temporary_file()?;
    std::io::copy(&mut unpack(source), &mut copy).map_err(fail)?;
    Ok(copy)
}

fn temporary_file() -> Result<NamedTempFile, Failure> {
    temporary(&tempfile::Builder::new(), None).map_err(Failure::Output)
}

/// A file from its start.
fn again(file: &NamedTempFile) -> Result<File, Failure> {
    file.reopen().map_err(Failure::Output)
}

fn write(
    scrubber: &mut Scrubber<'_>,
    (original, first_copy): &(NamedTempFile, NamedTempFile),
    target: Option<&Path>,
    threads: NonZero<usize>,
) -> Result<ScrubReport, Failure> {
    let mut target = OutputTarget::open(target, Readers::ByUmask)?;
    let buffered = |file| Ok(BufReader::with_capacity(BUFFER, again(file)?));
    let originals = (buffered(original)?, again(original)?);
    replace(scrubber, buffered(first_copy)?, originals, threads, &mut target)
        .map_err(Failure::Output)?;
    target.close()?;
    Ok(scrubber.take_report())
}

/// What was replaced and left, by kind and place, and what was blanked.
fn print_report(report: &ScrubReport) {
    let replaced: u64 = report.replaced.values().sum();
    print_error(&match replaced {
        0 => "no secret was found; nothing was replaced".to_owned(),
        replaced => format!("{} replaced", counted(replaced, "secret")),
    });
    for ((kind, place), count) in &report.replaced {
        print_error(&format!("  {count} × {}, {place}", kind.name()));
    }
    print_blanks(&report.blanks);
    print_left(&report.left);
}

/// What was left though it looks random, what is most often first.
fn print_left(left: &PlaceCounts<RandomForm>) {
    let all: u64 = left.values().sum();
    if all == 0 {
        return;
    }
    print_error(&format!(
        "{} random and were left, since nothing else says that they are secrets; declare any that are secrets under [secret] in the contract",
        match all {
            1 => "1 string looks".to_owned(),
            all => format!("{all} strings look"),
        }
    ));
    let mut places: Vec<_> = left.iter().collect();
    places.sort_by_key(|(_, count)| std::cmp::Reverse(**count));
    for ((form, place), count) in places.iter().take(MOST_LEFT) {
        print_error(&format!("  {count} × {form}, {place}"));
    }
    if let Some(more) = places.len().checked_sub(MOST_LEFT).filter(|more| *more > 0) {
        print_error(&format!("  … and in {}", counted(more as u64, "more place")));
    }
}
