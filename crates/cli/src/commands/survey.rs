//! `fclerk survey`: what a service's errors look like, from recordings alone.

use faithful_clerk_core::survey::{Gathered, Survey};
use faithful_clerk_core::{Contract, Pass};
use faithful_clerk_report::{Names, survey};

use crate::contracts::{contract, description};
use crate::exit::{Failure, Outcome};
use crate::flags::{Looking, Output, Stage, SurveyCall};
use crate::output::say;
use crate::recordings::{Recordings, threads};

pub(crate) fn run(call: &SurveyCall, stage: &Stage) -> Result<Outcome, Failure> {
    let mut contract = match (&call.contract, &call.openapi) {
        (Some(path), _) => contract(path, stage.stderr)?,
        (None, Some(path)) => description(path, stage.stderr)?,
        (None, None) => Contract::default(),
    };
    contract.scope = call.looking.reading.scope();
    let mut recordings = Recordings::of(&call.looking.recordings, &call.looking.reading.opened)?;
    let found = surveyed(&mut recordings, &call.looking, &contract);
    let names = Names(&recordings.names);
    let result = match call.looking.format {
        Output::Text => survey::terminal(&found, names, stage.stdout),
        Output::Markdown => survey::markdown(&found, names),
        Output::Json => {
            survey::json(&found, names).map_err(|error| Failure::Output(error.into()))?
        }
    };
    say(&result)?;
    Ok(recordings.outcome(&found.losses, Outcome::Kept))
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
