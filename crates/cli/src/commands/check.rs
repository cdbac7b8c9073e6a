//! `fclerk check`: recordings against a contract.

use std::path::Path;

use faithful_clerk_check::Check;
use faithful_clerk_insight::review::{contract_notices, disagreements, resolved_contract};
use faithful_clerk_recording::ReadOptions;
use faithful_clerk_report::contract as report;
use faithful_clerk_report::text::counted;

use crate::contracts::{LoadedContract, contract_if_any, contract_or_description, description};
use crate::exit::{Completion, Failure};
use crate::flags::{CheckArgs, OutputSettings, ReportFile, ReportFormat};
use crate::inputs::Input;
use crate::output::{print_result, print_unless_quiet};
use crate::prepared_check::PreparedCheck;
use crate::recordings::{RecordingInputs, threads};

pub(crate) fn run(args: &CheckArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    if args.contract_only
        && let Some(openapi) = &args.openapi
        && let Some(agreed) = contract_if_any(args.contract.as_deref(), settings.stderr)?
    {
        return compared_with(&agreed, openapi, settings);
    }
    if args.contract.is_some() && args.openapi.is_some() {
        let why = "--openapi stands in the place of --contract; a contract names its description with `openapi`, and with --contract-only the two are compared";
        return Err(Failure::Call(why.to_owned()));
    }
    let mut expected = contract_or_description(
        args.contract.as_deref(),
        args.openapi.as_deref(),
        settings.stderr,
    )?;
    if args.contract_only {
        print_unless_quiet(&summary(&expected), settings)?;
        let notices = contract_notices(&expected.contract);
        if !notices.is_empty() {
            print_unless_quiet(
                &format!("\n{}", report::notices(&notices, settings.stdout)),
                settings,
            )?;
        }
        if args.resolved {
            let resolved = resolved_contract(&expected.contract);
            print_result(&format!("\n{}", report::resolved(&resolved, settings.stdout)))?;
        }
        return Ok(Completion::Kept);
    }
    expected.contract.scope = args.reading.scope();
    if let Some(today) = args.today {
        expected.contract.set_today(today);
    }
    let contract = &expected.contract;
    let opening = ReadOptions { first: args.part.first, ..args.reading.opened.opening() };
    let mut check = Check::new(contract);
    check.threads(threads(args.threads)).opening(opening.clone());
    let writes_ledger = |report: &ReportFile| report.kind == ReportFormat::Ledger;
    if args.ledger || args.results.reports.files.iter().any(writes_ledger) {
        check.of_parts();
    }
    let mut recordings = RecordingInputs::of_some(&args.recordings, &args.reading.opened);
    recordings.name(&args.part)?;
    for of in &args.recorded_in {
        let at = u32::try_from(recordings.names.len()).unwrap_or(u32::MAX);
        recordings.add(Input::of(&of.recording));
        check.environment(at, &of.name);
    }
    if recordings.names.is_empty() {
        return Err(Failure::Said);
    }
    let reads = recordings.names.iter().map(Path::new).chain([expected.path.as_path()]);
    let reads = reads.chain(args.reading.opened.map_path());
    let prepared = PreparedCheck::of(&args.results, contract, &reads.collect::<Vec<_>>())?;
    let prepared = prepared.made(args);
    prepared.run((contract, &expected.name()), &check, recordings, &opening, settings)
}

/// Where the contract and a description disagree.
fn compared_with(
    agreed: &LoadedContract,
    openapi: &Path,
    settings: &OutputSettings,
) -> Result<Completion, Failure> {
    let described = description(openapi)?;
    let found = disagreements(&agreed.contract, &described);
    let names = (agreed.name(), openapi.display().to_string());
    print_unless_quiet(
        &report::disagreements(&found, (&names.0, &names.1), settings.stdout),
        settings,
    )?;
    Ok(if found.is_empty() { Completion::Kept } else { Completion::Broken })
}

/// What a contract has, once it and what it names were read without an error.
fn summary(read: &LoadedContract) -> String {
    let contract = &read.contract;
    let counts = [
        (contract.endpoints.len(), "endpoint"),
        (contract.faults.len(), "fault"),
        (contract.cases.len(), "case"),
        (contract.waivers.len(), "waiver"),
    ];
    let counts = counts.map(|(count, word)| counted(count as u64, word));
    format!("{}: no errors; {}\n", read.name(), counts.join(", "))
}
