//! `fclerk coverage`: which error situations were tried, and what to try next.

use std::path::Path;

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_insight::coverage::Coverage;
use faithful_clerk_report::{CheckReport, Theme, coverage};

use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{CoverageArgs, OutputFormat, OutputSettings, ReportFormat};
use crate::output::{complain, say_unless_quiet};
use crate::recordings::{RecordingInputs, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(call: &CoverageArgs, stage: &OutputSettings) -> Result<Completion, Failure> {
    let mut agreed = contract(call.contract.as_deref(), stage.stderr)?;
    agreed.contract.scope = call.looking.reading.scope();
    let contract = &agreed.contract;
    let mut check = Check::new(contract);
    check.opening(call.looking.reading.opened.opening());
    check.threads(threads(call.looking.threads));
    let mut recordings =
        RecordingInputs::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let reads = recordings.names.iter().map(Path::new).chain([agreed.path.as_path()]);
    let reports = ReportFiles::open(&call.reports.files, &reads.collect::<Vec<_>>())?;
    let mut ledger = Ledger::new();
    recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
    ledger.conclude(contract);
    let report = CheckReport::new(&ledger, contract, &recordings.names);
    let result = match call.looking.format {
        OutputFormat::Text => coverage::terminal(&report, stage.stdout),
        OutputFormat::Markdown => coverage::markdown(&report),
        OutputFormat::Json => coverage::json(&report).map_err(failed)?,
    };
    say_unless_quiet(&result, stage)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => coverage::html(&report).map_err(failed_page),
        ReportFormat::Json => coverage::json(&report).map_err(failed),
        ReportFormat::Markdown => Ok(coverage::markdown(&report)),
        _ => Ok(coverage::terminal(&report, Theme::bare(100))),
    })?;
    let share = Coverage::of(contract, &ledger).cells;
    let found = match call.at_least {
        Some(percent) if !share.is_at_least(percent) => {
            complain(&format!(
                "{} % are covered; --at-least asks for {percent} %",
                share.percent()
            ));
            Completion::Broken
        }
        _ => Completion::Kept,
    };
    Ok(recordings.outcome(&ledger.unreadable, found, false))
}
