//! `fclerk compare`: two recordings, before and after a change, of two environments, of two callers.
//!
//! Both are read twice: first for their paths, then for what was asked and what came.

use std::path::Path;

use faithful_clerk_core::compare::{Between, Plan, Side, Standing, compare};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{Contract, Names, Pass, Source};
use faithful_clerk_report::Theme;
use faithful_clerk_report::compare::{self as written, Compared};

use crate::conclusion::{failed, failed_page};
use crate::contracts::{Agreed, contract_if_any};
use crate::exit::{Failure, Outcome};
use crate::flags::{CompareCall, Kind, Opened, Output, Stage, What};
use crate::inputs::{Again, Input, inputs};
use crate::output::{complain, say_unless_quiet};
use crate::recordings::{progress, say_losses, threads};
use crate::reports::Reports;

pub(crate) fn run(call: &CompareCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut agreed = contract_if_any(call.contract.as_deref(), stage.stderr)?;
    if let Some(agreed) = &mut agreed {
        agreed.contract.scope = call.reading.scope();
    }
    let contract = agreed.as_ref().map(|agreed| &agreed.contract);
    let before = Files::of(&call.before, &call.reading.opened)?;
    let after = Files::of(&call.after, &call.reading.opened)?;
    if before.has_standard_input() && after.has_standard_input() {
        return Err(Failure::Call("standard input can be only one of both".to_owned()));
    }
    let read: Vec<String> = before.names().chain(after.names()).collect();
    let reads =
        read.iter().map(Path::new).chain(agreed.as_ref().map(|agreed| agreed.path.as_path()));
    let reports = Reports::open(&call.reports.files, &reads.collect::<Vec<_>>())?;
    let (before, after) = (before.again()?, after.again()?);
    let between = match call.between {
        What::Times => Between::Times,
        What::Environments => Between::Environments,
        What::Callers => Between::Callers,
    };
    let mut bare = Contract::default();
    bare.scope = call.reading.scope();
    let first = before.files.len();
    let opening = call.reading.opened.opening();
    let pass = Pass { threads: threads(call.threads), opening };
    let gathered = |source: &Files, from: usize| -> Result<Gathered<'_>, Failure> {
        let mut sum = Gathered::new(&bare);
        source.each(from, |file, at| {
            for gathered in pass.over(file, at, || Gathered::new(&bare)) {
                sum.add(gathered);
            }
        })?;
        Ok(sum)
    };
    let sides = [gathered(&before, 0)?, gathered(&after, first)?];
    let mut plan = Plan::of(sides, contract, between);
    plan.scope = call.reading.scope();
    let seen = |source: &Files, from: usize, side: usize| -> Result<Side<'_>, Failure> {
        let mut seen = Side::new(&plan, side);
        source.each(from, |file, at| pass.in_order(file, at, &mut seen))?;
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
    let sides = [&call.before, &call.after].map(|path| path.display().to_string());
    let judge = agreed.as_ref().map(Agreed::name);
    let compared = Compared {
        comparison: &comparison,
        sides: [&sides[0], &sides[1]],
        names: Names(&names),
        contract: judge.as_deref(),
    };
    let result = match call.format {
        Output::Text => written::terminal(compared, stage.stdout),
        Output::Markdown => written::markdown(compared),
        Output::Json => written::json(compared).map_err(failed)?,
    };
    say_unless_quiet(&result, stage)?;
    reports.write(|kind| match kind {
        Kind::Html => written::html(compared).map_err(failed_page),
        Kind::Json => written::json(compared).map_err(failed),
        Kind::Markdown => Ok(written::markdown(compared)),
        _ => Ok(written::terminal(compared, Theme::bare(100))),
    })?;
    say_losses(&comparison.losses, Names(&names));
    let counts = comparison.counts;
    let worse = match between {
        Between::Times => counts.worsened,
        Between::Environments | Between::Callers => counts.worsened + counts.mended,
    };
    Ok(if matches!(comparison.standing(), Standing::Apart | Standing::AllAside) {
        Outcome::CallWrong
    } else if comparison.losses.count > 0 {
        Outcome::NotAllRead
    } else if worse > 0 {
        Outcome::Broken
    } else {
        Outcome::Kept
    })
}

/// One side: a file, the files of a folder, or standard input.
struct Files {
    inputs: Vec<Input>,
    files: Vec<Again>,
}

impl Files {
    fn of(path: &Path, opened: &Opened) -> Result<Self, Failure> {
        let (inputs, wrong) = inputs(&[path.to_owned()], opened.from);
        for message in &wrong {
            complain(message);
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
            self.files.push(Again::of(input).map_err(|error| fail(input, &error))?);
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
