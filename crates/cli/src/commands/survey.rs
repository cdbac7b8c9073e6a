//! `fclerk survey`: what a service's errors look like, from recordings alone.

use std::path::Path;

use faithful_clerk_core::survey::{Gathered, Survey};
use faithful_clerk_core::{Contract, Pass};
use faithful_clerk_report::{Names, Theme, survey};

use crate::conclusion::{failed, failed_page};
use crate::contracts::{contract, description};
use crate::exit::{Failure, Outcome};
use crate::flags::{Kind, Looking, Output, Stage, SurveyCall};
use crate::output::say_unless_quiet;
use crate::recordings::{Recordings, threads};
use crate::reports::Reports;

pub(crate) fn run(call: &SurveyCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut contract = match (&call.contract, &call.openapi) {
        (Some(path), _) => contract(Some(path), stage.stderr)?.contract,
        (None, Some(path)) => description(path, stage.stderr)?,
        (None, None) => Contract::default(),
    };
    contract.scope = call.looking.reading.scope();
    let mut recordings = Recordings::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let files = [call.contract.as_deref(), call.openapi.as_deref()].into_iter().flatten();
    let reads = recordings.names.iter().map(Path::new).chain(files);
    let reports = Reports::open(&call.reports.files, &reads.collect::<Vec<_>>())?;
    let found = surveyed(&mut recordings, &call.looking, &contract);
    let names = Names(&recordings.names);
    let result = match call.looking.format {
        Output::Text => survey::terminal(&found, names, stage.stdout),
        Output::Markdown => survey::markdown(&found, names),
        Output::Json => survey::json(&found, names).map_err(failed)?,
    };
    say_unless_quiet(&result, stage)?;
    reports.write(|kind| match kind {
        Kind::Html => survey::html(&found, names).map_err(failed_page),
        Kind::Json => survey::json(&found, names).map_err(failed),
        Kind::Markdown => Ok(survey::markdown(&found, names)),
        _ => Ok(survey::terminal(&found, names, Theme::bare(100))),
    })?;
    Ok(recordings.outcome(&found.losses, Outcome::Kept, false))
}

/// Looks at every recording.
pub(crate) fn surveyed(
    recordings: &mut Recordings,
    looking: &Looking,
    contract: &Contract,
) -> Survey {
    let pass =
        Pass { threads: threads(looking.threads), opening: looking.reading.opened.opening() };
    let mut sum = Gathered::new(contract);
    recordings.each(|source, recording| {
        for gathered in pass.over(source, recording, || Gathered::new(contract)) {
            sum.add(gathered);
        }
    });
    sum.conclude()
}
