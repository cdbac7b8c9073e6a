//! The recordings of a call: opened one by one, with what is wrong said on the way.

use std::collections::BTreeSet;
use std::io::IsTerminal as _;
use std::num::NonZero;
use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};

use faithful_clerk_check::ledger::{LedgerOrigin, LedgerSources};
use faithful_clerk_recording::{Source, UnreadableParts};
use faithful_clerk_report::RecordingNames;
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

use crate::exit::{Completion, Failure};
use crate::flags::{FormatArgs, PartArgs};
use crate::inputs::{Input, RereadableInput, inputs};
use crate::output::print_error;

/// A recording smaller than this is read before anybody can look.
const SLOW: u64 = 8 << 20;

/// The recordings of a call.
#[derive(Debug)]
pub(crate) struct RecordingInputs {
    inputs: Vec<RereadableInput>,
    /// Their names, for addresses.
    pub(crate) names: Vec<String>,
    /// The digests of what was read of each, where that is asked for and there was anything.
    pub(crate) digests: Vec<Option<String>>,
    has_digests: bool,
    /// How the call stands so far.
    outcome: Completion,
}

impl RecordingInputs {
    /// What the arguments mean; what is wrong with one of them is said. At least one has to be left.
    pub(crate) fn of(arguments: &[PathBuf], opened: &FormatArgs) -> Result<Self, Failure> {
        let recordings = Self::of_some(arguments, opened);
        if recordings.inputs.is_empty() { Err(Failure::Said) } else { Ok(recordings) }
    }

    /// The same, where none need be left.
    pub(crate) fn of_some(arguments: &[PathBuf], opened: &FormatArgs) -> Self {
        let (inputs, wrong) = inputs(arguments, opened.format());
        let mut recordings = Self::none();
        for message in &wrong {
            print_error(message);
            recordings.outcome = Completion::CallWrong;
        }
        inputs.into_iter().for_each(|input| recordings.add(input));
        recordings
    }

    fn none() -> Self {
        let (inputs, names, digests) = Default::default();
        Self { inputs, names, digests, has_digests: false, outcome: Completion::Kept }
    }

    /// Calls the only recording what the call says that it is, or is a part of.
    pub(crate) fn name(&mut self, part: &PartArgs) -> Result<(), Failure> {
        let Some(name) = part.name.as_ref().or(part.part_of.as_ref()) else { return Ok(()) };
        let [own] = self.names.as_mut_slice() else {
            let why = "--name and --part-of name one recording, and there are others";
            return Err(Failure::Call(why.to_owned()));
        };
        own.clone_from(name);
        Ok(())
    }

    /// What a ledger is of; the recordings are named only where anything was in one.
    pub(crate) fn sources(&self, origin: LedgerOrigin) -> LedgerSources {
        let digests: BTreeSet<String> = self.digests.iter().flatten().cloned().collect();
        let recordings = if digests.is_empty() { Vec::new() } else { self.names.clone() };
        LedgerSources { origin, recordings, digests }
    }

    /// From now on, digests are made of what is read.
    pub(crate) fn digest(&mut self) {
        self.has_digests = true;
    }

    /// One recording that this call made itself.
    pub(crate) fn of_one(input: Input) -> Self {
        let mut recordings = Self::none();
        recordings.add(input);
        recordings
    }

    /// One more, behind the others.
    pub(crate) fn add(&mut self, input: Input) {
        self.names.push(input.name());
        self.inputs.push(RereadableInput::Input(input));
    }

    /// Sees to it that each can be read more than once.
    pub(crate) fn keep(&mut self) -> Result<(), Failure> {
        for (input, name) in self.inputs.iter_mut().zip(&self.names) {
            if let RereadableInput::Input(Input::Standard) = input {
                *input = RereadableInput::of(&Input::Standard)
                    .map_err(|error| Failure::Call(format!("{name}: {error}")))?;
            }
        }
        Ok(())
    }

