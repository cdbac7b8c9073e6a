//! `fclerk coverage`: which error situations were tried, and what to try next.

use std::path::Path;

use faithful_clerk_check::Check;
use faithful_clerk_check::grid::GridRows;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_insight::coverage::Coverage;
use faithful_clerk_report::{CheckReport, Theme, coverage};

use crate::contracts::contract_or_description;
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{CoverageArgs, OutputFormat, OutputSettings, ReportFormat};
use crate::output::print_error;
use crate::recordings::{RecordingInputs, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(args: &CoverageArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let mut expected = contract_or_description(
        args.contract.as_deref(),
        args.openapi.as_deref(),
        settings.stderr,
    )?;
    expected.contract.scope = args.looking.reading.scope();
    let contract = &expected.contract;
    let mut check = Check::new(contract);
    check.opening(args.looking.reading.opened.opening());
    check.threads(threads(args.looking.threads));
    let mut recordings =
        RecordingInputs::of(&args.looking.recordings, &args.looking.reading.opened)?;
    let reads = recordings.names.iter().map(Path::new).chain([expected.path.as_path()]);
    let reports = ReportFiles::open(&args.reports.files, &reads.collect::<Vec<_>>())?;
    let mut ledger = Ledger::new();
    recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
    ledger.conclude(contract);
    let mut report = CheckReport::new(&ledger, contract, &recordings.names);
    report.grid_rows = if args.all_rows { GridRows::All } else { GridRows::Covered };
    let result = match args.looking.format {
        OutputFormat::Text => coverage::terminal(&report, settings.stdout),
        OutputFormat::Markdown => coverage::markdown(&report),
        OutputFormat::Json => coverage::json(&report).map_err(failed)?,
    };
    reports.print(&result, false, settings)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => coverage::html(&report).map_err(failed_page),
        ReportFormat::Json => coverage::json(&report).map_err(failed),
        ReportFormat::Markdown => Ok(coverage::markdown(&report)),
        _ => Ok(coverage::terminal(&report, Theme::bare(100))),
    })?;
    let share = Coverage::of(contract, &ledger).cells;
    let found = match args.at_least {
        Some(percent) if !share.is_at_least(percent) => {
            print_error(&format!(
                "{} % are covered; --at-least asks for {percent} %",
                share.percent()
            ));
            Completion::Broken
        }
        _ => Completion::Kept,
    };
    Ok(recordings.outcome(&ledger.unreadable, found, false))
}
