//! `fclerk coverage`: which error situations were tried, and what to try next.

use std::path::Path;

use faithful_clerk_core::coverage::Coverage;
use faithful_clerk_core::{Check, Ledger};
use faithful_clerk_report::{Report, Theme, coverage};

use crate::conclusion::{failed, failed_page};
use crate::contracts::contract;
use crate::exit::{Failure, Outcome};
use crate::flags::{CoverageCall, Kind, Output, Stage};
use crate::output::{complain, say_unless_quiet};
use crate::recordings::{Recordings, threads};
use crate::reports::Reports;

pub(crate) fn run(call: &CoverageCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut agreed = contract(call.contract.as_deref(), stage.stderr)?;
    agreed.contract.scope = call.looking.reading.scope();
    let contract = &agreed.contract;
    let mut check = Check::new(contract);
    check.opening(call.looking.reading.opened.opening());
    check.threads(threads(call.looking.threads));
    let mut recordings = Recordings::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let reads = recordings.names.iter().map(Path::new).chain([agreed.path.as_path()]);
    let reports = Reports::open(&call.reports.files, &reads.collect::<Vec<_>>())?;
    let mut ledger = Ledger::new();
    recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
    ledger.conclude(contract);
    let report = Report::new(&ledger, contract, &recordings.names);
    let result = match call.looking.format {
        Output::Text => coverage::terminal(&report, stage.stdout),
        Output::Markdown => coverage::markdown(&report),
        Output::Json => coverage::json(&report).map_err(failed)?,
    };
    say_unless_quiet(&result, stage)?;
    reports.write(|kind| match kind {
        Kind::Html => coverage::html(&report).map_err(failed_page),
        Kind::Json => coverage::json(&report).map_err(failed),
        Kind::Markdown => Ok(coverage::markdown(&report)),
        _ => Ok(coverage::terminal(&report, Theme::bare(100))),
    })?;
    let share = Coverage::of(contract, &ledger).share;
    let found = match call.at_least {
        Some(percent) if !share.is_at_least(percent) => {
            complain(&format!("{} % were tried, and {percent} % were asked for", share.percent()));
            Outcome::Broken
        }
        _ => Outcome::Kept,
    };
    Ok(recordings.outcome(&ledger.losses, found, false))
}
