//! `fclerk survey`: what a service's errors look like, from recordings alone.

use std::path::Path;

use faithful_clerk_contract::{ErrorContract, Server};
use faithful_clerk_insight::survey::{Survey, SurveyData};
use faithful_clerk_recording::Traversal;
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
    let files = [args.contract.as_deref(), args.openapi.as_deref()].into_iter().flatten();
    let reads = recordings.names.iter().map(Path::new).chain(files);
    let reports = ReportFiles::open(&args.reports.files, &reads.collect::<Vec<_>>())?;
    let found = match (&args.contract, &args.openapi) {
        (None, Some(_)) => {
            recordings.keep()?;
            surveyed_anywhere(&mut recordings, &args.looking, &mut contract).0
        }
        _ => surveyed(&mut recordings, &args.looking, &contract),
    };
    let names = RecordingNames(&recordings.names);
    let result = match args.looking.format {
        OutputFormat::Text => survey::terminal(&found, names, settings.stdout),
        OutputFormat::Markdown => survey::markdown(&found, names),
        OutputFormat::Json => survey::json(&found, names).map_err(failed)?,
    };
    reports.print(&result, false, settings)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => survey::html(&found, names).map_err(failed_page),
        ReportFormat::Json => survey::json(&found, names).map_err(failed),
        ReportFormat::Markdown => Ok(survey::markdown(&found, names)),
        _ => Ok(survey::terminal(&found, names, Theme::bare(100))),
    })?;
    Ok(recordings.outcome(&found.unreadable, Completion::Kept, false))
}

/// Looks at every recording; where none of a description's servers was called, at the paths of these servers on any host,
/// since it was recorded on a machine of somebody's own. Gives whether it was.
pub(crate) fn surveyed_anywhere(
    recordings: &mut RecordingInputs,
    looking: &AnalysisArgs,
    description: &mut ErrorContract,
) -> (Survey, bool) {
    let found = surveyed(recordings, looking, description);
    if found.exchanges > 0 || description.servers.is_empty() || found.excluded.is_empty() {
        return (found, false);
    }
    print_error("no server of the description was called; its paths are looked for on any host");
    description.servers = description.servers.iter().map(Server::base_path).collect();
    (surveyed(recordings, looking, description), true)
}

/// Looks at every recording.
pub(crate) fn surveyed(
    recordings: &mut RecordingInputs,
    looking: &AnalysisArgs,
    contract: &ErrorContract,
) -> Survey {
    let traversal =
        Traversal { threads: threads(looking.threads), options: looking.reading.opened.opening() };
    let mut sum = SurveyData::new(contract);
    recordings.each(|source, recording| {
        for collected in traversal.visit_parallel(source, recording, || SurveyData::new(contract)) {
            sum.add(collected);
        }
    });
    sum.conclude()
}
