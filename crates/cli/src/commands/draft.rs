//! `fclerk draft`: a contract from recordings.

use std::path::{Component, Path, PathBuf};

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_contract::ErrorContract;
use faithful_clerk_insight::draft::{Draft, ServiceDescription, draft};
use faithful_clerk_model::address::RecordingNames;
use faithful_clerk_report::drafted;

use super::survey::surveyed_anywhere;
use crate::contracts::{description, drafted as drafted_contract};
use crate::exit::{Completion, Failure};
use crate::flags::{DraftArgs, OutputFormat};
use crate::output::{print_error, print_result, write_new};
use crate::recordings::{RecordingInputs, threads};

pub(crate) fn run(args: &DraftArgs) -> Result<Completion, Failure> {
    let mut contract = match &args.openapi {
        Some(path) => description(path)?,
        None => ErrorContract::default(),
    };
    let mut recordings =
        RecordingInputs::of(&args.looking.recordings, &args.looking.reading.opened)?;
    recordings.keep()?;
    let described = contract.servers.clone();
    let (found, is_elsewhere) = surveyed_anywhere(&mut recordings, &args.looking, &mut contract);
    let openapi = args.openapi.as_deref().map(|path| named_from(path, args.output.as_deref()));
    let servers = described.as_slice();
    let openapi = openapi.as_deref().map(|path| ServiceDescription { path, servers, is_elsewhere });
    let mut draft = draft(&found, RecordingNames(&recordings.names), openapi);
    ask_about_own_recording(&mut draft, args, &recordings);
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
    Ok(recordings.outcome(&found.unreadable, Completion::Kept, false))
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
