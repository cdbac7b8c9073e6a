//! `fclerk check`: recordings against a contract.

use std::path::Path;

use faithful_clerk_check::Check;
use faithful_clerk_check::ledger::Ledger;
use faithful_clerk_insight::review::{contract_notices, disagreements, resolved_contract};
use faithful_clerk_report::CheckReport;
use faithful_clerk_report::contract as report;
use faithful_clerk_report::text::counted;

use crate::contracts::{LoadedContract, contract_if_any, contract_or_description, description};
use crate::exit::{Completion, Failure};
use crate::findings_log::{FindingsLog, spool};
use crate::finish::{FinishedCheck, PreparedGate};
use crate::flags::{CheckArgs, OutputSettings, ReportFormat};
use crate::inputs::Input;
use crate::output::{print_result, print_unless_quiet};
use crate::page_exchanges::exhibits;
use crate::recordings::{RecordingInputs, threads};
use crate::reports::ReportFiles;

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
    let contract = &expected.contract;
    let guard = PreparedGate::of(&args.gate, contract)?;
    let mut check = Check::new(contract);
    check.threads(threads(args.threads)).opening(args.reading.opened.opening());
    let mut recordings = RecordingInputs::of_some(&args.recordings, &args.reading.opened);
    for of in &args.recorded_in {
        let at = u32::try_from(recordings.names.len()).unwrap_or(u32::MAX);
        recordings.add(Input::of(&of.recording));
        check.environment(at, &of.name);
    }
    if recordings.names.is_empty() {
        return Err(Failure::Said);
    }
    let reads = recordings.names.iter().map(Path::new).chain([expected.path.as_path()]);
    let reads: Vec<&Path> = reads.chain(args.gate.baseline.as_deref()).collect();
    let reports = ReportFiles::open(&args.reports.files, &reads)?;
    if reports.has(ReportFormat::Html) {
        recordings.keep()?;
    }
    let mut ledger = Ledger::new();
    let mut log = reports.has(ReportFormat::Findings).then(FindingsLog::new);
    recordings.each(|source, recording| match &mut log {
        Some(Ok(kept)) => {
            let (sum, observed) = check.recording_with(source, recording, spool);
            ledger.add(sum);
            if let Err(error) = kept.add(observed) {
                log = Some(Err(error));
            }
        }
        Some(Err(_)) | None => ledger.add(check.recording(source, recording)),
    });
    let log = log.transpose().map_err(Failure::Output)?;
    let names = recordings.names.clone();
    let concluding = FinishedCheck {
        contract,
        contract_path: &expected.name(),
        recordings: &names,
        format: args.format,
        grid_rows: args.reports.grid_rows(),
        guard: &guard,
        settings,
    };
    let opening = args.reading.opened.opening();
    let lay_out = |report: &CheckReport<'_>| exhibits(report, &recordings, opening);
    let (ledger, found) = concluding.conclude(ledger, log, reports, lay_out)?;
    Ok(recordings.outcome(&ledger.unreadable, found, guard.allows_unread()))
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
