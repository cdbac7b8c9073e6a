//! `fclerk compare`: two recordings, before and after a change, of two environments, of two callers.
//!
//! Both are read twice: first for their paths, then for the request and what came.

use std::path::Path;

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::compare::{
    Comparability, ComparisonKind, ComparisonPlan, ComparisonSide, ComparisonSurvey, compare,
};
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_recording::{Source, Traversal};
use faithful_clerk_report::Theme;
use faithful_clerk_report::compare::{self as written, ComparisonReport};

use crate::contracts::{LoadedContract, contract_if_any};
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{
    CompareArgs, ComparedSubject, FormatArgs, OutputFormat, OutputSettings, ReportFormat,
};
use crate::inputs::{Input, RereadableInput, inputs};
use crate::output::print_error;
use crate::recordings::{print_unreadable, progress, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(args: &CompareArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let mut expected = contract_if_any(args.contract.as_deref(), settings.stderr)?;
    if let Some(expected) = &mut expected {
        expected.contract.scope = args.reading.scope();
    }
    let contract = expected.as_ref().map(|expected| &expected.contract);
    let before = ComparedInput::of(&args.before, &args.reading.opened)?;
    let after = ComparedInput::of(&args.after, &args.reading.opened)?;
    if before.has_standard_input() && after.has_standard_input() {
        return Err(Failure::Call("only one of the two can be standard input".to_owned()));
    }
    let read: Vec<String> = before.names().chain(after.names()).collect();
    let reads =
        read.iter().map(Path::new).chain(expected.as_ref().map(|expected| expected.path.as_path()));
    let reads = reads.chain(args.reading.opened.map_path());
    let reports = ReportFiles::open(&args.reports.files, &reads.collect::<Vec<_>>())?;
    let (before, after) = (before.again()?, after.again()?);
    let between = match args.between {
        ComparedSubject::Versions => ComparisonKind::Versions,
        ComparedSubject::Environments => ComparisonKind::Environments,
        ComparedSubject::Callers => ComparisonKind::Callers,
    };
    let bare = ErrorContract { scope: args.reading.scope(), ..ErrorContract::default() };
    let first = before.files.len();
    let opening = args.reading.opened.opening();
    let traversal = Traversal { threads: threads(args.threads), options: opening };
    let gathered = |source: &ComparedInput, from: usize| -> Result<ComparisonSurvey<'_>, Failure> {
        let mut sum = ComparisonSurvey::new(&bare);
        source.each(from, |file, at| {
            for gathered in traversal.visit_parallel(file, at, || ComparisonSurvey::new(&bare)) {
                sum.add(gathered);
            }
        })?;
        Ok(sum)
    };
    let sides = [gathered(&before, 0)?, gathered(&after, first)?];
    let mut plan = ComparisonPlan::of(sides, contract, between);
    plan.scope = args.reading.scope();
    let seen =
        |source: &ComparedInput, from: usize, side: usize| -> Result<ComparisonSide<'_>, Failure> {
            let mut seen = ComparisonSide::new(&plan, side);
            source.each(from, |file, at| traversal.visit_in_order(file, at, &mut seen))?;
            Ok(seen)
        };
    // Each side has to be read in its order, but both can be at once.
    let (one, other) = std::thread::scope(|scope| {
        let other = scope.spawn(|| seen(&after, first, 1));
        let one = seen(&before, 0, 0);
        let other = other.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        (one, other)
    });
    let comparison = compare(&plan, one?, other?);
    let names: Vec<String> = before.names().chain(after.names()).collect();
    let sides = [&args.before, &args.after].map(|path| path.display().to_string());
    let judge = expected.as_ref().map(LoadedContract::name);
    let compared = ComparisonReport {
        comparison: &comparison,
        sides: [&sides[0], &sides[1]],
        names: RecordingNames(&names),
        contract: judge.as_deref(),
    };
    let result = match args.format {
        OutputFormat::Text => written::terminal(compared, settings.stdout),
        OutputFormat::Markdown => written::markdown(compared),
        OutputFormat::Json => written::json(compared).map_err(failed)?,
    };
    reports.print(&result, false, settings)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => written::html(compared).map_err(failed_page),
        ReportFormat::Json => written::json(compared).map_err(failed),
        ReportFormat::Markdown => Ok(written::markdown(compared)),
        _ => Ok(written::terminal(compared, Theme::bare(100))),
    })?;
    print_unreadable(&comparison.unreadable, RecordingNames(&names));
    let counts = comparison.counts;
    let worse = match between {
        ComparisonKind::Versions => counts.regressed,
        ComparisonKind::Environments | ComparisonKind::Callers => counts.regressed + counts.fixed,
    };
    let standing = comparison.standing();
    Ok(if matches!(standing, Comparability::Apart | Comparability::AllExcluded) {
        Completion::CallWrong
    } else if comparison.unreadable.count > 0 || counts.not_compared > 0 {
        Completion::NotAllRead
    } else if standing == Comparability::Nothing {
        Completion::CallWrong
    } else if worse > 0 {
        Completion::Broken
    } else {
        Completion::Kept
    })
}

/// One side: a file, the files of a folder, or standard input.
struct ComparedInput {
    inputs: Vec<Input>,
    files: Vec<RereadableInput>,
}

impl ComparedInput {
    fn of(path: &Path, opened: &FormatArgs) -> Result<Self, Failure> {
        let (inputs, wrong) = inputs(&[path.to_owned()], opened.format());
        for message in &wrong {
            print_error(message);
        }
        if inputs.is_empty() || !wrong.is_empty() {
            return Err(Failure::Said);
        }
        Ok(Self { inputs, files: Vec::new() })
    }

    fn has_standard_input(&self) -> bool {
        self.inputs.contains(&Input::Standard)
    }

    fn names(&self) -> impl Iterator<Item = String> {
        self.inputs.iter().map(Input::name)
    }

    /// The same, so that it can be read more than once.
    fn again(mut self) -> Result<Self, Failure> {
        for input in &self.inputs {
            self.files.push(RereadableInput::of(input).map_err(|error| fail(input, &error))?);
        }
        Ok(self)
    }

    /// Opens one file after the other. `from` is the place of the first in the run.
    fn each(&self, from: usize, mut look: impl FnMut(Source<'static>, u32)) -> Result<(), Failure> {
        for (at, (input, file)) in self.inputs.iter().zip(&self.files).enumerate() {
            let bar = progress(input.size(), &input.name());
            let file = file.open(&bar).map_err(|error| fail(input, &error))?;
            look(file, u32::try_from(from + at).unwrap_or(u32::MAX));
            bar.finish_and_clear();
        }
        Ok(())
    }
}

fn fail(input: &Input, error: &std::io::Error) -> Failure {
    Failure::Call(format!("{}: {error}", input.name()))
}
