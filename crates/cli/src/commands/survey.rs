//! `fclerk survey`: what a service's errors look like, from recordings alone.

use std::path::Path;

use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::survey::{Survey, SurveyData};
use faithful_clerk_recording::Traversal;
use faithful_clerk_report::{RecordingNames, Theme, survey};

use crate::contracts::{contract, description};
use crate::exit::{Completion, Failure};
use crate::finish::{failed, failed_page};
use crate::flags::{AnalysisArgs, OutputFormat, OutputSettings, ReportFormat, SurveyArgs};
use crate::output::say_unless_quiet;
use crate::recordings::{RecordingInputs, threads};
use crate::reports::ReportFiles;

pub(crate) fn run(call: &SurveyArgs, stage: &OutputSettings) -> Result<Completion, Failure> {
    let mut contract = match (&call.contract, &call.openapi) {
        (Some(path), _) => contract(Some(path), stage.stderr)?.contract,
        (None, Some(path)) => description(path, stage.stderr)?,
        (None, None) => ErrorContract::default(),
    };
    contract.scope = call.looking.reading.scope();
    let mut recordings =
        RecordingInputs::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let files = [call.contract.as_deref(), call.openapi.as_deref()].into_iter().flatten();
    let reads = recordings.names.iter().map(Path::new).chain(files);
    let reports = ReportFiles::open(&call.reports.files, &reads.collect::<Vec<_>>())?;
    let found = surveyed(&mut recordings, &call.looking, &contract);
    let names = RecordingNames(&recordings.names);
    let result = match call.looking.format {
        OutputFormat::Text => survey::terminal(&found, names, stage.stdout),
        OutputFormat::Markdown => survey::markdown(&found, names),
        OutputFormat::Json => survey::json(&found, names).map_err(failed)?,
    };
    say_unless_quiet(&result, stage)?;
    reports.write(|kind| match kind {
        ReportFormat::Html => survey::html(&found, names).map_err(failed_page),
        ReportFormat::Json => survey::json(&found, names).map_err(failed),
        ReportFormat::Markdown => Ok(survey::markdown(&found, names)),
        _ => Ok(survey::terminal(&found, names, Theme::bare(100))),
    })?;
    Ok(recordings.outcome(&found.unreadable, Completion::Kept, false))
}

/// Looks at every recording.
pub(crate) fn surveyed(
    recordings: &mut RecordingInputs,
    looking: &AnalysisArgs,
    contract: &ErrorContract,
) -> Survey {
    let pass =
        Traversal { threads: threads(looking.threads), options: looking.reading.opened.opening() };
    let mut sum = SurveyData::new(contract);
    recordings.each(|source, recording| {
        for gathered in pass.visit_parallel(source, recording, || SurveyData::new(contract)) {
            sum.add(gathered);
        }
    });
    sum.conclude()
}
