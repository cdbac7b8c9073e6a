//! `fclerk merge`: ledgers of several checks or surveys, added up.

use std::path::Path;

use faithful_clerk_check::ledger::{LedgerHead, RestoredLedger};
use faithful_clerk_insight::survey::{SURVEY_LEDGER, SurveyLedger};
use faithful_clerk_model::address::RecordingNames;

use crate::contracts::contract;
use crate::exit::{Completion, Failure};
use crate::finish::{FinishedCheck, PreparedGate, failed};
use crate::flags::{MergeArgs, OutputSettings, ReportFile, ReportFormat};
use crate::inputs::FileKind;
use crate::ledger_sum::{SumRules, sum_of_checks, sum_of_surveys};
use crate::ledgers::LedgerInputs;
use crate::recordings::outcome_of_ledgers;
use crate::reports::ReportFiles;

use super::survey::{concluded, print_survey};

pub(crate) fn run(args: &MergeArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let ledgers = LedgerInputs::of(&args.ledgers)?;
    let rules = SumRules {
        expected: args.expect,
        allows_duplicates: args.allow_duplicates,
        has_waivers: false,
    };
    if ledgers.kind() == Some(FileKind::SurveyLedger) {
        return surveys(args, &ledgers, rules, settings);
    }
    let mut expected = contract(args.contract.as_deref(), settings.stderr)?;
    let has_waivers = !expected.contract.waivers.is_empty();
    let sources = SumRules { has_waivers, ..rules }
        .sources(&ledgers, |text| RestoredLedger::sources(text, &expected.contract))?;
    // Waivers are those of the day on which the parts were checked.
    if let Ok(day) = sources.origin.today.parse() {
        expected.contract.set_today(day);
    }
    let contract = &expected.contract;
    let guard = PreparedGate::of(&args.results.gate, contract)?;
    let reads = ledgers.paths().chain([expected.path.as_path()]);
    let reads: Vec<&Path> = reads.chain(args.results.gate.baseline.as_deref()).collect();
    let reports = ReportFiles::open(&args.results.reports.files, &reads)?;
    if reports.has(ReportFormat::Findings) {
        return Err(Failure::Call(
            "ledgers do not hold every address; --report findings=FILE belongs to `fclerk check`"
                .to_owned(),
        ));
    }
    let sum = sum_of_checks(&ledgers, contract, &sources.recordings)?;
    let concluding = FinishedCheck {
        contract,
        contract_path: &expected.name(),
        sources: &sources,
        format: args.results.format,
        is_ledger: args.ledger,
        grid_rows: args.results.reports.grid_rows(),
        guard: &guard,
        settings,
    };
    // The recordings are on other machines: a page of this has no exchanges laid out.
    let (ledger, found) = concluding.conclude(sum, None, reports, |_| Ok(Vec::new()))?;
    let names = RecordingNames(&sources.recordings);
    let allows_unread = args.ledger || guard.allows_unread();
    Ok(outcome_of_ledgers(&ledger.unreadable, names, found, allows_unread))
}

/// The sum of surveys, which needs no contract: endpoints are in the ledgers.
fn surveys(
    args: &MergeArgs,
    ledgers: &LedgerInputs,
    rules: SumRules,
    settings: &OutputSettings,
) -> Result<Completion, Failure> {
    let results = &args.results;
    if args.contract.is_some() || results.gate.is_of_checks() || results.reports.all_rows {
        let why = "these are ledgers of surveys: --contract, --all-rows, and what decides whether a check passes belong to ledgers of checks";
        return Err(Failure::Call(why.to_owned()));
    }
    let is_of_surveys = |file: &&ReportFile| !ReportFormat::OTHERS.contains(&file.kind);
    if let Some(file) = results.reports.files.iter().find(is_of_surveys) {
        let kind = file.kind.name();
        return Err(Failure::Call(format!("a survey has no report {kind}; it is one of a check")));
    }
    let reports = ReportFiles::open(&results.reports.files, &ledgers.paths().collect::<Vec<_>>())?;
    let mut contract = None;
    let sources = rules.sources(ledgers, |text| {
        let head = LedgerHead::read(text, SURVEY_LEDGER)?;
        SurveyLedger::sources(text, contract.get_or_insert(head.contract))
    })?;
    let sum = sum_of_surveys(ledgers, &sources.recordings)?;
    if args.ledger {
        let text = sum.save(&contract.unwrap_or_default(), &sources).map_err(failed)?;
        reports.print(&text, true, settings)?;
        return Ok(Completion::Kept);
    }
    let (found, _) = concluded(sum);
    let names = RecordingNames(&sources.recordings);
    print_survey(&found, names, results.format, reports, settings)?;
    let allows_unread = results.gate.allow_unreadable;
    Ok(outcome_of_ledgers(&found.unreadable, names, Completion::Kept, allows_unread))
}
