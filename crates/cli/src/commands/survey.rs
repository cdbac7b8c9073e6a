//! `fclerk survey`: what a service's errors look like, from recordings alone.

use std::path::Path;

use faithful_clerk_contract::{ErrorContract, Server};
use faithful_clerk_insight::survey::{Survey, SurveyCollector, SurveyData, SurveyLedger};
use faithful_clerk_recording::{ReadOptions, Traversal};
use faithful_clerk_report::{RecordingNames, Theme, survey};

use crate::contracts::{contract, description};
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{AnalysisArgs, OutputFormat, OutputSettings, ReportFormat, SurveyArgs};
use crate::output::print_error;
use crate::recordings::{RecordingInputs, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(args: &SurveyArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let mut contract = match (&args.contract, &args.openapi) {
        (Some(path), _) => contract(Some(path), settings.stderr)?.contract,
        (None, Some(path)) => description(path)?,
        (None, None) => ErrorContract::default(),
    };
    contract.scope = args.looking.reading.scope();
    let mut recordings =
        RecordingInputs::of(&args.looking.recordings, &args.looking.reading.opened)?;
    recordings.name(&args.part)?;
    let files = [args.contract.as_deref(), args.openapi.as_deref()].into_iter().flatten();
    let reads = recordings.names.iter().map(Path::new).chain(files);
    let reads = reads.chain(args.looking.reading.opened.map_path());
    let reports = ReportFiles::open(&args.reports.files, &reads.collect::<Vec<_>>())?;
    if args.ledger {
        recordings.digest();
    }
    let first = args.part.first;
    let mut ledger = match (&args.contract, &args.openapi) {
        (None, Some(_)) => {
            recordings.keep()?;
            gathered_anywhere(&mut recordings, &args.looking, first, &mut contract)
        }
        _ => SurveyLedger {
            data: gathered(&mut recordings, &args.looking, first, &contract),
            elsewhere: None,
        },
    };
    if args.ledger {
        let sources = recordings.sources(args.looking.reading.origin());
        if sources.recordings.is_empty() {
            // A part in which there is nothing adds nothing.
            ledger = SurveyLedger::default();
        }
        let text = ledger.save(&contract.digest, &sources).map_err(failed)?;
        reports.print(&text, true, settings)?;
        return Ok(recordings.outcome(&ledger.data.unreadable, Completion::Kept, true));
    }
    let (found, _) = concluded(ledger);
    let names = RecordingNames(&recordings.names);
    print_survey(&found, names, args.looking.format, reports, settings)?;
    Ok(recordings.outcome(&found.unreadable, Completion::Kept, false))
}

/// Prints a survey, and writes the reports of it.
pub(super) fn print_survey(
    found: &Survey,
    names: RecordingNames<'_>,
    format: OutputFormat,
    reports: ReportFiles,
    settings: &OutputSettings,
) -> Result<(), Failure> {
    let result = match format {
        OutputFormat::Text => survey::terminal(found, names, settings.stdout),
        OutputFormat::Markdown => survey::markdown(found, names),
        OutputFormat::Json => survey::json(found, names).map_err(failed)?,
    };
    reports.print(&result, false, settings)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => survey::html(found, names).map_err(failed_page),
        ReportFormat::Json => survey::json(found, names).map_err(failed),
        ReportFormat::Markdown => Ok(survey::markdown(found, names)),
        _ => Ok(survey::terminal(found, names, Theme::bare(100))),
    })
}

/// What was gathered comes to this; and whether it was at the paths of a description's servers on any host.
pub(super) fn concluded(ledger: SurveyLedger) -> (Survey, bool) {
    let (data, is_elsewhere) = ledger.decided();
    if is_elsewhere {
        print_error(
            "no server of the description was called; its paths are looked for on any host",
        );
    }
    (data.conclude(), is_elsewhere)
}

/// Looks at every recording; where none of a description's servers was called, also at the paths of these servers on any
/// host, since it was recorded on a machine of somebody's own.
pub(super) fn gathered_anywhere(
    recordings: &mut RecordingInputs,
    looking: &AnalysisArgs,
    first: u64,
    description: &mut ErrorContract,
) -> SurveyLedger {
    let data = gathered(recordings, looking, first, description);
    let is_elsewhere =
        data.exchanges == 0 && !description.servers.is_empty() && !data.excluded.is_empty();
    let elsewhere = is_elsewhere.then(|| {
        description.servers = description.servers.iter().map(Server::base_path).collect();
        gathered(recordings, looking, first, description)
    });
    SurveyLedger { data, elsewhere }
}

/// Looks at every recording. `first` is the number of the first exchange.
fn gathered(
    recordings: &mut RecordingInputs,
    looking: &AnalysisArgs,
    first: u64,
    contract: &ErrorContract,
) -> SurveyData {
    let options = ReadOptions { first, ..looking.reading.opened.opening() };
    let traversal = Traversal { threads: threads(looking.threads), options };
    let mut sum = SurveyData::default();
    recordings.each(|source, recording| {
        let collector = || SurveyCollector::new(contract);
        for collected in traversal.visit_parallel(source, recording, collector) {
            sum.add(collected.data);
        }
    });
    sum
}