    /// Opens one of them once more; one that can't be any more is left out.
    pub(crate) fn again(&self, recording: u32) -> Option<Source<'static>> {
        let input = self.inputs.get(usize::try_from(recording).ok()?)?;
        input.open(&ProgressBar::hidden()).ok()
    }

    /// Opens one after the other. One that can't be opened is said, and the others go on.
    pub(crate) fn each(&mut self, mut look: impl FnMut(Source<'static>, u32)) {
        for (recording, (input, name)) in (0..).zip(self.inputs.iter().zip(&self.names)) {
            let bar = progress(input.size(), name);
            crate::output::step(format_args!("reading {name}"));
            match input.open(&bar) {
                Ok(source) if self.has_digests => {
                    let digest = Arc::new(Mutex::new((blake3::Hasher::new(), 0_u64)));
                    let read = Arc::clone(&digest);
                    let observe = move |bytes: &[u8]| {
                        let mut digest = read.lock().unwrap_or_else(PoisonError::into_inner);
                        digest.0.update(bytes);
                        digest.1 += bytes.len() as u64;
                    };
                    look(source.observed(observe), recording);
                    let digest = digest.lock().unwrap_or_else(PoisonError::into_inner);
                    let is_any = digest.1 > 0;
                    self.digests.push(is_any.then(|| digest.0.finalize().to_hex().to_string()));
                    bar.finish_and_clear();
                }
                Ok(source) => {
                    look(source, recording);
                    bar.finish_and_clear();
                }
                Err(error) => {
                    print_error(&format!("{name}: {error}"));
                    self.outcome = Completion::CallWrong;
                }
            }
        }
    }

    /// Says what was lost, and gives the outcome: what is wrong with the call or the recordings goes before
    /// what was found.
    pub(crate) fn outcome(
        &self,
        unreadable: &UnreadableParts,
        found: Completion,
        allows_unread: bool,
    ) -> Completion {
        print_unreadable(unreadable, RecordingNames(&self.names));
        match self.outcome {
            Completion::Kept if unreadable.count > 0 && !allows_unread => Completion::NotAllRead,
            Completion::Kept => found,
            outcome => outcome,
        }
    }
}

/// The outcome of what ledgers came to, whose recordings are elsewhere. What could not be read goes before what was found.
pub(crate) fn outcome_of_ledgers(
    unreadable: &UnreadableParts,
    names: RecordingNames<'_>,
    found: Completion,
    allows_unread: bool,
) -> Completion {
    print_unreadable(unreadable, names);
    if unreadable.count > 0 && !allows_unread { Completion::NotAllRead } else { found }
}

/// Says what could not be read.
pub(crate) fn print_unreadable(unreadable: &UnreadableParts, names: RecordingNames<'_>) {
    for unreadable in &unreadable.first {
        print_error(&unreadable.told(names));
    }
    let more = unreadable.count - unreadable.first.len() as u64;
    if more > 0 {
        print_error(&format!("and {more} more that could not be read"));
    }
}

/// A bar on a terminal, for a recording that takes a while.
pub(crate) fn progress(size: Option<u64>, name: &str) -> ProgressBar {
    match size {
        Some(length) if length >= SLOW && std::io::stderr().is_terminal() => {
            let bar = ProgressBar::with_draw_target(Some(length), ProgressDrawTarget::stderr());
            let name: String = name.chars().filter(|c| !c.is_control()).collect();
            let style =
                ProgressStyle::with_template("{msg} {bar:30} {bytes} of {total_bytes}, {eta}");
            if let Ok(style) = style {
                bar.set_style(style);
            }
            bar.with_message(name)
        }
        _ => ProgressBar::hidden(),
    }
}

/// How many threads work: as asked, else one for each core.
pub(crate) fn threads(asked: Option<NonZero<usize>>) -> NonZero<usize> {
    let there = || std::thread::available_parallelism().ok();
    asked.or_else(there).unwrap_or(NonZero::<usize>::MIN)
}
