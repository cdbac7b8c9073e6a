//! `fclerk check`: recordings against a contract.

use std::num::NonZero;
use std::path::Path;

use faithful_clerk_core::{Check, Contract, Ledger, Loss};
use faithful_clerk_report::{Report, Theme, diagnostics, json, text};

use crate::exit::{Failure, Outcome};
use crate::flags::{CheckCall, Format, Stage};
use crate::inputs::{Folder, Input, inputs};
use crate::output::{complain, say, show};

pub(crate) fn run(call: &CheckCall, stage: &Stage) -> Result<Outcome, Failure> {
    let contract = contract(&call.contract, stage.stderr)?;
    let (mut inputs, wrong) = inputs(&call.recordings);
    let unnamed = u32::try_from(inputs.len()).unwrap_or(u32::MAX);
    let named = &call.environments;
    inputs.extend(named.iter().map(|of| Input::File(of.recording.clone())));
    let mut outcome = Outcome::Kept;
    for message in &wrong {
        complain(message);
        outcome = Outcome::CallWrong;
    }
    if inputs.is_empty() {
        return Ok(Outcome::CallWrong);
    }
    let threads = call.threads.or_else(|| std::thread::available_parallelism().ok());
    let mut check = Check::new(&contract);
    check.threads(threads.unwrap_or(NonZero::<usize>::MIN));
    for (at, of) in (unnamed..).zip(named) {
        check.environment(at, &of.name);
    }
    let names: Vec<String> = inputs.iter().map(Input::name).collect();
    let mut ledger = Ledger::new();
    for (recording, (input, name)) in (0..).zip(inputs.iter().zip(&names)) {
        match input.open() {
            Ok(source) => ledger.add(check.har(source, recording)),
            Err(error) => {
                complain(&format!("{name}: {error}"));
                outcome = Outcome::CallWrong;
            }
        }
    }
    ledger.conclude(&contract);
    let report = Report { ledger: &ledger, contract: &contract, recordings: &names };
    let result = match call.format {
        Format::Text => text::check(&report, stage.stdout),
        Format::Json => json::check(&report).map_err(|error| Failure::Output(error.into()))?,
    };
    say(&result)?;
    say_what_was_lost(&report);
    Ok(match outcome {
        Outcome::Kept => judged(&report),
        outcome => outcome,
    })
}

/// The outcome by what is in the ledger.
fn judged(report: &Report<'_>) -> Outcome {
    if report.ledger.lost > 0 {
        Outcome::NotAllRead
    } else if report.is_kept() {
        Outcome::Kept
    } else {
        Outcome::Broken
    }
}

/// Reads a contract; its mistakes and notices are shown.
pub(crate) fn contract(path: &Path, theme: Theme) -> Result<Contract, Failure> {
    let name = path.display().to_string();
    let bytes = std::fs::read(path).map_err(|error| {
        let hint = "`fclerk demo` writes one to look at, `--contract FILE` names another";
        Failure::Call(format!("the contract {name} can't be read: {error} ({hint})"))
    })?;
    let text = String::from_utf8(bytes).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        Failure::Call(format!("the contract {name} is not UTF-8 at byte {at}"))
    })?;
    let folder = path.parent().unwrap_or(Path::new("")).to_owned();
    let reading = Contract::read_with(&text, &Folder { path: folder });
    show(&diagnostics::mistakes(&name, &text, &reading.mistakes, theme));
    let mut contract = reading.contract.ok_or(Failure::Contract)?;
    contract.set_today(today());
    Ok(contract)
}

/// The day by the system's own clock and time zone.
fn today() -> jiff::civil::Date {
    jiff::Zoned::now().date()
}

fn say_what_was_lost(report: &Report<'_>) {
    for loss in &report.ledger.losses {
        let Loss { recording, offset, number, reason } = loss;
        let name = report.recording(*recording);
        let at = number.map_or_else(|| name.to_owned(), |number| format!("{name}#{number}"));
        complain(&format!("{at}, byte {offset}: {reason}"));
    }
    let more = report.ledger.lost - report.ledger.losses.len() as u64;
    if more > 0 {
        complain(&format!("and {more} more that could not be read"));
    }
}
