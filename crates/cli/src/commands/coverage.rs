//! `fclerk coverage`: which error situations were tried, and what to try next.

use faithful_clerk_core::coverage::Coverage;
use faithful_clerk_core::{Check, Ledger};
use faithful_clerk_report::{Report, coverage};

use crate::contracts::contract;
use crate::exit::{Failure, Outcome};
use crate::flags::{CoverageCall, Output, Stage};
use crate::output::{complain, say};
use crate::recordings::{Recordings, threads};

pub(crate) fn run(call: &CoverageCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut contract = contract(&call.contract, stage.stderr)?;
    contract.scope = call.looking.reading.scope();
    let mut check = Check::new(&contract);
    check.opening(call.looking.reading.opened.opening());
    check.threads(threads(call.looking.threads));
    let mut recordings = Recordings::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let mut ledger = Ledger::new();
    recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
    ledger.conclude(&contract);
    let report = Report { ledger: &ledger, contract: &contract, recordings: &recordings.names };
    let result = match call.looking.format {
        Output::Text => coverage::terminal(&report, stage.stdout),
        Output::Markdown => coverage::markdown(&report),
        Output::Json => coverage::json(&report).map_err(|error| Failure::Output(error.into()))?,
    };
    say(&result)?;
    let share = Coverage::of(&contract, &ledger).share;
    let found = match call.at_least {
        Some(percent) if !share.is_at_least(percent) => {
            complain(&format!("{} % were tried, and {percent} % were asked for", share.percent()));
            Outcome::Broken
        }
        _ => Outcome::Kept,
    };
    Ok(recordings.outcome(&ledger.losses, found))
}
