//! `fclerk scrub`: a copy of recordings without their secrets.

use std::io::Read as _;
use std::path::{Path, PathBuf};

use faithful_clerk_model::secret::SecretRules;
use faithful_clerk_recording::{ReadOptions, Source, unpack};
use faithful_clerk_report::text::counted;
use faithful_clerk_scrub::{ScrubKey, Scrubber, collect, replace};
use indicatif::ProgressBar;
use tempfile::NamedTempFile;

use crate::blanks::print_blanks;
use crate::contracts::contract_if_any;
use crate::exit::{Completion, Failure};
use crate::flags::{OutputSettings, ScrubArgs};
use crate::inputs::{Input, inputs};
use crate::output::{OutputTarget, Readers, print_error};

pub(crate) fn run(args: &ScrubArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let contract = contract_if_any(args.contract.as_deref(), settings.stderr)?
        .map(|expected| expected.contract);
    let none = SecretRules::default();
    let rules = contract.as_ref().map_or(&none, |contract| &contract.secret);
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
    let mut scrubber = Scrubber::new(rules, key(args.key_env.as_deref())?);
    let opening = args.opened.opening();
    let mut copies = Vec::new();
    for input in &inputs {
        let copy = copied(input)?;
        collect(&mut scrubber, reading(&copy)?, opening);
        copies.push(copy);
    }
    scrubber.begin();
    for (copy, target) in copies.iter().zip(&targets) {
        write(&mut scrubber, copy, target.as_deref(), opening)?;
    }
    report(&scrubber);
    Ok(match (wrong.is_empty(), scrubber.blanks().is_empty()) {
        (false, _) => Completion::CallWrong,
        (true, false) => Completion::NotAllRead,
        (true, true) => Completion::Kept,
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
    let mut copy = NamedTempFile::new().map_err(fail)?;
    std::io::copy(&mut unpack(source), &mut copy).map_err(fail)?;
    Ok(copy)
}

fn reading(copy: &NamedTempFile) -> Result<Source<'static>, Failure> {
    copy.reopen().map(Source::of).map_err(Failure::Output)
}

fn write(
    scrubber: &mut Scrubber<'_>,
    copy: &NamedTempFile,
    target: Option<&Path>,
    opening: ReadOptions,
) -> Result<(), Failure> {
    let mut target = OutputTarget::open(target, Readers::ByUmask)?;
    let mut file = std::fs::OpenOptions::new()
        .read(true)
        .write(true)
        .open(copy.path())
        .map_err(Failure::Output)?;
    replace(scrubber, reading(copy)?, opening, &mut file).map_err(Failure::Output)?;
    let mut scrubbed = copy.reopen().map_err(Failure::Output)?;
    std::io::copy(&mut scrubbed.by_ref(), &mut target).map_err(Failure::Output)?;
    target.close()
}

/// What was replaced, by kind and place.
fn report(scrubber: &Scrubber<'_>) {
    let all: u64 = scrubber.replaced().values().sum();
    print_error(&match all {
        0 => "no secret was found; nothing was replaced".to_owned(),
        all => format!("{} replaced", counted(all, "secret")),
    });
    for ((kind, location), count) in scrubber.replaced() {
        print_error(&format!("  {count} × {}, {location}", kind.name()));
    }
    print_blanks(scrubber);
}
