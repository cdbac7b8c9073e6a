//! `fclerk coverage`: which error situations were tried, and what to try next.

use std::path::{Path, PathBuf};

use faithful_clerk_check::Check;
use faithful_clerk_check::grid::GridRows;
use faithful_clerk_check::ledger::{Ledger, RestoredLedger};
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::coverage::Coverage;
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_report::{CheckReport, Theme, coverage};

use crate::contracts::contract_or_description;
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{CoverageArgs, OutputFormat, OutputSettings, ReportFormat};
use crate::ledger_sum::{SumRules, sum_of_checks};
use crate::ledgers::{LedgerInputs, are_ledgers};
use crate::output::print_error;
use crate::recordings::{RecordingInputs, outcome_of_ledgers, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(args: &CoverageArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let mut expected = contract_or_description(
        args.contract.as_deref(),
        args.openapi.as_deref(),
        settings.stderr,
    )?;
    expected.contract.scope = args.looking.reading.scope();
    let mut looked_at = match are_ledgers(&args.looking.recordings) {
        true => CoveredInputs::of_ledgers(args, &mut expected.contract)?,
        false => CoveredInputs::of_recordings(args, &expected.contract)?,
    };
    let (contract, ledger) = (&expected.contract, &mut looked_at.ledger);
    let reads = looked_at.paths.iter().map(PathBuf::as_path).chain([expected.path.as_path()]);
    let reads = reads.chain(args.looking.reading.opened.map_path());
    let reports = ReportFiles::open(&args.reports.files, &reads.collect::<Vec<_>>())?;
    ledger.conclude(contract);
    let mut report = CheckReport::new(ledger, contract, &looked_at.names);
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
    let share = Coverage::of(contract, ledger).cells;
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
    Ok(match &looked_at.recordings {
        Some(recordings) => recordings.outcome(&ledger.unreadable, found, false),
        None => {
            let names = RecordingNames(&looked_at.names);
            outcome_of_ledgers(&ledger.unreadable, names, found, false)
        }
    })
}

/// What is looked at for what it covers.
struct CoveredInputs {
    ledger: Ledger,
    /// The names of the recordings.
    names: Vec<String>,
    /// The files that are read.
    paths: Vec<PathBuf>,
    /// The recordings, where they are here.
    recordings: Option<RecordingInputs>,
}

impl CoveredInputs {
    fn of_recordings(args: &CoverageArgs, contract: &ErrorContract) -> Result<Self, Failure> {
        let looking = &args.looking;
        let mut check = Check::new(contract);
        check.opening(looking.reading.opened.opening());
        check.threads(threads(looking.threads));
        let mut recordings = RecordingInputs::of(&looking.recordings, &looking.reading.opened)?;
        let mut ledger = Ledger::new();
        recordings.each(|source, recording| ledger.add(check.recording(source, recording)));
        let names = recordings.names.clone();
        let paths = names.iter().map(PathBuf::from).collect();
        Ok(Self { ledger, names, paths, recordings: Some(recordings) })
    }

    fn of_ledgers(args: &CoverageArgs, contract: &mut ErrorContract) -> Result<Self, Failure> {
        let reading = &args.looking.reading;
        if reading.all || reading.opened.format().is_some() {
            let why =
                "these are ledgers: --all, --from and --map belong to the checks that they are of";
            return Err(Failure::Call(why.to_owned()));
        }
        let ledgers = LedgerInputs::of(&args.looking.recordings)?;
        let has_waivers = !contract.waivers.is_empty();
        let sources = SumRules { has_waivers, ..SumRules::default() }
            .sources(&ledgers, |text| RestoredLedger::sources(text, contract))?;
        // Waivers are those of the day on which the parts were checked.
        if let Ok(day) = sources.origin.today.parse() {
            contract.set_today(day);
        }
        let ledger = sum_of_checks(&ledgers, contract, &sources.recordings)?;
        let paths = ledgers.paths().map(Path::to_owned).collect();
        Ok(Self { ledger, names: sources.recordings, paths, recordings: None })
    }
}
