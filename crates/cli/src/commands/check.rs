//! `fclerk check`: recordings against a contract.

use faithful_clerk_core::{Check, Ledger};
use faithful_clerk_report::{Report, json, text};

use crate::contracts::contract;
use crate::exit::{Failure, Outcome};
use crate::flags::{CheckCall, Format, Stage};
use crate::inputs::Input;
use crate::output::say;
use crate::recordings::{Recordings, threads};

pub(crate) fn run(call: &CheckCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut contract = contract(&call.contract, stage.stderr)?;
    contract.scope = call.reading.scope();
    let mut check = Check::new(&contract);
    check.threads(threads(call.threads)).opening(call.reading.opened.opening());
    let mut recordings = Recordings::of_some(&call.recordings, &call.reading.opened);
    for of in &call.environments {
        let at = u32::try_from(recordings.names.len()).unwrap_or(u32::MAX);
        recordings.add(Input::of(&of.recording));
        check.environment(at, &of.name);
    }
    if recordings.names.is_empty() {
        return Err(Failure::Said);
    }
    let mut ledger = Ledger::new();
    recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
    ledger.conclude(&contract);
    let report = Report { ledger: &ledger, contract: &contract, recordings: &recordings.names };
    let result = match call.format {
        Format::Text => text::check(&report, stage.stdout),
        Format::Json => json::check(&report).map_err(|error| Failure::Output(error.into()))?,
    };
    say(&result)?;
    let found = if report.is_kept() { Outcome::Kept } else { Outcome::Broken };
    Ok(recordings.outcome(&ledger.losses, found))
}
