//! `fclerk draft`: a contract from recordings.

use std::path::{Component, Path, PathBuf};

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::draft::{Draft, ServiceDescription, draft};
use faithful_clerk_insight::survey::SurveyLedger;
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_report::drafted;

use super::survey::{concluded, gathered_anywhere};
use crate::contracts::{description, drafted as drafted_contract};
use crate::exit::{Completion, Failure};
use crate::flags::{DraftArgs, OutputFormat};
use crate::ledger_sum::{SumRules, sum_of_surveys};
use crate::ledgers::LedgerInputs;
use crate::output::{print_error, print_result, write_new};
use crate::recordings::{RecordingInputs, outcome_of_ledgers, threads};

pub(crate) fn run(args: &DraftArgs) -> Result<Completion, Failure> {
    let mut contract = match &args.openapi {
        Some(path) => description(path)?,
        None => ErrorContract::default(),
    };
    let described = contract.servers.clone();
    let surveyed = match args.from_ledger {
        true => SurveyedInputs::of_ledgers(args, &contract)?,
        false => SurveyedInputs::of_recordings(args, &mut contract)?,
    };
    let (found, is_elsewhere) = concluded(surveyed.ledger);
    let names = RecordingNames(&surveyed.names);
    let openapi = args.openapi.as_deref().map(|path| named_from(path, args.output.as_deref()));
    let servers = described.as_slice();
    let openapi = openapi.as_deref().map(|path| ServiceDescription { path, servers, is_elsewhere });
    let mut draft = draft(&found, names, openapi);
    match &surveyed.recordings {
        Some(recordings) => ask_about_own_recording(&mut draft, args, recordings),
        None => print_error(
            "the draft was not checked against its recordings, which are not here: `fclerk check` each part with it",
        ),
    }
    let result = match args.looking.format {
        OutputFormat::Text => draft.text.clone(),
        OutputFormat::Markdown => drafted::markdown(&draft),
        OutputFormat::Json => {
            drafted::json(&draft).map_err(|error| Failure::Output(error.into()))?
        }
    };
    match &args.output {
        Some(path) => {
            write_new(path, &result)?;
            let count = draft.decide.len();
            print_error(&format!("wrote {}, with {count} decisions to make", path.display()));
        }
        None => print_result(&result)?,
    }
    Ok(match &surveyed.recordings {
        Some(recordings) => recordings.outcome(&found.unreadable, Completion::Kept, false),
        None => outcome_of_ledgers(&found.unreadable, names, Completion::Kept, false),
    })
}

/// What a draft is made from.
struct SurveyedInputs {
    ledger: SurveyLedger,
    /// The names of the recordings.
    names: Vec<String>,
    /// The recordings, where they are here.
    recordings: Option<RecordingInputs>,
}

impl SurveyedInputs {
    fn of_recordings(args: &DraftArgs, contract: &mut ErrorContract) -> Result<Self, Failure> {
        let looking = &args.looking;
        let mut recordings = RecordingInputs::of(&looking.recordings, &looking.reading.opened)?;
        recordings.keep()?;
        let ledger = gathered_anywhere(&mut recordings, looking, 1, contract);
        Ok(Self { ledger, names: recordings.names.clone(), recordings: Some(recordings) })
    }

    fn of_ledgers(args: &DraftArgs, contract: &ErrorContract) -> Result<Self, Failure> {
        let ledgers = LedgerInputs::of(&args.looking.recordings)?;
        let sources = SumRules::default()
            .sources(&ledgers, |text| SurveyLedger::sources(text, &contract.digest))?;
        let ledger = sum_of_surveys(&ledgers, &sources.recordings)?;
        Ok(Self { ledger, names: sources.recordings, recordings: None })
    }
}

/// Checks the recordings with what was drafted of them.
fn ask_about_own_recording(draft: &mut Draft, args: &DraftArgs, recordings: &RecordingInputs) {
    let path = args.output.as_deref().unwrap_or(Path::new("error-contract.toml"));
    let Some(mut contract) = drafted_contract(&draft.text, path) else {
        print_error("the draft was not checked against its recording, because it does not parse");
        return;
    };
    contract.scope = args.looking.reading.scope();
    let mut check = Check::new(&contract);
    check.threads(threads(args.looking.threads)).opening(args.looking.reading.opened.opening());
    let mut ledger = Ledger::new();
    for recording in (0..).take(recordings.names.len()) {
        match recordings.again(recording) {
            Some(source) => ledger.add(check.recording(source, recording)),
            None => print_error(&format!(
                "the draft was not checked against {}, which can't be read again",
                RecordingNames(&recordings.names).recording(recording)
            )),
        }
    }
    ledger.conclude(&contract);
    draft.ask_about(&ledger, &contract, RecordingNames(&recordings.names));
}

/// The description's path as the contract is to name it: a contract's paths start at its own folder.
fn named_from(openapi: &Path, contract: Option<&Path>) -> String {
    let folder = contract.and_then(Path::parent).unwrap_or(Path::new(""));
    if let Ok(path) = openapi.strip_prefix(folder) {
        return path.display().to_string();
    }
    let real = |path: &Path| match path.as_os_str().is_empty() {
        true => std::fs::canonicalize("."),
        false => std::fs::canonicalize(path),
    };
    let relative = match (real(openapi), real(folder)) {
        (Ok(openapi), Ok(folder)) => relative(&openapi, &folder),
        _ => None,
    };
    relative.unwrap_or_else(|| openapi.to_owned()).display().to_string()
}

/// The way from a folder to a file, both from the root; `None` where they have no root in common.
fn relative(file: &Path, folder: &Path) -> Option<PathBuf> {
    let common = file.components().zip(folder.components()).take_while(|(a, b)| a == b).count();
    let up = folder.components().skip(common).map(|_| Component::ParentDir);
    let way: PathBuf = up.chain(file.components().skip(common)).collect();
    (common > 0).then_some(way)
}
